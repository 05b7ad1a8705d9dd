import { sql } from 'kysely';
import pMap from 'p-map';
import { nameKey } from '#core/naming/names';
import { ArchiveError, sentenceOf } from '#core/errors';
import { inColumns } from '../db/columns';
import type { House } from '../house/house';
import { isAlive } from '../house/processes';
import { syncFolder } from '../files/disk';
import {
  diskOf,
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
import { moveMany, type MovesAsked } from '../files/mover';
import { isPlainPath, joinPath } from '../files/paths';
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

const COLUMNS = [
  ...(['position', 'before', 'after', 'begun', 'fileId', 'itemId', 'role', 'placeId'] as const),
  ...(['inode', 'name', 'contentHash', 'folder'] as const),
] as const;

async function openSteps(house: House, operationId: string): Promise<[OpenStep[], Places]> {
  const places = await groundOf(house.db);
  const query = house.db
    .selectFrom('operationStep as s')
    .innerJoin('file as f', 'f.id', 's.fileId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('operation as o', 'o.id', 's.operationId')
    .select(['s.position', 's.before', 's.after', 'o.begun'])
    .select(['f.id as fileId', 'f.itemId', 'f.role', 'f.placeId', 'f.name', 'f.contentHash'])
    .select([sql<string>`f.inode::text`.as('inode'), 'd.path as folder'])
    .where('s.operationId', '=', operationId)
    .where('s.state', 'in', ['planned', 'doing'])
    .where('s.action', 'in', ['rename', 'move'])
    .orderBy('s.position');
  const columns = await inColumns(house.db, query, COLUMNS);
  const spot = (placeId: string, folder: string, name: string): Spot => ({
    placeId,
    root: places.get(placeId)?.root ?? '',
    folder,
    name,
  });
  const steps = columns.position.map((position, at): OpenStep => {
    const [placeId, folder] = [columns.placeId[at]!, columns.folder[at]!];
    const name = columns.name[at]!;
    // What is not told stays: of a rename the folder, of most moves the place.
    const told = (side: Record<string, unknown>): Spot =>
      spot(
        String(side['placeId'] ?? placeId),
        String(side['folder'] ?? folder),
        String(side['name'] ?? name),
      );
    return {
      operationId,
      position,
      fileId: columns.fileId[at]!,
      itemId: columns.itemId[at]!,
      role: columns.role[at]!,
      inode: columns.inode[at]!,
      contentHash: columns.contentHash[at]!,
      isFirst: position >= columns.begun[at]!,
      current: spot(placeId, folder, name),
      from: told(columns.before[at]!),
      to: told(columns.after[at]!),
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

/** After so long a folder is looked at again: it may be another's by then. */
const GROUNDS_MS = 500;

/** What belongs to one item is in one chunk. */
async function inChunks(
  steps: OpenStep[],
  run: (chunk: OpenStep[], grounds: Grounds) => Promise<void>,
): Promise<void> {
  let grounds: Grounds = new Map();
  let looked = performance.now();
  for (let from = 0, to: number; from < steps.length; from = to) {
    to = Math.min(from + CHUNK, steps.length);
    while (to < steps.length && steps[to]!.itemId === steps[to - 1]!.itemId) to += 1;
    if (performance.now() - looked > GROUNDS_MS) [grounds, looked] = [new Map(), performance.now()];
    await run(steps.slice(from, to), grounds);
  }
}

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

/**
 * Moves that meet nothing unusual, many at once. @returns those that were moved; the others, and all that belongs to
 * them, have to be looked at
 */
async function moveQuickly(
  groups: readonly (readonly OpenStep[])[],
  grounds: Grounds,
): Promise<Set<OpenStep>> {
  const isOnOneDisk = async ({ from, to }: OpenStep): Promise<boolean> => {
    try {
      return (await diskOf(from, grounds, false)) === (await diskOf(to, grounds, true));
    } catch {
      // Whoever looks at each says what is wrong.
      return false;
    }
  };
  const able: OpenStep[] = [];
  const asked: MovesAsked = { from: [], to: [], groups: [] };
  for (const [number, group] of groups.entries()) {
    const paths = group.map(({ from, to }) => [spotPath(from), spotPath(to)] as const);
    if (!paths.flat().every(isPlainPath)) continue;
    if (!(await Promise.all(group.map(isOnOneDisk))).every(Boolean)) continue;
    for (const [at, step] of group.entries()) {
      able.push(step);
      asked.from.push(paths[at]![0]);
      asked.to.push(paths[at]![1]);
      asked.groups.push(number);
    }
  }
  const left = new Set(await moveMany(asked));
  return new Set(able.filter((_, at) => !left.has(at)));
}

const isSameFolder = ({ from, to }: OpenStep): boolean =>
  from.placeId === to.placeId && from.folder === to.folder;

/** What belongs to a file goes to another folder with it or not at all; originals come first among those of an item. */
function together() {
  const stay = new Set<string>();
  const withIts = (act: (step: OpenStep) => Promise<void>) => async (step: OpenStep) => {
    if (!isSameFolder(step) && stay.has(step.itemId))
      throw new ArchiveError('conflict', 'The file it belongs to stays where it is.');
    try {
      await act(step);
    } catch (error) {
      if (step.role === 'original') stay.add(step.itemId);
      throw error;
    }
  };
  return { withIts, stays: ({ itemId }: OpenStep): boolean => stay.has(itemId) };
}

/**
 * Steps whose new name is still an old one, another's or, on disks that ignore case and composition, their own, and
 * those whose old name another waits for: these go by way of a parked name, whichever comes first.
 */
function tradesPlaces(steps: OpenStep[]): (step: OpenStep) => boolean {
  const from = steps.map((step) => nameKey(spotPath(step.from)));
  const to = steps.map((step) => nameKey(spotPath(step.to)));
  const [held, wished] = [new Set(from), new Set(to)];
  const trading = new Set(steps.filter((_, at) => held.has(to[at]!) || wished.has(from[at]!)));
  return (step) => trading.has(step);
}

/** A resumed step may have its file under the new name already. */
const isDone = async (step: OpenStep): Promise<boolean> => !step.isFirst && (await isSettled(step));

/** Job: carry out the steps of a rename or a move. Killed and run again, it goes on where it stopped. */
export async function runOperation(house: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  const by = { actorId: job.createdBy, operationId };
  const [open, places] = await openSteps(house, operationId);
  // All of them are begun, told once before any is: whoever goes on after a cut has to look at each.
  const begun = (open.at(-1)?.position ?? -1) + 1;
  await house.db
    .updateTable('operation')
    .set(({ fn, val }) => ({
      state: 'doing',
      begun: fn<number>('greatest', ['begun', val(begun)]),
    }))
    .where('id', '=', operationId)
    .execute();
  const total = job.total || open.length;
  const trades = tradesPlaces(open);
  const { withIts, stays } = together();
  const ready: OpenStep[] = [];
  const apart: Moved[] = [];
  await inChunks(open, async (chunk, grounds) => {
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
      const isPlainHere = (step: OpenStep): boolean =>
        step.isFirst && !trades(step) && !stays(step);
      const plain = groupsOf(chunk).filter((group) => group.every(isPlainHere));
      const quick = await moveQuickly(plain, grounds);
      const slow = chunk.filter((step) => !quick.has(step));
      const well = new Set(await each(house, slow, apart, settle));
      const settled = chunk.filter((step) => quick.has(step) || well.has(step));
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
      const storing = new Storing(house, db, by);
      return storeAll(storing, storing.names(settled));
    });
  } else
    await house.db.transaction().execute(async (db) => {
      const storing = new Storing(house, db, by);
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
