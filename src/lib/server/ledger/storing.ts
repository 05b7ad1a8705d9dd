import { letGoAt } from '../sight/seen';
import { sql, type Transaction } from 'kysely';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { burstsOf, settleBursts } from '../lists/stores/bursts';
import type { Database } from '../db/schema';
import { factsOf } from '../files/disk';
import { spotPath, type MoveStep } from '../files/door';
import { takeNames } from '../files/rows';
import type { House } from '../house/house';
import { notifyItems } from '../live/notify';
import { ensureFolders, folderKey } from '../places/folderRows';
import { followWords } from '../records/records';

/** A file that has its new name on disk. */
export interface Moved extends MoveStep {
  itemId: string;
  role: string;
}

/**
 * New names of files in one transaction: within it names may trade places, and everybody sees all of them at once. What
 * is stored first may be stored while the next files are still being moved.
 */
export class Storing {
  readonly #folders = new Map<string, string>();
  readonly #moved: Moved[] = [];

  constructor(
    readonly house: House,
    readonly db: Transaction<Database>,
    readonly by: { actorId: string | null; operationId: string },
  ) {}

  #folderOf({ to }: Moved): string {
    return this.#folders.get(folderKey({ placeId: to.placeId, path: to.folder }))!;
  }

  async names(steps: readonly Moved[]): Promise<void> {
    if (steps.length === 0) return;
    const { db } = this;
    const wished = steps.map(({ to }) => ({ placeId: to.placeId, path: to.folder }));
    const unknown = wished.filter((one) => !this.#folders.has(folderKey(one)));
    for (const [key, id] of await ensureFolders(db, unknown)) this.#folders.set(key, id);
    await sql`update file set name = given.name, folder_id = given.folder_id, place_id = given.place_id
      from (select unnest(${steps.map((step) => step.fileId)}::uuid[]) as id,
        unnest(${steps.map((step) => this.#folderOf(step))}::uuid[]) as folder_id,
        unnest(${steps.map(({ to }) => to.placeId)}::uuid[]) as place_id,
        unnest(${steps.map(({ to }) => to.name)}::text[]) as name) given
      where file.id = given.id`.execute(db);
    await this.#facts(steps);
    this.#moved.push(...steps);
  }

  /** On another disk a file is another one to the system: what it is known by there. */
  async #facts(steps: readonly Moved[]): Promise<void> {
    for (const step of steps) {
      if (step.from.placeId === step.to.placeId) continue;
      const facts = await factsOf(spotPath(step.to));
      if (facts)
        await this.db
          .updateTable('file')
          .set({ inode: facts.ino, modifiedNs: facts.mtimeNs })
          .where('id', '=', step.fileId)
          .execute();
    }
  }

  /** What follows once all of them are stored. */
  async finish(): Promise<void> {
    const { db } = this;
    const moved = this.#moved;
    if (moved.length === 0) return;
    await takeNames(
      db,
      moved.map((step) => ({ folderId: this.#folderOf(step), name: step.to.name })),
      moved.map(({ fileId }) => fileId),
    );
    await this.#letGoAndGiveBack();
    // Those that did not go well were marked so before.
    await sql`update operation_step set state = 'done' where operation_id = ${this.by.operationId}::uuid
      and position = any(${moved.map(({ position }) => position)}::int[])
      and state in ('planned', 'doing')`.execute(db);
    const ids = itemsOf(moved);
    await followWords(db, ids, this.by);
    await notifyItems(db, ids);
  }

  /** An item is held as long as its original does not lie in the wastebasket. */
  async #letGoAndGiveBack(): Promise<void> {
    const { db, house } = this;
    const originals = (test: (step: Moved) => boolean): string[] =>
      this.#moved
        .filter((step) => step.role === 'original' && test(step))
        .map((step) => step.itemId);
    const gone = originals(({ to }) => to.folder === WASTEBASKET);
    const back = originals(({ from }) => from.folder === WASTEBASKET);
    await letGoAt(db, 'item', gone, house.now());
    await letGoAt(db, 'item', back, null);
    const changed = [...gone, ...back];
    if (changed.length === 0) return;
    await settleBursts(db, await burstsOf(db, changed));
    // What they are to others has changed with them.
    await sql`insert into change_log (kind, subject)
      select 'item', of_id from lineage where item_id = any(${changed}::uuid[])
      union select 'item', item_id from lineage where of_id = any(${changed}::uuid[])`.execute(db);
  }
}

const itemsOf = (steps: readonly Moved[]): string[] => [
  ...new Set(steps.map(({ itemId }) => itemId)),
];
