import { sql, type Kysely, type Transaction } from 'kysely';
import type { FieldKey, RecordValues, ValueSource } from '#core/records/fields';
import { parsePosition } from '#core/geo/position';
import { isBlank } from '#core/records/takeOver';
import type { Taken } from '#core/records/taken';
import { columnsOfField, plainColumns } from './columns';
import type { Database } from '../db/schema';
import { ensureStage } from '../stages/stages';
import { ensureTerms } from '../terms/terms';

type Db = Kysely<Database> | Transaction<Database>;

const takenColumns = (taken: Taken | null) => ({
  takenEdtf: taken?.edtf ?? null,
  takenFrom: taken?.from ?? null,
  takenTo: taken?.to ?? null,
  takenOffset: taken?.offset ?? null,
});

/** New values of one item, and which fields they are of. */
export interface Stored {
  itemId: string;
  values: RecordValues;
  changed: readonly FieldKey[];
}

async function stageIdsOf(db: Db, stored: Stored[]): Promise<Map<string, string | null>> {
  const names = new Set(
    stored.filter(({ changed }) => changed.includes('stage')).map(({ values }) => values.stage),
  );
  const ids = new Map<string, string | null>();
  for (const name of names) ids.set(name, await ensureStage(db, name));
  return ids;
}

/** What of the changed fields is kept in `item.record`; null forgets. */
const describedOf = (values: RecordValues, changed: readonly FieldKey[]): Record<string, unknown> =>
  Object.fromEntries(
    changed
      .filter((key) => key !== 'terms' && columnsOfField(key).length === 0)
      .map((key) => [key, isBlank(values[key]) ? null : values[key]]),
  );

/** The columns of an item by its values. */
function columnsOf(
  values: RecordValues,
  stages: ReadonlyMap<string, string | null>,
): Record<string, unknown> {
  const taken = takenColumns(values.taken);
  const position = values.position === '' ? null : parsePosition(values.position);
  return {
    ...plainColumns(values),
    stage_id: stages.get(values.stage) ?? null,
    taken_edtf: taken.takenEdtf,
    taken_from: taken.takenFrom,
    taken_to: taken.takenTo,
    taken_offset: taken.takenOffset,
    latitude: position?.latitude ?? null,
    longitude: position?.longitude ?? null,
  };
}

/** Only what changed is sent and set: what others set meanwhile in other fields stays. */
async function storeColumns(
  db: Db,
  stored: Stored[],
  origin: { source: ValueSource; by: string | null; at: Date },
): Promise<void> {
  const stages = await stageIdsOf(db, stored);
  const mark = { source: origin.source, by: origin.by, at: origin.at.toISOString() };
  const touched = new Set(stored.flatMap(({ changed }) => changed));
  const own = [...touched].flatMap(columnsOfField);
  const names = own.map(({ name }) => name);
  const rows = stored.map(({ itemId, values, changed }) => {
    const all = names.length > 0 ? columnsOf(values, stages) : {};
    return {
      id: itemId,
      changed: changed.flatMap(columnsOfField).map(({ name }) => name),
      provenance: Object.fromEntries(changed.map((key) => [key, mark])),
      described: describedOf(values, changed),
      ...Object.fromEntries(names.map((name) => [name, all[name]])),
    };
  });
  const sets = names.map(
    (name) =>
      sql`${sql.ref(name)} = case when ${name} = any(row.changed) then row.${sql.ref(name)} else i.${sql.ref(name)} end`,
  );
  const columns = own.map(({ name, type }) => sql`${sql.ref(name)} ${sql.raw(type)}`);
  const given = [sql`id uuid, changed text[], provenance jsonb, described jsonb`, ...columns];
  await sql`update item i set ${sql.join([
    ...sets,
    sql`version = version + 1`,
    sql`provenance = i.provenance || row.provenance`,
    sql`record = jsonb_strip_nulls(i.record || row.described)`,
  ])}
    from json_to_recordset(${JSON.stringify(rows)}::json) as row(${sql.join(given)})
    where i.id = row.id`.execute(db);
}

async function storeTerms(db: Db, stored: Stored[]): Promise<void> {
  const changed = stored.filter((one) => one.changed.includes('terms'));
  if (changed.length === 0) return;
  const ids = await ensureTerms(db, [...new Set(changed.flatMap(({ values }) => values.terms))]);
  await sql`delete from item_term where item_id = any(${changed.map(({ itemId }) => itemId)}::uuid[])`.execute(
    db,
  );
  const pairs = changed.flatMap(({ itemId, values }) =>
    [...new Set(values.terms.map((label) => ids.get(label)!))].map((termId) => ({
      itemId,
      termId,
    })),
  );
  await sql`insert into item_term (item_id, term_id)
    select * from unnest(${pairs.map(({ itemId }) => itemId)}::uuid[], ${pairs.map(({ termId }) => termId)}::uuid[])`.execute(
    db,
  );
}

/** Store new values of items, however many, in a few statements: columns, terms, provenance, version. */
export async function storeValues(
  db: Db,
  stored: Stored[],
  origin: { source: ValueSource; by: string | null; at: Date },
): Promise<void> {
  if (stored.length === 0) return;
  await storeColumns(db, stored, origin);
  await storeTerms(db, stored);
}

/** Hold the records of items against others until the transaction ends. */
export async function lockRecords(db: Transaction<Database>, itemIds: string[]): Promise<void> {
  await sql`select id from item where id = any(${itemIds}::uuid[]) order by id for update`.execute(
    db,
  );
}
