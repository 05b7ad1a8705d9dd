import { sql, type Kysely } from 'kysely';
import type { Pool } from 'pg';
import type { Field } from '#core/fields/field';
import type { ByType } from '#core/fields/types';
import { ALL_FIELDS } from '#core/fields/registry';
import { keepingOf, type Row, type ShelfIndex } from '#core/index/shelfIndex';
import { tileAspect } from '#core/wall/justify';
import type { Database } from '../db/schema';
import { isHeld } from '../sight/seen';
import type { Names } from './names';
import { FROM, intervalOf, isSaid, valueOf, type Expression } from '../query/expressions';

type Db = Kysely<Database>;

/** Fields whose values come from tables of their own. */
const APART = new Set(['terms', 'collection']);
/** Fields that lie in JSON are taken from it here: a hundred thousand rows come in a second, not in ten. */
const jsonOf = ({ store }: Field): 'record' | 'technical' | null =>
  'json' in store ? store.json : null;
const COLUMNS = ALL_FIELDS.filter((field) => !APART.has(field.key) && !jsonOf(field));
/** Items in one statement. */
const STRETCH = 25_000;
/** Items whose state alone is read in one statement. */
const STATES = 100_000;
/** Items whose lists lie over the arrays while everything is read. */
const MOST_UNSETTLED = 100_000;
const MOST_ASPECT = 65_535;

const ms = (value: Expression): Expression => sql`(extract(epoch from ${value}) * 1000)::float8`;

/** What SQL gives of a field for the index. */
function columnOf(field: Field): Expression {
  return keepingOf(field) === 'said' ? isSaid(field) : GIVEN[field.type](field);
}

const text = (field: Field): Expression =>
  field.many ? valueOf(field) : sql`(${valueOf(field)})::text`;
const GIVEN: ByType<(field: Field) => Expression> = {
  text,
  'long-text': text,
  names: text,
  number: (field) => sql`(${valueOf(field)})::float8`,
  enum: text,
  'yes-no': valueOf,
  date(field) {
    const { from, to } = intervalOf(field);
    return sql`case when ${from} is null then null else array[${ms(from)}, ${ms(to)}] end`;
  },
  ref: text,
  folder: text,
  position: () =>
    sql`case when i.latitude is null or i.longitude is null then null else array[i.latitude, i.longitude] end`,
  languages: text,
  colour: text,
  words: () => sql`(select tsvector_to_array(w.words) from item_words w where w.item_id = i.id)`,
};

const DAY = sql`case when i.taken_from is null then '' when i.taken_edtf ~ '^[0-9]{4}-[0-9]{2}-[0-9]{2}'
  then to_char(i.taken_from, 'YYYY-MM-DD') else i.taken_edtf end`;

interface ReadRow {
  ord: number;
  id: string;
  numberKey: number;
  clip: number;
  ratio: number | null;
  day: string;
  there: boolean;
  own: unknown[];
  json: Record<'record' | 'technical', Record<string, unknown>>;
}

/** A value of JSON as SQL would give it: of the field's own shape, or nothing. */
function valueIn(field: Field, json: Record<string, unknown>): unknown {
  const value = json[field.key];
  if (field.many) return Array.isArray(value) ? value.map(String) : [];
  if (field.type === 'number') return typeof value === 'number' ? value : null;
  return value === undefined || value === null ? null : String(value);
}

/** Rows come as arrays, past the layer that names their columns: there may be a million. */
async function rowsOf(db: Db, pool: Pool, which: Expression, hasWords = true): Promise<ReadRow[]> {
  const columns = COLUMNS.map((field) =>
    field.type === 'words' && !hasWords ? sql`null` : columnOf(field),
  );
  const query = sql`
    select i.ord, i.id, i.number_key, (select clip.ord from item clip where clip.id = i.of_id), i.width::float8 / nullif(i.height, 0), ${DAY},
      ${isHeld('i')}, i.record, i.technical, ${sql.join(columns)}
    from ${FROM} where ${which}`.compile(db);
  const { rows } = await pool.query<unknown[]>({
    text: query.sql,
    values: [...query.parameters],
    rowMode: 'array',
  });
  return rows.map(([ord, id, numberKey, clip, ratio, day, there, record, technical, ...own]) => ({
    ord: Number(ord),
    id: String(id),
    numberKey: Number(numberKey),
    clip: Number(clip ?? 0),
    ratio: ratio as number | null,
    day: String(day),
    there: there === true,
    own,
    json: { record, technical } as ReadRow['json'],
  }));
}

/** Where each field of the registry is found in what was read; those of tables of their own are told apart. */
const SOURCES = ALL_FIELDS.map((field) => ({
  field,
  json: jsonOf(field),
  at: COLUMNS.indexOf(field),
}));

function put(
  index: ShelfIndex,
  { ord, id, numberKey, clip, ratio, day, there, own, json }: ReadRow,
): void {
  const values = SOURCES.map(({ field, json: part, at }) => {
    if (part !== null) return valueIn(field, json[part]);
    const value = own[at];
    // Words that were not asked for stay as they are.
    return value === null && field.type === 'words' ? undefined : value;
  });
  const aspect = Math.min(MOST_ASPECT, Math.round(tileAspect(ratio ?? 0) * 100));
  const row: Row = { ord, id, numberKey, clip, aspect, day, values };
  index.put(row);
  if (!there) index.drop(id);
}

/** A term and all broader ones. */
function withBroader(names: Names, ord: number): number[] {
  const found = new Set([ord]);
  for (const at of found) for (const above of names.terms.get(at)?.broader ?? []) found.add(above);
  return [...found];
}

/** Which items are read: some by their ids, or a stretch of all. */
type Which = { ids: readonly string[] } | { from: number; to: number };

const itemsOf = (which: Which): Expression =>
  'ids' in which
    ? sql`i.id = any(${which.ids}::uuid[])`
    : sql`i.ord > ${which.from} and i.ord <= ${which.to}`;

/** Rows of a table that says several things of an item, each under the item's small integer or, asked by ids, its id. */
const saidOf = (which: Which, table: string, said: Expression): Expression =>
  'ids' in which
    ? sql`select x.item_id as item, ${said} from ${sql.table(table)} x where x.item_id = any(${which.ids}::uuid[])`
    : sql`select i.ord as item, ${said} from item i join ${sql.table(table)} x on x.item_id = i.id
        where ${itemsOf(which)}`;

/** Terms and collections of items. */
interface Many {
  terms: ReadonlyMap<number | string, ReadonlySet<string>>;
  collections: ReadonlyMap<number | string, readonly string[]>;
}

async function readMany(db: Db, names: Names, which: Which): Promise<Many> {
  const [terms, collections] = await Promise.all([
    sql<{ item: number | string; term: number }>`select given.item, t.ord as term
      from (${saidOf(which, 'item_term', sql`x.term_id`)}) given join term t on t.id = given.term_id`.execute(
      db,
    ),
    sql<{ item: number | string; collection: string }>`select lies.item, c.id as collection
      from (${saidOf(which, 'collection_item', sql`x.collection_id`)}) lies
      join collection c on c.id = lies.collection_id and ${isHeld('c')}`.execute(db),
  ]);
  const given = new Map<number | string, Set<string>>();
  const closures = new Map<number, string[]>();
  for (const { item, term } of terms.rows) {
    let ids = closures.get(term);
    if (!ids) {
      ids = withBroader(names, term).flatMap((one) => names.terms.get(one)?.id ?? []);
      closures.set(term, ids);
    }
    const own = given.get(item) ?? new Set();
    for (const id of ids) own.add(id);
    given.set(item, own);
  }
  const picked = new Map<number | string, string[]>();
  for (const { item, collection } of collections.rows) {
    const own = picked.get(item);
    if (own) own.push(collection);
    else picked.set(item, [collection]);
  }
  return { terms: given, collections: picked };
}

/** Read items and take them in at once: nobody sees one half of what changed. @returns their ids */
async function take(
  { db, pool, index, names, change }: Reading,
  which: Which,
  hasWords: boolean,
): Promise<ReadonlySet<string>> {
  const [rows, { terms, collections }] = await Promise.all([
    rowsOf(db, pool, itemsOf(which), hasWords),
    readMany(db, names, which),
  ]);
  await change(() => {
    for (const row of rows) {
      put(index, row);
      if (!row.there) continue;
      const item = 'ids' in which ? row.id : row.ord;
      index.setMany('terms', row.ord, [...(terms.get(item) ?? [])]);
      index.setMany('collection', row.ord, [...(collections.get(item) ?? [])]);
    }
  });
  return new Set(rows.map(({ id }) => id));
}

/** What is read, by whom, into which index. */
export interface Reading {
  db: Db;
  pool: Pool;
  index: ShelfIndex;
  names: Names;
  /** Change the index when nobody counts. */
  change: Change;
}
export type Change = (act: () => void) => Promise<void>;

/**
 * Take some items in anew.
 * @param worded those whose words changed; of others that are there already the words are not read again
 */
export async function loadItems(
  reading: Reading,
  { ids, worded }: { ids: string[]; worded: ReadonlySet<string> },
): Promise<void> {
  const { index } = reading;
  const isWhole = (id: string): boolean => {
    const row = index.rowOf(id);
    return worded.has(id) || row === undefined || !index.alive[row];
  };
  // Told apart before any of them is taken in: it is there then.
  const [whole, known]: [string[], string[]] = [[], []];
  for (const id of ids) (isWhole(id) ? whole : known).push(id);
  await loadSome(reading, whole, true);
  await loadSome(reading, known, false);
}

async function loadSome(reading: Reading, ids: string[], hasWords: boolean): Promise<void> {
  for (let from = 0; from < ids.length; from += STRETCH) {
    const some = ids.slice(from, from + STRETCH);
    const there = await take(reading, { ids: some }, hasWords);
    // Gone from the database altogether, or without a file: not to be found.
    await reading.change(() => {
      for (const id of some) if (!there.has(id)) reading.index.drop(id);
    });
  }
}

/** Whether the files of some places are there, without reading anything else of their items. */
export async function loadStates(
  { pool, index, change }: Omit<Reading, 'names'>,
  placeIds: readonly string[],
): Promise<void> {
  if (placeIds.length === 0) return;
  for (let from = 0; from < index.size; from += STATES) {
    const { rows } = await pool.query<[number, string]>({
      text: `select i.ord, case when not p.here then 'away' else f.state end
        from item i join file f on f.item_id = i.holder_id and f.role = 'original' join place p on p.id = f.place_id
        where i.ord > $1 and i.ord <= $2 and f.place_id = any($3::uuid[])`,
      values: [from, from + STATES, placeIds],
      rowMode: 'array',
    });
    await change(() => {
      for (const [ord, state] of rows) index.setOne('file', ord, state);
    });
  }
}

/** Fill an index with everything. */
export async function loadAll(
  reading: Reading,
  tell: (done: number) => void = () => undefined,
): Promise<void> {
  const { db, index } = reading;
  const {
    rows: [last],
  } = await sql<{ ord: number }>`select coalesce(max(ord), 0) as ord from item`.execute(db);
  for (let from = 0; from < Number(last!.ord); from += STRETCH) {
    await take(reading, { from, to: from + STRETCH }, true);
    index.settle(MOST_UNSETTLED);
    tell(from + STRETCH);
  }
  index.settle(1);
}
