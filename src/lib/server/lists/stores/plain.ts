import { sql } from 'kysely';
import type { ContributorEntry, SpotEntry, StageEntry, StampEntry } from '#core/lists/entries';
import type { SequenceEntry } from '#core/entries/sequence';
import type { PatternEntry, PlanEntry } from '#core/entries/kept';
import { isHeld } from '../../sight/seen';
import { among, type Store } from './store';

/**
 * Entries that are one table, a column for each part. Column → type in SQL.
 * @param maker column of who made it, where it has one
 */
function plain<E extends object>(
  table: string,
  columns: Record<keyof E & string, string>,
  maker?: string,
): Store<E> {
  const keys = Object.keys(columns);
  const all = sql.join(keys.map((key) => sql.ref(key)));
  // The keys of JSON are not names of columns: both are told.
  const types = sql.join(
    keys.map((key) => sql`${sql.ref(key)} ${sql.raw(columns[key as keyof typeof columns])}`),
  );
  return {
    async read(db, ids) {
      const { rows } = await sql<{ id: string } & E>`select id, ${all}
        from ${sql.table(table)} where id = ${among(ids)}`.execute(db);
      return new Map(rows.map(({ id, ...entry }) => [id, entry as unknown as E]));
    },
    async put(db, entries, by) {
      const rows = [...entries].map(([id, entry]) => ({ id, ...snaked(entry) }));
      await sql`insert into ${sql.table(table)} (id, ${all}${maker ? sql`, ${sql.ref(maker)}` : sql``})
        select id, ${all}${maker ? sql`, ${by}::uuid` : sql``} from json_to_recordset(${JSON.stringify(rows)}::json) as row(id uuid, ${types})
        on conflict (id) do update set ${sql.join(
          keys.map((key) => sql`${sql.ref(key)} = excluded.${sql.ref(key)}`),
        )}`.execute(db);
    },
    async drop(db, ids) {
      await sql`delete from ${sql.table(table)} where id = ${among(ids)}`.execute(db);
    },
  };
}

/** Keys as columns are called. */
const snaked = (entry: object): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(entry).map(([key, value]) => [
      key.replace(/[A-Z]/g, (letter) => `_${letter.toLowerCase()}`),
      value as unknown,
    ]),
  );

export const stages: Store<StageEntry> = {
  ...plain<StageEntry>('stage', {
    name: 'text',
    shape: 'text',
    colour: 'text',
    key: 'text',
    position: 'integer',
    formerly: 'text[]',
    retired: 'boolean',
  }),
  saying: (ids) =>
    sql`select i.id from item i where ${isHeld('i')} and i.stage_id = any(${[...ids]}::uuid[])`,
};
export const contributors = plain<ContributorEntry>('contributor', {
  name: 'text',
  kind: 'text',
  also: 'text[]',
  creditLine: 'text',
  copyrightNotice: 'text',
  usageTerms: 'text',
  email: 'text',
  phone: 'text',
  web: 'text',
  note: 'text',
  retired: 'boolean',
});
export const stamps = plain<StampEntry>('stamp', {
  name: 'text',
  project: 'text',
  lines: 'jsonb',
});
export const spots = plain<SpotEntry>('spot', {
  name: 'text',
  latitude: 'float8',
  longitude: 'float8',
  radius: 'float8',
  sublocation: 'text',
  city: 'text',
  state: 'text',
  country: 'text',
  note: 'text',
});
export const patterns = plain<PatternEntry>(
  'kept_pattern',
  { purpose: 'text', name: 'text', pattern: 'text', choices: 'jsonb' },
  'made_by',
);
export const plans = plain<PlanEntry>(
  'intake_plan',
  { name: 'text', mode: 'text', placeId: 'uuid', plan: 'jsonb' },
  'created_by',
);
export const sequences = plain<SequenceEntry>(
  'sequence',
  {
    ...{ name: 'text', note: 'text', rate: 'double precision', stills: 'double precision' },
    ...{ sound: 'boolean', pieces: 'jsonb' },
  },
  'created_by',
);
