import { sql, type Kysely, type RawBuilder } from 'kysely';
import { positionText } from '#core/geo/position';
import type { RecordValues } from '#core/records/fields';
import {
  balance,
  merge,
  MOST_TERMS,
  MOST_VERSIONS,
  type Columns,
  type Summary,
} from '#core/records/merge';
import type { Taken } from '#core/records/taken';
import type { Database } from '../db/schema';
import { PLAIN } from './columns';
import { takenOfRow } from './records';
import { isHeld, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

/** Columns of items, each as one list in the order of the others: rows of thousands cost more than what they say. */
type SaidColumns = Omit<Columns, 'stage' | 'taken' | 'position'> & {
  count: number;
  stage: (string | null)[];
  /** What a date and a position are made of, as one text. */
  taken: (string | null)[];
  position: (string | null)[];
  record: Partial<RecordValues>[];
};
const PART = '|';
const COLUMNS: Record<string, RawBuilder<unknown>> = {
  ...Object.fromEntries([...PLAIN].map(([key, { name }]) => [key, sql`${sql.ref(name)}`])),
  stage: sql`stage_id`,
  record: sql`record`,
  taken: sql`taken_edtf || ${PART} || taken_from || ${PART} || taken_to || ${PART} || coalesce(taken_offset::text, '')`,
  position: sql`latitude || ${PART} || longitude`,
};

async function toldOf(db: Db, among: RawBuilder<unknown>): Promise<SaidColumns> {
  const lists = Object.entries(COLUMNS).map(
    ([name, column]) => sql`coalesce(json_agg(${column}), '[]') as ${sql.ref(name)}`,
  );
  const { rows } =
    await sql<SaidColumns>`select count(*)::int as count, ${sql.join(lists)} from item
    where id = ${among} and ${isHeld('item')}`.execute(db);
  return rows[0]!;
}

function takenOf(text: string | null | undefined): Taken | null {
  if (!text) return null;
  const [takenEdtf, from, to, offset] = text.split(PART) as [string, string, string, string];
  const wall = (time: string): string => time.replace(' ', 'T');
  const takenOffset = offset === '' ? null : Number(offset);
  return takenOfRow({ takenEdtf, takenFrom: wall(from), takenTo: wall(to), takenOffset });
}
function positionOf(text: string | null | undefined): string {
  const [latitude, longitude] = text?.split(PART).map(Number) ?? [];
  return positionText(latitude ?? null, longitude ?? null);
}

/** Versions of a few items, by which later changes of others are told, and their numbers. */
const versionsOf = (db: Db, ids: string[]) =>
  ids.length > MOST_VERSIONS
    ? []
    : db
        .selectFrom('item')
        .select(['id', 'number', 'version'])
        .where('id', '=', sql<string>`any(${ids}::uuid[])`)
        .where(isHeld('item'))
        .execute();

/** Terms of items with how many have them, the most given first, and how many terms there are. */
async function termsOf(
  db: Db,
  among: RawBuilder<unknown>,
  isSomeGone: boolean,
): Promise<{ term: string; count: number; all: number }[]> {
  const living = isSomeGone ? sql`join item i on i.id = it.item_id and ${isHeld('i')}` : sql``;
  const { rows } = await sql<{ term: string; count: number; all: number }>`
    select t.label as term, given.count, given.all from (
      select it.term_id, count(*)::int as count, count(*) over ()::int as all
      from item_term it ${living} where it.item_id = ${among}
      group by 1 order by 2 desc, 1 limit ${MOST_TERMS}
    ) given join term t on t.id = given.term_id`.execute(db);
  return rows;
}

/** What is said of items, however many, and how large their originals are, bytes. */
export async function summaryOfItems(db: Db, ids: SeenIds): Promise<Summary & { bytes: number }> {
  const among = sql`any(${ids}::uuid[])`;
  const [told, terms, stages, sizes, few] = await Promise.all([
    toldOf(db, among),
    termsOf(db, among, false),
    db.selectFrom('stage').select(['id', 'name']).execute(),
    sql<{ bytes: number }>`select coalesce(sum(size), 0)::float8 as bytes from file
      where role = 'original' and item_id = ${among}`.execute(db),
    versionsOf(db, ids),
  ]);
  const { count, record, taken, position, ...columns } = told;
  // Hardly ever is one of them gone: then terms are counted without it.
  const given = count < ids.length ? await termsOf(db, among, true) : terms;
  const nameOf = new Map(stages.map(({ id, name }) => [id, name]));
  const plain = (texts: (string | null)[]): string[] => texts.map((text) => text ?? '');
  const merged = merge(record, {
    ...columns,
    stage: told.stage.map((id) => nameOf.get(id ?? '') ?? ''),
    position: plain(position),
    // Dates are told apart by their texts; the one that is shown is a date again.
    taken: plain(taken) as never,
  });
  const first = { ...merged.taken, value: takenOf(taken[0]), among: [] };
  const where = { ...merged.position, value: positionOf(position[0]) };
  const among5 = merged.position.among.map((one) => ({ ...one, text: positionOf(one.text) }));
  return {
    count,
    number: count === 1 ? (few[0]?.number ?? null) : null,
    merged: count > 0 ? { ...merged, taken: first, position: { ...where, among: among5 } } : null,
    terms: balance(given, count),
    moreTerms: (given[0]?.all ?? 0) - given.length,
    lackCredit: (columns.creditLine ?? []).filter((text) => text === '').length,
    versions: Object.fromEntries(few.map(({ id, version }) => [id, version])),
    bytes: sizes.rows[0]!.bytes,
  };
}
