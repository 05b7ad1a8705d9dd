import pMap from 'p-map';
import { nameKey } from '#core/naming/names';
import { ArchiveError, sentenceOf } from '#core/errors';
import type { House } from '../house/house';
import { isAlive } from '../house/processes';
import { syncFolder } from '../files/disk';
import {
  parkFile,
  recoverRewrite,
  refuseHandsOff,
  moveFile,
  isSettled,
  isWaiting,
  settleFile,
  spotPath,
  unparkFile,
  type Grounds,
  type Spot,
} from '../files/door';
import { filesOf } from '../files/located';
import { joinPath } from '../files/paths';
import { enqueue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/attempt';
import { resumeFolders } from '../places/folders';
import { settleCopies } from './copies';
import { settleFolders } from './settleFolders';
import { groundOf, presentPlace, type Places } from './ground';
import { groupsOf, markFailed } from './steps';
import { Storing, type Moved } from './storing';

const CHUNK = 1000;

interface OpenStep extends Moved {
  /** Where its row says it lies. */
  current: Spot;
}

async function openSteps(house: House, operationId: string): Promise<[OpenStep[], Places]> {
  const places = await groundOf(house.db);
  const rows = await house.db
    .selectFrom('operationStep as s')
    .innerJoin('file as f', 'f.id', 's.fileId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('operation as o', 'o.id', 's.operationId')
    .select(['s.operationId', 's.position', 's.before', 's.after', 'o.begun'])
    .select(['f.id as fileId', 'f.itemId', 'f.role', 'f.placeId', 'f.inode', 'f.name'])
    .select(['f.contentHash', 'd.path as folder'])
    .where('s.operationId', '=', operationId)
    .where('s.state', 'in', ['planned', 'doing'])
    .where('s.action', 'in', ['rename', 'move'])
    .orderBy('s.position')
    .execute();
  // What is not told stays: of a rename the folder, of most moves the place.
  const spot = (row: (typeof rows)[number], told: Record<string, unknown>): Spot => {
    const placeId = String(told['placeId'] ?? row.placeId);
    const root = places.get(placeId)?.root ?? '';
    const folder = String(told['folder'] ?? row.folder);
    return { placeId, root, folder, name: String(told['name'] ?? row.name) };
  };
  const steps = rows.map((row): OpenStep => {
    const { operationId, position, fileId, itemId, role, inode, contentHash } = row;
    const isFirst = position >= row.begun;
    const [current, from, to] = [spot(row, {}), spot(row, row.before), spot(row, row.after)];
    return {
      operationId,
      position,
      fileId,
      itemId,
      role,
      inode,
      contentHash,
      isFirst,
      current,
      from,
      to,
    };
  });
  return [steps, places];
}

const isSame = (a: Spot, b: Spot): boolean => spotPath(a) === spotPath(b);

/**
 * What did not go well stays as it was. @returns its file as it lies then, where its old name is another's by now
 */
async function failStep(house: House, step: OpenStep, error: unknown): Promise<Moved | null> {
  const name = await unparkFile(step).catch((problem: unknown) => {
    house.log.error({ step: step.position, error: sentenceOf(problem) }, 'file stays parked');
    return step.from.name;
  });
  const isApart = name !== step.from.name;
  const why = isApart
    ? new ArchiveError('conflict', `${sentenceOf(error)} It is called “${name}” now.`)
    : error;
  await markFailed(house.db, step, why);
  return isApart ? { ...step, to: { ...step.from, name } } : null;
}

/** The file must be the one the step was written for, in places that may be written to. */
function refuseStep({ current, from, to, isFirst }: OpenStep, places: Places): void {
  for (const { placeId } of [from, to]) refuseHandsOff(presentPlace(places, placeId));
  if (!isSame(current, from) && isFirst)
    throw new ArchiveError(
      'conflict',
      current.name === from.name
        ? `The file lies in “${joinPath(places.get(current.placeId)!.place, current.folder)}” by now.`
        : `The file is called “${current.name}” by now.`,
    );
}

/**
 * Whether it is there is found when it is moved; of a step that was cut off it is found here: another file under the new
 * name is not its own.
 */
async function checkStep(step: OpenStep, places: Places): Promise<void> {
  refuseStep(step, places);
  if (!step.isFirst && !(await isWaiting(step)) && !(await isSettled(step)))
    throw new ArchiveError('not-found', `“${step.from.name}” is not there any more.`);
}

/** Nothing of it has to be looked at on the disk before it is moved. */
function isPlain(step: OpenStep, places: Places): boolean {
  try {
    refuseStep(step, places);
    return step.isFirst;
  } catch {
    return false;
  }
}

async function inChunks(
  steps: OpenStep[],
  run: (chunk: OpenStep[], grounds: Grounds) => Promise<void>,
): Promise<void> {
  for (let at = 0; at < steps.length; at += CHUNK)
    await run(steps.slice(at, at + CHUNK), new Map());
}

/**
 * Steps before this one are begun: told once for many of them, before any is. What was begun before a cut stays so,
 * however far the next try has got.
 */
const setBegun = (house: House, operationId: string, begun: number) =>
  house.db
    .updateTable('operation')
    .set(({ fn, val }) => ({ begun: fn<number>('greatest', ['begun', val(begun)]) }))
    .where('id', '=', operationId)
    .execute();

/** Files of different items at once: most of the time is spent waiting for the disk. */
const AT_ONCE = 4;

/**
 * Apply one half of the steps, those of one item one after the other. @returns those that went well
 * @param apart takes in files that got names nobody asked for
 */
async function each(
  house: House,
  steps: OpenStep[],
  apart: Moved[],
  act: (step: OpenStep) => Promise<void>,
): Promise<OpenStep[]> {
  const failed = new Set<OpenStep>();
  await pMap(
    groupsOf(steps),
    async (group) => {
      for (const step of group)
        try {
          await act(step);
        } catch (error) {
          failed.add(step);
          const lies = await failStep(house, step, error);
          if (lies) apart.push(lies);
        }
    },
    { concurrency: AT_ONCE },
  );
  return steps.filter((step) => !failed.has(step));
}

const isSameFolder = ({ from, to }: OpenStep): boolean =>
  from.placeId === to.placeId && from.folder === to.folder;

/** What belongs to a file goes to another folder with it or not at all; originals come first among those of an item. */
function together(): (act: (step: OpenStep) => Promise<void>) => (step: OpenStep) => Promise<void> {
  const stay = new Set<string>();
  return (act) => async (step) => {
    if (!isSameFolder(step) && stay.has(step.itemId))
      throw new ArchiveError('conflict', 'The file it belongs to stays where it is.');
    try {
      await act(step);
    } catch (error) {
      if (step.role === 'original') stay.add(step.itemId);
      throw error;
    }
  };
}

/**
 * Steps whose new name is still an old one, another's or, on disks that ignore case and composition, their own, and
 * those whose old name another waits for: these go by way of a parked name, whichever comes first.
 */
function tradesPlaces(steps: OpenStep[]): (step: OpenStep) => boolean {
  const held = new Set(steps.map(({ from }) => nameKey(spotPath(from))));
  const wished = new Set(steps.map(({ to }) => nameKey(spotPath(to))));
  const trading = new Set(
    steps.filter(
      ({ from, to }) => held.has(nameKey(spotPath(to))) || wished.has(nameKey(spotPath(from))),
    ),
  );
  return (step) => trading.has(step);
}

/** A resumed step may have its file under the new name already. */
const isDone = async (step: OpenStep): Promise<boolean> => !step.isFirst && (await isSettled(step));

/** Job: carry out the steps of a rename or a move. Killed and run again, it goes on where it stopped. */
export async function runOperation(house: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  await house.db
    .updateTable('operation')
    .set({ state: 'doing' })
    .where('id', '=', operationId)
    .execute();
  const [open, places] = await openSteps(house, operationId);
  const total = job.total || open.length;
  const trades = tradesPlaces(open);
  const withIts = together();
  const ready: OpenStep[] = [];
  const apart: Moved[] = [];
  await inChunks(open, async (chunk, grounds) => {
    await setBegun(house, operationId, chunk.at(-1)!.position + 1);
    const check = withIts(async (step) => {
      await checkStep(step, places);
      if (trades(step) && !(await isDone(step))) await parkFile(step, grounds);
    });
    const plain = new Set(chunk.filter((step) => !trades(step) && isPlain(step, places)));
    const others = chunk.filter((step) => !plain.has(step));
    const well = new Set(await each(house, others, apart, check));
    ready.push(...chunk.filter((step) => plain.has(step) || well.has(step)));
  });
  const folders = new Set<string>();
  const settleAll = async (store: (settled: OpenStep[]) => void): Promise<void> => {
    let count = total - open.length;
    await inChunks(ready, async (chunk, grounds) => {
      const settle = withIts((step) =>
        trades(step) ? settleFile(step, grounds) : moveFile(step, grounds),
      );
      const settled = await each(house, chunk, apart, settle);
      for (const { from, to } of settled)
        folders.add(joinPath(from.root, from.folder)).add(joinPath(to.root, to.folder));
      store(settled);
      count += settled.length;
      await progress.report(count, total, 'names');
    });
    for (const folder of folders) await syncFolder(folder);
  };
  const storeAll = async (storing: Storing, stored: Promise<void>): Promise<void> => {
    await stored;
    await storing.names(apart);
    await storing.finish();
  };
  if (open.some(({ from, to }) => from.placeId !== to.placeId)) {
    // Copies to another disk may take hours: nobody is kept waiting for rows meanwhile.
    const settled: OpenStep[] = [];
    await settleAll((some) => settled.push(...some));
    await house.db.transaction().execute((db) => {
      const storing = new Storing(house, db);
      return storeAll(storing, storing.names(settled));
    });
  } else
    await house.db.transaction().execute(async (db) => {
      const storing = new Storing(house, db);
      let stored: Promise<void> = Promise.resolve();
      await settleAll((some) => {
        stored = stored.then(() => storing.names(some));
        // What goes wrong there is heard below.
        stored.catch(() => undefined);
      });
      await storeAll(storing, stored);
    });
  await settleCopies(house, operationId, places, progress);
  await settleFolders(house, operationId, places);
  await house.db
    .updateTable('operation')
    .set({ state: 'done', finishedAt: house.now() })
    .where('id', '=', operationId)
    .execute();
}

/** Whether the worker that began a rewrite still lives; on another host nobody here can tell, so it does. */
function isAtWork(begun: Record<string, unknown>, hostname: string): boolean {
  return begun['host'] !== hostname || isAlive(Number(begun['pid']));
}

/** At start: settle rewrites and folders a crash cut off, and put unfinished renames and moves back into the queue. */
export async function resumeOperations(house: House): Promise<void> {
  await resumeFolders(house.db);
  const cut = await house.db
    .selectFrom('operation as o')
    .innerJoin('operationStep as s', 's.operationId', 'o.id')
    .select(['o.id', 's.fileId', 's.itemId', 's.before', 's.after'])
    .where('o.kind', '=', 'rewrite')
    .where('o.state', '=', 'doing')
    .execute();
  for (const operation of cut) {
    if (isAtWork(operation.before, house.settings.hostname)) continue;
    const files = await filesOf(house.db, [operation.itemId!]);
    const file = files.find((candidate) => candidate.id === operation.fileId);
    if (file) await recoverRewrite(house, file, operation.id, operation.after);
  }
  const renames = await house.db
    .selectFrom('operation as o')
    .select(['o.id', 'o.total'])
    .where('o.kind', 'in', ['rename', 'filing', 'waste'])
    .where('o.state', 'in', ['planned', 'doing'])
    .where((where) =>
      where.not(
        where.exists(
          where
            .selectFrom('job as j')
            .select('j.id')
            .whereRef('j.operationId', '=', 'o.id')
            .where('j.state', 'in', ['waiting', 'running']),
        ),
      ),
    )
    .execute();
  await enqueue(
    house.db,
    renames.map(({ id, total }) => ({
      task: 'operation',
      title: 'Going on with names and folders',
      subject: id,
      operationId: id,
      total,
      unit: 'names',
    })),
  );
}
