import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { TermEntry } from '#core/lists/entries';
import type { Viewer } from '#core/sight/viewer';
import { EVERYTHING, refTo, type Query } from '#core/query/tree';
import {
  exchanged,
  plannedImport,
  refuseCircle,
  tidied,
  type ExchangeForm,
  type TermChange,
} from '#core/terms/exchange';
import { counted } from '#core/text/quantities';
import { likeText } from '#core/text/like';
import { apart, runApart } from '../apart/apart';
import { findIds } from '../catalogue/find';
import { sums } from '../catalogue/reading';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { readRecords, type RecordStep } from '../records/records';
import {
  changeLists,
  entryOf,
  readEntries,
  refuseStale,
  type EntryChange,
  type ListChange,
} from './journal';
import { storeOf } from './stores';
import { speakOfOther, timesSpoken } from './kept';
import type { readThesaurus, writtenThesaurus } from './skos';
import { isHeld, isLetGo } from '../sight/seen';

type Db = Kysely<Database>;
type Tx = Transaction<Database>;

/** A term in the tree of the thesaurus. */
export interface ListedTerm {
  id: string;
  label: string;
  /** What it is found by where that is not its label. */
  by: string | null;
  retired: boolean;
  narrower: number;
  /** Items given it or a narrower one. */
  items: number;
}

/** Terms of a branch that are told at once; the rest is found by letters. */
export const MOST_LISTED = 1000;

async function withItems(
  house: House,
  viewer: Viewer,
  rows: Omit<ListedTerm, 'items'>[],
): Promise<ListedTerm[]> {
  const counts = await sums(
    house,
    viewer,
    'terms',
    rows.map(({ id }) => id),
  );
  return rows.map((row) => ({ ...row, items: counts[row.id] ?? 0 }));
}

const NARROWER = sql<number>`(select count(*)::int from term_broader n where n.broader_id = t.id)`;

/** Terms right under one, or under none, in the order of their labels. */
export async function termsUnder(
  house: House,
  viewer: Viewer,
  under: string | null,
): Promise<{ terms: ListedTerm[]; total: number }> {
  const where = under
    ? sql`exists (select from term_broader b where b.term_id = t.id and b.broader_id = ${under}::uuid)`
    : sql`not exists (select from term_broader b where b.term_id = t.id)`;
  const { rows } = await sql<Omit<ListedTerm, 'items'> & { total: number }>`
    select t.id, t.label, null as by, t.retired, ${NARROWER} as narrower, count(*) over ()::int as total
    from term t where ${where} order by lower(t.label) limit ${MOST_LISTED}`.execute(house.db);
  const total = rows[0]?.total ?? 0;
  const terms = rows.map(({ id, label, by, retired, narrower }) => ({
    id,
    label,
    by,
    retired,
    narrower,
  }));
  return { terms: await withItems(house, viewer, terms), total };
}

const MOST_FOUND = 200;
/** Terms by letters of any label, those that begin with them first. */
export async function termsWith(
  house: House,
  viewer: Viewer,
  typed: string,
): Promise<ListedTerm[]> {
  const like = `%${likeText(typed.toLowerCase())}%`;
  const { rows } = await sql<Omit<ListedTerm, 'items'>>`
    select t.id, t.label, min(named.by) as by, t.retired, ${NARROWER} as narrower from (
      select id, null as by, label from term where lower(label) like ${like}
      union all select term_id, label, label from term_label where lower(label) like ${like}
    ) named join term t on t.id = named.id group by t.id
    order by min(position(${typed.toLowerCase()} in lower(named.label))), lower(t.label) limit ${MOST_FOUND}`.execute(
    house.db,
  );
  return withItems(house, viewer, rows);
}

/** A term with the names of what it hangs together with. */
export interface TermCard {
  id: string;
  entry: TermEntry;
  /** By id, of broader and related ones. */
  names: Record<string, string>;
  /** Items it was given itself. */
  given: number;
  /** Items given it or a narrower one. */
  items: number;
  narrower: { id: string; label: string }[];
  /** Standing collections that ask for it. */
  spoken: number;
}

const MOST_NARROWER = 500;

/** @throws ArchiveError not-found */
export async function termCard(house: House, viewer: Viewer, id: string): Promise<TermCard> {
  const entry = await entryOf(house.db, 'term', id);
  const others = [...entry.broader, ...entry.related];
  const named = await house.db
    .selectFrom('term')
    .select(['id', 'label'])
    .where('id', '=', sql<string>`any(${others}::uuid[])`)
    .execute();
  const narrower = await house.db
    .selectFrom('termBroader as b')
    .innerJoin('term as t', 't.id', 'b.termId')
    .select(['t.id', 't.label'])
    .where('b.broaderId', '=', id)
    .orderBy(sql`lower(t.label)`)
    .limit(MOST_NARROWER)
    .execute();
  const { given } = await house.db
    .selectFrom('itemTerm as it')
    .innerJoin('item as i', 'i.id', 'it.itemId')
    .select(sql<number>`count(*)::int`.as('given'))
    .where('it.termId', '=', id)
    .where(isHeld('i'))
    .executeTakeFirstOrThrow();
  return {
    id,
    entry,
    given,
    narrower,
    names: Object.fromEntries(named.map((one) => [one.id, one.label])),
    items: (await sums(house, viewer, 'terms', [id]))[id] ?? 0,
    spoken: await house.db.transaction().execute((tx) => timesSpoken(tx, id)),
  };
}

/** What refuses circles: how all terms hang together. */
async function allEntries(db: Tx | Db): Promise<Map<string, TermEntry>> {
  const rows = await db.selectFrom('term').select('id').execute();
  return readEntries(
    db,
    'term',
    rows.map(({ id }) => id),
  );
}

/** Broader terms of all, as far as circles need them. */
async function waysUp(db: Tx): Promise<Map<string, Pick<TermEntry, 'label' | 'broader'>>> {
  const { rows } = await sql<{ id: string; label: string; broader: string[] }>`
    select t.id, t.label, array(select b.broader_id::text from term_broader b where b.term_id = t.id) as broader
    from term t`.execute(db);
  return new Map(rows.map(({ id, ...entry }) => [id, entry]));
}

/** A term that is called otherwise is still found by what it was called: files may say so. */
function withFormer(before: TermEntry | null, wish: TermEntry): TermEntry {
  if (!before || before.label === wish.label) return tidied(wish);
  const isTold = wish.labels.some(({ label, lang }) => label === before.label && lang === '');
  const former = { kind: 'hidden', lang: '', label: before.label } as const;
  const isCase = before.label.toLowerCase() === wish.label.toLowerCase();
  return tidied({ ...wish, labels: isTold || isCase ? wish.labels : [...wish.labels, former] });
}

function termSummary(before: TermEntry | null, after: TermEntry): string {
  if (!before) return `Made the term “${after.label}”`;
  if (before.label !== after.label) return `Renamed the term “${before.label}” to “${after.label}”`;
  if (before.retired !== after.retired)
    return `${after.retired ? 'Retired' : 'Took back'} the term “${after.label}”`;
  if (String(before.broader) !== String(after.broader)) return `Moved the term “${after.label}”`;
  return `Changed the term “${after.label}”`;
}

/**
 * Make a term, or change one: records, files and words of all items that have it or a narrower one follow.
 * @throws ArchiveError conflict, value-refused, not-found
 */
export const saveTerm = (
  db: Db,
  actorId: string | null,
  id: string | null,
  wish: TermEntry,
  seen?: TermEntry,
) => {
  const own = id ?? newId();
  return changeLists(db, actorId, async (transaction) => {
    const before = id ? await entryOf(transaction, 'term', id) : null;
    refuseStale('term', before, seen);
    const after = withFormer(before, wish);
    const ways = await waysUp(transaction);
    refuseCircle(new Map([...ways, [own, after]]));
    return {
      summary: termSummary(before, after),
      entries: [{ list: 'term', id: own, before, after }],
    };
  }).then((done) => ({ id: own, done }));
};

/** Live items given some terms, as steps that give them others instead. */
async function regiven(
  db: Tx,
  ids: readonly string[],
  change: (terms: string[]) => string[],
): Promise<RecordStep[]> {
  const rows = await db
    .selectFrom('itemTerm as it')
    .innerJoin('item as i', 'i.id', 'it.itemId')
    .select('i.id')
    .distinct()
    .where('it.termId', '=', sql<string>`any(${[...ids]}::uuid[])`)
    .where(isHeld('i'))
    .execute();
  return restated(
    db,
    rows.map(({ id }) => id),
    change,
  );
}

async function restated(
  db: Tx,
  itemIds: string[],
  change: (terms: string[]) => string[],
): Promise<RecordStep[]> {
  return (await readRecords(db, itemIds)).map(({ id, values }) => ({
    itemId: id,
    before: values,
    after: { ...values, terms: [...new Set(change(values.terms))].sort() },
    keys: ['terms'],
  }));
}

/** Entries that stood under, or were related to, terms that go; they name another instead. */
async function rehung(db: Tx, ids: readonly string[], into: string | null): Promise<EntryChange[]> {
  const { rows } = await sql<{ id: string }>`
    select term_id as id from term_broader where broader_id = any(${[...ids]}::uuid[])
    union select term_id from term_related where related_id = any(${[...ids]}::uuid[])
    union select related_id from term_related where term_id = any(${[...ids]}::uuid[])`.execute(db);
  const others = rows.map(({ id }) => id).filter((id) => !ids.includes(id) && id !== into);
  const other = (list: string[], own: string): string[] =>
    list
      .map((id) => (into && ids.includes(id) ? into : id))
      .filter((id) => !ids.includes(id) && id !== own);
  return [...(await readEntries(db, 'term', others))].map(([id, before]) => ({
    list: 'term',
    id,
    before,
    after: tidied({
      ...before,
      broader: other(before.broader, id),
      related: other(before.related, id),
    }),
  }));
}

/** How much hangs on some terms: on items, theirs and those of narrower ones; counted no further than many. */
export async function itemsUnder(db: Db, ids: readonly string[]): Promise<number> {
  const { rows } = await sql<{ count: number }>`select count(*)::int as count from (
    ${storeOf('term').saying!(ids)} limit ${MOST_COUNTED}) as i`.execute(db);
  return rows[0]!.count;
}
const MOST_COUNTED = 10_000;

/** Terms become one: their labels are what it is also known as, what stood under them stands under it. */
export const mergeTerms = (db: Db, actorId: string | null, from: readonly string[], into: string) =>
  changeLists(db, actorId, async (transaction): Promise<ListChange> => {
    if (from.includes(into))
      throw new ArchiveError('value-refused', 'A term is not merged into itself.');
    const kept = await entryOf(transaction, 'term', into);
    const gone = await readEntries(transaction, 'term', from);
    if (gone.size !== new Set(from).size)
      throw new ArchiveError('not-found', 'One of them is no term any more.');
    const all = [...gone.values()];
    const without = (ids: string[]): string[] =>
      ids.filter((id) => !from.includes(id) && id !== into);
    const labels = all.flatMap((entry) => [
      { kind: 'also' as const, lang: '', label: entry.label },
      ...entry.labels.map((one) => ({
        ...one,
        kind: one.kind === 'hidden' ? one.kind : ('also' as const),
      })),
    ]);
    const after = tidied({
      ...kept,
      labels: [...kept.labels, ...labels],
      broader: without([...kept.broader, ...all.flatMap(({ broader }) => broader)]),
      related: without([...kept.related, ...all.flatMap(({ related }) => related)]),
      note: kept.note || (all.find(({ note }) => note)?.note ?? ''),
    });
    const hung = await rehung(transaction, from, into);
    const ways = await waysUp(transaction);
    for (const id of from) ways.delete(id);
    for (const { id, after: entry } of [...hung, { id: into, after }])
      ways.set(id, entry as TermEntry);
    refuseCircle(ways);
    const names = new Set(all.map(({ label }) => label));
    const records = await regiven(transaction, from, (terms) =>
      terms.map((term) => (names.has(term) ? kept.label : term)),
    );
    await sql`insert into item_term (item_id, term_id)
      select distinct it.item_id, ${into}::uuid from item_term it join item i on i.id = it.item_id
      where it.term_id = any(${[...from]}::uuid[]) and ${isLetGo('i')} on conflict do nothing`.execute(
      transaction,
    );
    return {
      summary: `Merged ${all
        .map(({ label }) => `“${label}”`)
        .join(', ')
        .slice(0, 300)} into “${kept.label}”`,
      entries: [
        { list: 'term', id: into, before: kept, after },
        ...hung,
        ...(await speakOfOther(transaction, from, into)),
        ...[...gone].map(([id, before]): EntryChange => ({
          list: 'term',
          id,
          before,
          after: null,
        })),
      ],
      records,
    };
  });

/**
 * Part a term: a new one beside it takes over those of its items that a query finds.
 * @throws ArchiveError value-refused where it finds none of them
 */
export const splitTerm = (
  db: Db,
  actorId: string | null,
  id: string,
  { label, query }: { label: string; query: Query },
  viewer: Viewer,
) => {
  const own = newId();
  return changeLists(db, actorId, async (transaction) => {
    const before = await entryOf(transaction, 'term', id);
    const both: Query = {
      ...EVERYTHING,
      where: [...query.where, { field: 'terms', test: 'is', values: [refTo(id)] }],
    };
    const found = await findIds(transaction as unknown as Db, viewer, both);
    const records = (
      await restated(transaction, found, (terms) => [
        ...terms.filter((term) => term !== before.label),
        label,
      ])
    ).filter(({ before: was }) => was.terms.includes(before.label));
    if (records.length === 0)
      throw new ArchiveError(
        'value-refused',
        `No item that was given “${before.label}” itself is found by this.`,
      );
    const after: TermEntry = {
      label,
      labels: [],
      broader: before.broader,
      related: [],
      note: '',
      retired: false,
    };
    return {
      summary: `Parted “${label}” from “${before.label}” for ${counted(records.length, 'item')}`,
      entries: [{ list: 'term', id: own, before: null, after }],
      records,
    };
  }).then((done) => ({ id: own, done }));
};

/**
 * Take terms off the list that no item has; what stands under them moves up.
 * @throws ArchiveError conflict
 */
export const dropTerm = (db: Db, actorId: string | null, id: string) =>
  changeLists(db, actorId, async (transaction) => {
    const before = await entryOf(transaction, 'term', id);
    const { items } = await transaction
      .selectFrom('itemTerm')
      .select(sql<number>`count(*)::int`.as('items'))
      .where('termId', '=', id)
      .executeTakeFirstOrThrow();
    const spoken = await timesSpoken(transaction, id);
    if (items + spoken > 0)
      throw new ArchiveError(
        'conflict',
        `${items > 0 ? `${counted(items, 'item')} ${items === 1 ? 'has' : 'have'} it` : 'A standing collection asks for it'}: retire it, or merge it into another.`,
      );
    const hung = (await rehung(transaction, [id], null)).map((change): EntryChange => {
      const was = change.before as TermEntry;
      const is = change.after as TermEntry;
      const up = was.broader.includes(id) ? before.broader : [];
      return { ...change, after: tidied({ ...is, broader: [...is.broader, ...up] }) };
    });
    return {
      summary: `Took the term “${before.label}” off the list`,
      entries: [...hung, { list: 'term', id, before, after: null }],
    };
  });

const reading = apart<typeof readThesaurus>('lists/skos', 'readThesaurus');
const writing = apart<typeof writtenThesaurus>('lists/skos', 'writtenThesaurus');
const READING_SECONDS = 60;

/** The thesaurus as a file. */
export async function exportedThesaurus(db: Db, form: ExchangeForm): Promise<string> {
  const terms = exchanged(await allEntries(db));
  return runApart(writing, { terms, form }, READING_SECONDS);
}

/** What a file would change, and does where it is to. */
export async function importThesaurus(
  db: Db,
  actorId: string | null,
  {
    text,
    form,
    mode,
    dry,
  }: { text: string; form: ExchangeForm; mode: 'add' | 'replace'; dry: boolean },
): Promise<{ changes: TermChange[]; given: number; operation: string | null }> {
  const given = await runApart(reading, { text, form }, READING_SECONDS);
  const plan = async (on: Tx | Db): Promise<TermChange[]> =>
    plannedImport(await allEntries(on), given, mode, newId);
  if (dry) return { changes: await plan(db), given: given.length, operation: null };
  let changes: TermChange[] = [];
  const done = await changeLists(db, actorId, async (transaction) => {
    changes = await plan(transaction);
    return {
      summary: `Took ${counted(changes.length, 'term')} from a file into the thesaurus`,
      entries: changes.map((change) => ({ list: 'term', ...change })),
    };
  });
  return { changes, given: given.length, operation: done?.operationId ?? null };
}
