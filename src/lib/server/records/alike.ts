import { sql, type RawBuilder, type Transaction } from 'kysely';
import {
  EMPTY_RECORD,
  FIELD_KEYS,
  FIELDS,
  LANGUAGES,
  shapeOf,
  type FieldKey,
  type RecordChange,
} from '#core/records/fields';
import { isBlank } from '#core/records/takeOver';
import { PLAIN } from './columns';
import type { Database } from '../db/schema';
import { ensureStage } from '../stages/stages';
import { isHeld } from '../sight/seen';

/**
 * The same values for many items, set by the database: their records are not read, only what was there before goes
 * into the ledger. For texts, numbers and lists that are set as a whole; everything else goes item by item.
 */
export type Plain = Partial<Record<FieldKey, string | number | string[]>>;

/** A change that sets the same plain values wherever it is made; null for others. */
export function plainOf(change: RecordChange): Plain | null {
  const entries = Object.entries(change);
  const isPlain = ([key, value]: [string, unknown]): boolean => {
    const field = FIELDS[key as FieldKey] as (typeof FIELDS)[FieldKey] | undefined;
    if (!field || key === 'terms' || key === 'position') return false;
    // A text that is cleared may leave its other languages, or take them along.
    if (value === '' && LANGUAGES.some(({ text }) => text === key)) return false;
    return !['taken', 'languages'].includes(shapeOf(field));
  };
  return entries.length > 0 && entries.every(isPlain) ? (change as Plain) : null;
}

/** What an item `i` says now in a field, as the ledger holds it. */
function saidNow(key: FieldKey): RawBuilder<unknown> {
  const column = PLAIN.get(key)?.name;
  if (column) return sql`to_jsonb(i.${sql.ref(column)})`;
  if (key === 'stage')
    return sql`to_jsonb(coalesce((select s.name from stage s where s.id = i.stage_id), ''))`;
  return sql`coalesce(i.record -> ${key}, ${JSON.stringify(EMPTY_RECORD[key])}::jsonb)`;
}

/** How the fields that differ are set in an item `i`. */
async function setting(db: Transaction<Database>, plain: Plain): Promise<RawBuilder<unknown>[]> {
  const sets: RawBuilder<unknown>[] = [];
  const described: Record<string, unknown> = {};
  for (const [key, value] of Object.entries(plain) as [FieldKey, string | number | string[]][]) {
    const column = PLAIN.get(key)?.name;
    if (column) sets.push(sql`${sql.ref(column)} = ${value}`);
    else if (key === 'stage') sets.push(sql`stage_id = ${await ensureStage(db, value as string)}`);
    else described[key] = isBlank(value) ? null : value;
  }
  if (Object.keys(described).length > 0)
    sets.push(sql`record = jsonb_strip_nulls(i.record || ${JSON.stringify(described)}::jsonb)`);
  return sets;
}

/** Parts of a JSON object, each there only where its field differs. */
const whereDiffers = (keys: FieldKey[], part: (key: FieldKey) => RawBuilder<unknown>) =>
  sql`(${sql.join(
    keys.map(
      (key) =>
        sql`case when ${sql.ref(`differs_${key}`)} then jsonb_build_object(${key}::text, ${part(key)}) else '{}' end`,
    ),
    sql` || `,
  )})`;

/**
 * Set plain values in all of some items that say otherwise, and note each in an operation that is there already, from some
 * position on.
 * @returns the items that were changed, and in which fields
 */
export async function setAlike(
  db: Transaction<Database>,
  itemIds: string[],
  plain: Plain,
  { operationId, from, by }: { operationId: string; from: number; by: string | null },
): Promise<{ ids: string[]; keys: FieldKey[] }> {
  const keys = FIELD_KEYS.filter((key) => key in plain);
  const mark = JSON.stringify({ source: 'person', by, at: new Date().toISOString() });
  const after = (key: FieldKey) => sql`${JSON.stringify(plain[key])}::jsonb`;
  const now = keys.map((key) => sql`${saidNow(key)} as ${sql.ref(`now_${key}`)}`);
  const differs = keys.map(
    (key) =>
      sql`${sql.ref(`now_${key}`)} is distinct from ${after(key)} as ${sql.ref(`differs_${key}`)}`,
  );
  const isAny = sql.join(
    keys.map((key) => sql`${sql.ref(`differs_${key}`)}`),
    sql` or `,
  );
  const { rows } = await sql<{ ids: string[] } & Record<string, unknown>>`
    with said as materialized (
      select i.id, wished.at, ${sql.join(now)}
      from unnest(${itemIds}::uuid[]) with ordinality as wished (id, at) join item i on i.id = wished.id
      where ${isHeld('i')}
    ), compared as materialized (select said.*, ${sql.join(differs)} from said),
    other as materialized (
      select *, ${from}::int + row_number() over (order by at) - 1 as position from compared where ${isAny}
    ), changed as (
      update item i set ${sql.join([
        ...(await setting(db, plain)),
        sql`version = version + 1`,
        sql`provenance = i.provenance || ${whereDiffers(keys, () => sql`${mark}::jsonb`)}`,
      ])} from other where i.id = other.id
    ), noted as (
      insert into operation_step (operation_id, position, action, item_id, before, after, state)
      select ${operationId}::uuid, position, 'record', id,
        ${whereDiffers(keys, (key) => sql`${sql.ref(`now_${key}`)}`)}, ${whereDiffers(keys, after)}, 'done'
      from other
    )
    select coalesce(array_agg(id order by position), '{}') as ids, ${sql.join(
      keys.map((key) => sql`bool_or(${sql.ref(`differs_${key}`)}) as ${sql.ref(key)}`),
    )} from other`.execute(db);
  const [found] = rows;
  return { ids: found!.ids, keys: keys.filter((key) => found![key]) };
}
