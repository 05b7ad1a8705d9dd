import { sql } from 'kysely';
import pMap from 'p-map';
import { nameKey } from '#core/naming/names';
import { ArchiveError, sentenceOf } from '#core/errors';
import { inColumns } from '../db/columns';
import { syncFolder } from '../files/disk';
import {
  isSettled,
  isWaiting,
  moveFile,
  parkFile,
  refuseHandsOff,
  settleFile,
  spotPath,
  unparkFile,
  type Spot,
} from '../files/door';
import { Disks } from '../files/disks';
import { moveMany, type MovesAsked } from '../files/mover';
import { isPlainPath, joinPath } from '../files/paths';
import type { House } from '../house/house';
import { presentPlace, type Places } from './ground';
import { groupsOf, markFailed } from './steps';
import type { Stopping } from './stopping';
import type { Moved } from './storing';

/** A step of an operation that is to be carried out, or was begun and cut off. */
export interface OpenStep extends Moved {
  /** Where its row says it lies. */
  current: Spot;
}

const COLUMNS = [
  ...(['position', 'before', 'after', 'begun', 'fileId', 'itemId', 'role', 'placeId'] as const),
  ...(['inode', 'name', 'contentHash', 'folder'] as const),
] as const;

export async function openSteps(
  house: House,
  operationId: string,
  places: Places,
): Promise<OpenStep[]> {
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
  return columns.position.map((position, at): OpenStep => {
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
}

const isSame = (a: Spot, b: Spot): boolean => spotPath(a) === spotPath(b);

/**
 * What did not go well stays as it was. @returns its file as it lies then, where its old name is another's by now
 */
export async function failStep(
  house: House,
  step: OpenStep,
  error: unknown,
): Promise<Moved | null> {
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

/** Files of different items at once: most of the time is spent waiting for the disk. */
const AT_ONCE = 4;

/**
 * Moves that meet nothing unusual, many at once. @returns those that were moved; the others, and all that belongs to
 * them, have to be looked at
 */
async function moveQuickly(
  groups: readonly (readonly OpenStep[])[],
  disks: Disks,
): Promise<Set<OpenStep>> {
  const isOnOneDisk = async ({ from, to }: OpenStep): Promise<boolean> => {
    try {
      return (await disks.of(from, false)) === (await disks.of(to, true));
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

/**
 * Steps whose new name is still an old one, another's or, on disks that ignore case and composition, their own, and
 * those whose old name another waits for: these go by way of a parked name, whichever comes first.
 */
function tradesPlaces(steps: readonly OpenStep[]): (step: OpenStep) => boolean {
  const from = steps.map((step) => nameKey(spotPath(step.from)));
  const to = steps.map((step) => nameKey(spotPath(step.to)));
  const [held, wished] = [new Set(from), new Set(to)];
  const trading = new Set(steps.filter((_, at) => held.has(to[at]!) || wished.has(from[at]!)));
  return (step) => trading.has(step);
}

/** A resumed step may have its file under the new name already. */
const isDone = async (step: OpenStep): Promise<boolean> => !step.isFirst && (await isSettled(step));

/** Steps that are carried out, settled or left together. */
const CHUNK = 1000;
/** Of copies to another disk each takes its time. */
const CHUNK_AWAY = 16;

/** Chunks in which what belongs to one item is together. */
function* chunksOf(steps: readonly OpenStep[], size: number): Generator<OpenStep[]> {
  for (let from = 0, to: number; from < steps.length; from = to) {
    to = Math.min(from + size, steps.length);
    while (to < steps.length && steps[to]!.itemId === steps[to - 1]!.itemId) to += 1;
    yield steps.slice(from, to);
  }
}

const isSameFolder = ({ from, to }: OpenStep): boolean =>
  from.placeId === to.placeId && from.folder === to.folder;

/** The files of an operation on their way to their new names. */
export class Moving {
  /** Files that got names nobody asked for. */
  readonly apart: Moved[] = [];
  /** Some go to another disk: copied, read back, and only then taken away. */
  readonly isAway: boolean;
  /** Items that trade names: all of them are parked before any gets its new one. */
  readonly #trading: OpenStep[];
  readonly #others: OpenStep[];
  readonly #trades: (step: OpenStep) => boolean;
  /** Items of which the original stays. */
  readonly #stay = new Set<string>();
  #folders = new Set<string>();
  readonly #disks: Disks;
  #begun = 0;

  constructor(
    readonly house: House,
    readonly places: Places,
    readonly steps: readonly OpenStep[],
  ) {
    this.#disks = new Disks(places.values());
    this.isAway = steps.some(({ from, to }) => from.placeId !== to.placeId);
    this.#trades = tradesPlaces(steps);
    const items = new Set(steps.filter(this.#trades).map(({ itemId }) => itemId));
    this.#trading = steps.filter(({ itemId }) => items.has(itemId));
    this.#others = steps.filter(({ itemId }) => !items.has(itemId));
  }

  /**
   * Carry all of it out, as far as nobody wishes it to stop; what was begun before is settled in any case, and so is
   * what trades places. @returns chunk after chunk those that went well
   */
  async *carryOut(stopping: Stopping): AsyncGenerator<OpenStep[]> {
    if (this.#trading.length > 0) {
      await this.#begin(this.#trading);
      const ready = await this.#each(this.#trading, async (step) => {
        await checkStep(step, this.places);
        if (this.#trades(step) && !(await isDone(step))) await parkFile(step, this.#disks);
      });
      yield this.#changed(await this.#each(ready, (step) => this.#settle(step)));
    }
    for (const chunk of chunksOf(this.#others, this.isAway ? CHUNK_AWAY : CHUNK)) {
      const due = (await stopping.isWished()) ? chunk.filter(({ isFirst }) => !isFirst) : chunk;
      if (due.length === 0) continue;
      await this.#begin(due);
      const plain = groupsOf(due).filter((group) => group.every((step) => this.#isPlain(step)));
      const quick = await moveQuickly(plain, this.#disks);
      const well = new Set(
        await this.#each(
          due.filter((step) => !quick.has(step)),
          async (step) => {
            await checkStep(step, this.places);
            await this.#settle(step);
          },
        ),
      );
      yield this.#changed(due.filter((step) => quick.has(step) || well.has(step)));
    }
  }

  /** Make names last through a power cut. */
  async sync(): Promise<void> {
    const folders = this.#folders;
    this.#folders = new Set();
    for (const folder of folders)
      await syncFolder(folder).catch((error: NodeJS.ErrnoException) => {
        // One that is gone meanwhile has no names that could last.
        if (error.code !== 'ENOENT') throw error;
      });
  }

  /**
   * Steps up to these are begun, which is told before any is: whoever goes on after a cut has to look at each of them.
   * What was begun before a cut stays so, however far the next try has got.
   */
  async #begin(steps: readonly OpenStep[]): Promise<void> {
    const begun = steps.at(-1)!.position + 1;
    if (begun <= this.#begun) return;
    this.#begun = begun;
    await this.house.db
      .updateTable('operation')
      .set(({ fn, val }) => ({ begun: fn<number>('greatest', ['begun', val(begun)]) }))
      .where('id', '=', steps[0]!.operationId)
      .execute();
  }

  /** Nothing of it has to be looked at by itself. */
  #isPlain(step: OpenStep): boolean {
    try {
      refuseStep(step, this.places);
      return step.isFirst;
    } catch {
      return false;
    }
  }

  #settle(step: OpenStep): Promise<void> {
    return (this.#trades(step) ? settleFile : moveFile)(step, this.#disks);
  }

  #changed(settled: OpenStep[]): OpenStep[] {
    for (const { from, to } of settled)
      this.#folders.add(joinPath(from.root, from.folder)).add(joinPath(to.root, to.folder));
    return settled;
  }

  /**
   * Act on steps, those of one item one after the other: what belongs to a file goes to another folder with it or not at
   * all, and originals come first. @returns those that went well
   */
  async #each(
    steps: readonly OpenStep[],
    act: (step: OpenStep) => Promise<void>,
  ): Promise<OpenStep[]> {
    const failed = new Set<OpenStep>();
    const actOn = async (step: OpenStep): Promise<void> => {
      try {
        if (!isSameFolder(step) && this.#stay.has(step.itemId))
          throw new ArchiveError('conflict', 'The file it belongs to stays where it is.');
        await act(step);
      } catch (error) {
        if (step.role === 'original') this.#stay.add(step.itemId);
        failed.add(step);
        const lies = await failStep(this.house, step, error);
        if (lies) this.apart.push(lies);
      }
    };
    await pMap(
      groupsOf(steps),
      async (group) => {
        for (const step of group) await actOn(step);
      },
      { concurrency: AT_ONCE },
    );
    return steps.filter((step) => !failed.has(step));
  }
}
