import type { Viewer } from '#core/sight/viewer';
import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { StageEntry } from '#core/lists/entries';
import { MOST_STAGES, TAKEN_KEYS, type Stage } from '#core/stages/stages';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { readRecords, type RecordStep } from '../records/records';
import { changeLists, entryOf, readEntries, refuseStale, type EntryChange } from './journal';
import { speakOfOther, timesSpoken } from './kept';
import { isHeld, isLetGo, seenBy } from '../sight/seen';

type Db = Kysely<Database>;
type Tx = Transaction<Database>;

/** A stage as its page shows it. */
export type ListedStage = Stage & StageEntry & { items: number };

/** Every stage in its order, with how many items are at it. */
export async function listedStages(db: Db, viewer: Viewer): Promise<ListedStage[]> {
  const rows = await db
    .selectFrom('stage as s')
    .selectAll('s')
    .select(
      sql<number>`(select count(*)::int from item i where i.stage_id = s.id and ${seenBy(viewer, 'list', 'i')})`.as(
        'items',
      ),
    )
    .orderBy('s.position')
    .execute();
  return rows;
}

async function refuseUnusable(db: Tx, id: string, entry: StageEntry): Promise<void> {
  const others = (await db.selectFrom('stage').selectAll().execute()).filter(
    (one) => one.id !== id,
  );
  const inUse = others.filter(({ retired }) => !retired);
  if (!entry.retired && inUse.length >= MOST_STAGES)
    throw new ArchiveError(
      'value-refused',
      `${MOST_STAGES} stages are in use already; retire or merge one first.`,
    );
  const key = entry.key;
  if (key && TAKEN_KEYS[key])
    throw new ArchiveError('value-refused', `${key.toUpperCase()} means ${TAKEN_KEYS[key]}.`);
  const holder = others.find((one) => key !== null && one.key === key);
  if (holder)
    throw new ArchiveError(
      'conflict',
      `${key!.toUpperCase()} gives “${holder.name}” already; choose another key.`,
    );
}

/** Names it was called by before: files and steps of the ledger may say them still. */
const formerNames = (before: StageEntry | null, after: StageEntry): string[] =>
  [...new Set([...(before?.formerly ?? []), ...(before ? [before.name] : [])])].filter(
    (name) => name.toLowerCase() !== after.name.toLowerCase(),
  );

export type StageWish = Pick<StageEntry, 'name' | 'shape' | 'colour' | 'key' | 'retired'>;

/**
 * Make a stage, or change one: what it is called changes in records, files and kept queries with it.
 * @throws ArchiveError conflict, value-refused, not-found
 */
export const saveStage = (
  db: Db,
  actorId: string | null,
  id: string | null,
  wish: StageWish,
  seen?: StageEntry,
) =>
  changeLists(db, actorId, async (transaction) => {
    const own = id ?? newId();
    const before = id ? await entryOf(transaction, 'stage', id) : null;
    refuseStale('stage', before, seen);
    const { last } = await transaction
      .selectFrom('stage')
      .select(sql<number>`coalesce(max(position), -1)::int`.as('last'))
      .executeTakeFirstOrThrow();
    const after: StageEntry = {
      ...wish,
      key: wish.retired ? null : wish.key,
      position: before?.position ?? last + 1,
      formerly: [],
    };
    after.formerly = formerNames(before, after);
    await refuseUnusable(transaction, own, after);
    return {
      summary: stageSummary(before, after),
      entries: [{ list: 'stage', id: own, before, after }],
    };
  });

function stageSummary(before: StageEntry | null, after: StageEntry): string {
  if (!before) return `Made the stage “${after.name}”`;
  if (before.name !== after.name) return `Renamed the stage “${before.name}” to “${after.name}”`;
  if (before.retired !== after.retired)
    return `${after.retired ? 'Retired' : 'Took back'} the stage “${after.name}”`;
  return `Changed the stage “${after.name}”`;
}

/** The order in which stages are offered and sorted. @throws ArchiveError conflict where it names others than there are */
export const orderStages = (db: Db, actorId: string | null, ids: readonly string[]) =>
  changeLists(db, actorId, async (transaction) => {
    const all = await transaction.selectFrom('stage').select('id').execute();
    if (all.length !== ids.length || !all.every(({ id }) => ids.includes(id)))
      throw new ArchiveError('conflict', 'The stages changed meanwhile; look at them again.');
    const now = await readEntries(transaction, 'stage', ids);
    const entries = ids.map((id, position): EntryChange => {
      const before = now.get(id)!;
      return { list: 'stage', id, before, after: { ...before, position } };
    });
    return { summary: 'Put the stages into another order', entries };
  });

/** Steps that put all items of a stage at another one. */
async function movedItems(db: Tx, from: string, into: StageEntry): Promise<RecordStep[]> {
  const rows = await db
    .selectFrom('item')
    .select('id')
    .where('stageId', '=', from)
    .where(isHeld('item'))
    .execute();
  const records = await readRecords(
    db,
    rows.map(({ id }) => id),
  );
  return records.map(({ id, values }) => ({
    itemId: id,
    before: values,
    after: { ...values, stage: into.name },
    keys: ['stage'],
  }));
}

/** One stage becomes another: records, files and kept queries follow. */
export const mergeStages = (db: Db, actorId: string | null, from: string, into: string) =>
  changeLists(db, actorId, async (transaction) => {
    if (from === into)
      throw new ArchiveError('value-refused', 'A stage is not merged into itself.');
    const [gone, kept] = [
      await entryOf(transaction, 'stage', from),
      await entryOf(transaction, 'stage', into),
    ];
    const records = await movedItems(transaction, from, kept);
    // What lies in the wastebasket has no record to change: it only must not hold on to what goes.
    await transaction
      .updateTable('item')
      .set({ stageId: into })
      .where('stageId', '=', from)
      .where(isLetGo('item'))
      .execute();
    const formerly = [...new Set([...kept.formerly, gone.name, ...gone.formerly])];
    return {
      summary: `Merged the stage “${gone.name}” into “${kept.name}”`,
      entries: [
        { list: 'stage', id: into, before: kept, after: { ...kept, formerly } },
        ...(await speakOfOther(transaction, [from], into)),
        { list: 'stage', id: from, before: gone, after: null },
      ],
      records,
    };
  });

/** Take a stage off the list that nothing is at. @throws ArchiveError conflict */
export const dropStage = (db: Db, actorId: string | null, id: string) =>
  changeLists(db, actorId, async (transaction) => {
    const before = await entryOf(transaction, 'stage', id);
    const { items } = await transaction
      .selectFrom('item')
      .select(sql<number>`count(*)::int`.as('items'))
      .where('stageId', '=', id)
      .executeTakeFirstOrThrow();
    const spoken = await timesSpoken(transaction, id);
    if (items + spoken > 0)
      throw new ArchiveError(
        'conflict',
        `${items > 0 ? `${counted(items, 'item')} are at it` : 'A standing collection asks for it'}: retire it, or merge it into another.`,
      );
    return {
      summary: `Took the stage “${before.name}” off the list`,
      entries: [{ list: 'stage', id, before, after: null }],
    };
  });
