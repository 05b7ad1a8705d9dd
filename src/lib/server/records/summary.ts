import { sql, type Kysely, type RawBuilder } from 'kysely';
import { positionText } from '#core/geo/position';
import { LIST_KEYS, type FieldKey } from '#core/records/fields';
import {
  balance,
  merge,
  MOST_ELEMENTS,
  MOST_TERMS,
  MOST_VALUES,
  MOST_VERSIONS,
  type FieldSpread,
  type Summary,
} from '#core/records/merge';
import type { Taken } from '#core/records/taken';
import type { Database } from '../db/schema';
import { PLAIN } from './columns';
import { takenOfRow } from './records';
import { isHeld, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

const PART = '|';
/** What is counted beside `item.record`: fields with a column, and what a stage, a date and a position are made of, as texts. */
const COLUMNS: Partial<Record<FieldKey, RawBuilder<unknown>>> = {
  ...Object.fromEntries([...PLAIN].map(([key, { name }]) => [key, sql.ref(name)])),
  stage: sql`coalesce((select name from stage where stage.id = stage_id), '')`,
  taken: sql`coalesce(taken_edtf || ${PART} || taken_from || ${PART} || taken_to || ${PART} || coalesce(taken_offset::text, ''), '')`,
  position: sql`coalesce(latitude || ${PART} || longitude, '')`,
};

interface SpreadRow {
  key: FieldKey;
  value: unknown;
  count: number;
  different: number;
  said: number;
  isElement: boolean;
}

/** How each field is spread over items: counted where they lie, only what is told is sent. */
async function spreadOf(db: Db, among: RawBuilder<unknown>): Promise<Map<FieldKey, FieldSpread>> {
  const columns = Object.entries(COLUMNS);
  const keys = sql.join(columns.map(([key]) => sql`${key}::text`));
  const refs = columns.map(([key]) => sql.ref(key));
  const { rows } = await sql<SpreadRow>`
    with among as materialized (
      select record as kept, ${sql.join(columns.map(([key, value]) => sql`${value} as ${sql.ref(key)}`))}
      from item where id = ${among} and ${isHeld('item')}),
    spread as materialized (
      select (array[${keys}])[array_position(array[${sql.join(refs.map((ref) => sql`grouping(${ref})`))}], 0)] as key,
        coalesce(${sql.join(refs.map((ref) => sql`to_jsonb(${ref})`))}) as value, count(*)::int as count
      from among group by grouping sets (${sql.join(refs.map((ref) => sql`(${ref})`))})
      union all
      select said.key, said.value, count(*)::int from among, jsonb_each(kept) said group by 1, 2),
    counted as (
      select key, value, count, false as "isElement" from spread
      union all
      select key, element, sum(count)::int, true from spread, jsonb_array_elements(value) element
        where key = any(${LIST_KEYS}::text[]) group by 1, 2)
    select key, value, count, different, said, "isElement" from (
      select *, count(*) over those::int as different, sum(count) over those::int as said,
        row_number() over (partition by key, "isElement" order by count desc, value #>> '{}' collate "C") as rank
      from counted window those as (partition by key, "isElement")) ranked
    where rank <= case when "isElement" then ${MOST_ELEMENTS}::int else ${MOST_VALUES}::int end
    order by key, rank`.execute(db);
  const spread = new Map<FieldKey, FieldSpread>();
  for (const { key, value, count, different, said, isElement } of rows) {
    const field = spread.get(key) ?? { different: 0, said: 0, values: [], elements: [] };
    spread.set(key, field);
    if (isElement) field.elements.push({ text: value as string, count });
    else Object.assign(field, { different, said }).values.push({ value, count });
  }
  return spread;
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

/** How many of some items there are and how many have no credit line. */
async function countOf(db: Db, among: RawBuilder<unknown>) {
  const { rows } = await sql<{ count: number; lackCredit: number }>`
    select count(*)::int as count, count(*) filter (where credit_line = '')::int as "lackCredit"
    from item where id = ${among} and ${isHeld('item')}`.execute(db);
  return rows[0]!;
}

/** What is said of items, however many, and how large their originals are, bytes. */
export async function summaryOfItems(db: Db, ids: SeenIds): Promise<Summary & { bytes: number }> {
  const among = sql`any(${ids}::uuid[])`;
  // One statement after the other: so many at once would take every core from everybody else.
  const { count, lackCredit } = await countOf(db, among);
  const spread = await spreadOf(db, among);
  // Hardly ever is one of them gone: then terms are counted without it.
  const given = await termsOf(db, among, count < ids.length);
  const few = await versionsOf(db, ids);
  const sizes = await sql<{
    bytes: number;
  }>`select coalesce(sum(size), 0)::float8 as bytes from file
      where role = 'original' and item_id = ${among}`.execute(db);
  const merged = merge(spread, count);
  const { taken, position } = merged;
  // Dates and positions are told apart by their texts; what is shown is one again.
  const date = { ...taken, value: takenOf(taken.value as unknown as string | null), among: [] };
  const where = {
    ...position,
    value: positionOf(position.value),
    among: position.among.map((one) => ({ ...one, text: positionOf(one.text) })),
  };
  return {
    count,
    number: count === 1 ? (few[0]?.number ?? null) : null,
    merged: count > 0 ? { ...merged, taken: date, position: where } : null,
    terms: balance(given, count),
    moreTerms: (given[0]?.all ?? 0) - given.length,
    lackCredit,
    versions: Object.fromEntries(few.map(({ id, version }) => [id, version])),
    bytes: sizes.rows[0]!.bytes,
  };
}
