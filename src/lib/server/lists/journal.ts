import { isDeepStrictEqual } from 'node:util';
import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { kindOf, type Entries, type ListKey } from '#core/entries/registry';
import type { DeedName } from '#core/deeds/kinds';
import type { Database } from '../db/schema';
import { wholly } from '../db/wholly';
import { newId } from '../house/ids';
import { howFar } from '../jobs/reporting';
import { notify, notifyItems } from '../live/notify';
import { followItems, storeSteps, type RecordStep } from '../records/records';
import { lockRecords } from '../records/store';
import { storeOf } from './stores';
import type { Store } from './stores/store';

type Tx = Transaction<Database>;

/** An entry of a list as it is and as it is to be; null: there is none. */
export interface EntryChange {
  list: ListKey;
  id: string;
  before: object | null;
  after: object | null;
}

export interface ListChange {
  summary: string;
  entries: EntryChange[];
  /** Records that change with them; of what is put on the list by this, said once it is there. */
  records?: RecordStep[] | ((transaction: Tx) => Promise<RecordStep[]>);
  undoes?: string | null;
}

/** Lists are changed by one at a time. */
const LOCK = 'lists';

/** Entries of a list by id. */
export const readEntries = <L extends ListKey>(
  db: Kysely<Database>,
  list: L,
  ids: readonly string[],
): Promise<Map<string, Entries[L]>> => storeOf(list).read(db, ids);

/** @throws ArchiveError not-found */
export async function entryOf<L extends ListKey>(
  db: Kysely<Database>,
  list: L,
  id: string,
): Promise<Entries[L]> {
  const entry = (await readEntries(db, list, [id])).get(id);
  if (!entry) throw new ArchiveError('not-found', 'It is on the list no more; look at it again.');
  return entry;
}

/** Whether an entry is as the ledger told it: what entries got since, an older release did not tell. */
export const isStill = (now: object | null, told: object | null): boolean =>
  now && told
    ? Object.entries(told).every(([key, value]) =>
        isDeepStrictEqual((now as Record<string, unknown>)[key], value),
      )
    : now === told;

/** @throws ArchiveError conflict where it is not as it was seen */
export function refuseStale<L extends ListKey>(
  list: L,
  now: Entries[L] | null,
  seen: Entries[L] | null | undefined,
): void {
  if (seen === undefined || isDeepStrictEqual(now, seen)) return;
  throw new ArchiveError(
    'conflict',
    `“${kindOf(list).name((now ?? seen)!)}” was changed by someone else meanwhile; look at it again.`,
  );
}

/** Items that say something of these entries which is said otherwise from now on. */
async function itemsSaying(db: Tx, changes: EntryChange[]): Promise<string[]> {
  const found: string[] = [];
  for (const list of new Set(changes.map((change) => change.list))) {
    const [{ said }, { saying }] = [kindOf(list), storeOf(list)];
    if (!said || !saying) continue;
    const ids = changes
      .filter(
        ({ list: own, before, after }) =>
          own === list && !isDeepStrictEqual(before && said(before), after && said(after)),
      )
      .map(({ id }) => id);
    if (ids.length === 0) continue;
    const { rows } = await sql<{ id: string }>`${saying(ids)}`.execute(db);
    found.push(...rows.map(({ id }) => id));
  }
  return [...new Set(found)];
}

/** Items that one statement touches. */
const AT_ONCE = 5000;

/** Their files are behind their records now, whatever they came from. */
async function touchItems(
  db: Tx,
  ids: string[],
  { actorId, operationId, from }: { actorId: string | null; operationId: string; from: number },
): Promise<void> {
  const mark = { source: 'person', by: actorId, at: new Date().toISOString() };
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    await howFar(at, ids.length);
    await sql`update item set version = version + 1, provenance = provenance
      || case when stage_id is null then '{}' else jsonb_build_object('stage', ${JSON.stringify(mark)}::jsonb) end
      || jsonb_build_object('terms', ${JSON.stringify(mark)}::jsonb)
    where id = any(${ids.slice(at, at + AT_ONCE)}::uuid[])`.execute(db);
  }
  await sql`insert into operation_step (operation_id, position, action, item_id, before, after, state)
    select ${operationId}::uuid, ${from}::int + at - 1, 'record', id, '{}', '{}', 'done'
    from unnest(${ids}::uuid[]) with ordinality as touched (id, at)`.execute(db);
}

async function storeEntries(
  db: Tx,
  entries: EntryChange[],
  which: 'put' | 'drop',
  by: string | null,
): Promise<void> {
  const lists = new Set(entries.map(({ list }) => list));
  for (const list of lists) {
    const own = entries.filter((entry) => entry.list === list);
    const store = storeOf(list) as Store<object>;
    const put = own.flatMap(({ id, after }) => (after ? [[id, after] as const] : []));
    const drop = own.filter(({ after }) => !after).map(({ id }) => id);
    if (which === 'put' && put.length > 0) await store.put(db, new Map(put), by);
    if (which === 'drop' && drop.length > 0) await store.drop(db, drop);
  }
}

async function noteEntries(db: Tx, operationId: string, entries: EntryChange[]): Promise<void> {
  const rows = entries.map(({ list, id, before, after }, position) => ({
    position,
    item: kindOf(list).itemOf?.(id) ?? null,
    before: { list, id, entry: before },
    after: { list, id, entry: after },
  }));
  await sql`insert into operation_step (operation_id, position, action, item_id, before, after, state)
    select ${operationId}::uuid, position, 'entry', item, before, after, 'done'
    from json_to_recordset(${JSON.stringify(rows)}::json)
      as row(position integer, item uuid, before jsonb, after jsonb)`.execute(db);
}

/** What the database sees is a clash, whatever index or reference saw it. */
function refuseClash(error: unknown): never {
  const { code, detail } = error as { code?: string; detail?: string };
  if (code === '23503')
    throw new ArchiveError('conflict', 'What this speaks of is not there any more.');
  if (code !== '23505') throw error;
  const name = /=\((.*)\)/.exec(detail ?? '')?.[1] ?? 'It';
  throw new ArchiveError('conflict', `“${name}” is on the list already.`);
}

/**
 * Change the archive's lists, and records with them, in one operation: entries are put first, then records stored, then
 * entries dropped; the files of all items that say something of them follow.
 * @param plan reads what is there, and says what is to be; nothing: null
 * @throws ArchiveError conflict where a name is taken
 */
export async function changeLists(
  db: Kysely<Database>,
  actorId: string | null,
  plan: (transaction: Tx) => Promise<ListChange | null>,
): Promise<{ operationId: string; items: number } | null> {
  return wholly(db, async (transaction) => {
    await sql`select pg_advisory_xact_lock(hashtext(${LOCK}))`.execute(transaction);
    const change = await plan(transaction);
    const entries = (change?.entries ?? []).filter(
      ({ before, after }) => !isDeepStrictEqual(before, after),
    );
    if (!change || (entries.length === 0 && !hasRecords(change))) return null;
    return applyChange(transaction, actorId, { ...change, entries }).catch(refuseClash);
  });
}

const hasRecords = ({ records = [] }: ListChange): boolean =>
  typeof records === 'function' || records.length > 0;

/** What it is of: the lists, where they changed; else what its first entry is of. */
function deedOf(entries: EntryChange[]): DeedName {
  const deeds = entries.map(({ list }) => kindOf(list).deed);
  return deeds.includes('lists') ? 'lists' : (deeds[0] ?? 'lists');
}

/** Windows learn what changed; of items, which. */
async function tell(db: Tx, entries: EntryChange[]): Promise<void> {
  for (const about of new Set(entries.flatMap(({ list }) => kindOf(list).about)))
    if (about !== 'items') await notify(db, { about });
  const items = entries.filter(({ list }) => kindOf(list).about.includes('items'));
  const named = items.flatMap(({ list, id, before, after }) => [
    kindOf(list).itemOf?.(id) ?? null,
    ...(kindOf(list).alsoAbout?.((after ?? before)!) ?? []),
  ]);
  if (items.length > 0)
    await notifyItems(
      db,
      named.includes(null) ? 'many' : named.filter((id) => id !== null),
      items.flatMap(({ list }) => kindOf(list).fields ?? []),
    );
}

async function applyChange(
  db: Tx,
  actorId: string | null,
  { summary, entries, records: said = [], undoes = null }: ListChange,
): Promise<{ operationId: string; items: number }> {
  const operationId = newId();
  const saying = await itemsSaying(db, entries);
  await storeEntries(db, entries, 'put', actorId);
  const records = typeof said === 'function' ? await said(db) : said;
  const own = new Set(records.map(({ itemId }) => itemId));
  const touched = [...new Set([...saying, ...(await itemsSaying(db, entries))])].filter(
    (id) => !own.has(id),
  );
  await lockRecords(db, [...touched, ...own]);
  const total = entries.length + records.length + touched.length;
  const state = { state: 'done', finishedAt: new Date() } as const;
  await db
    .insertInto('operation')
    .values({ id: operationId, kind: deedOf(entries), summary, actorId, undoes, total, ...state })
    .execute();
  await noteEntries(db, operationId, entries);
  if (records.length > 0)
    await storeSteps(db, actorId, records, { operationId, from: entries.length });
  if (touched.length > 0)
    await touchItems(db, touched, {
      actorId,
      operationId,
      from: entries.length + records.length,
    });
  await storeEntries(db, entries, 'drop', actorId);
  const fields = [...records.flatMap(({ keys }) => keys), 'stage', 'terms'];
  await followItems(db, [...own, ...touched], { actorId, operationId }, fields);
  await tell(db, entries);
  return { operationId, items: own.size + touched.length };
}

/** Take an entry off. @throws ArchiveError not-found with a sentence where it is not there */
export async function dropEntry<L extends ListKey>(
  db: Kysely<Database>,
  actorId: string | null,
  { list, id }: { list: L; id: string },
  { gone, summary }: { gone: string; summary: (entry: Entries[L]) => string },
): Promise<void> {
  await changeLists(db, actorId, async (transaction) => {
    const before = (await readEntries(transaction, list, [id])).get(id);
    if (!before) throw new ArchiveError('not-found', gone);
    return { summary: summary(before), entries: [{ list, id, before, after: null }] };
  });
}
