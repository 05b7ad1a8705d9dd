import type { FieldType } from '#core/fields/field';
import { FIELD_KEYS, FIELDS, type FieldKey, type RecordValues } from '#core/records/fields';

/** PostgreSQL's types of values that are kept as they are. */
const KEPT_AS: Partial<Record<FieldType, string>> = {
  text: 'text',
  'long-text': 'text',
  names: 'text[]',
  number: 'smallint',
};

/** A column of table item. */
export interface Column {
  name: string;
  type: string;
}

/** Fields whose value is what their own column holds, by the registry; the rest is made of others, or kept in `item.record`. */
export const PLAIN: ReadonlyMap<FieldKey, Column> = new Map(
  FIELD_KEYS.flatMap((key) => {
    const { store, type } = FIELDS[key];
    const keptAs = KEPT_AS[type];
    if (!('column' in store) || !keptAs) return [];
    return [[key, { name: store.column.replace(/^i\./, ''), type: keptAs }] as const];
  }),
);

/** Fields whose value is made of columns. */
const MADE: Partial<Record<FieldKey, Column[]>> = {
  stage: [{ name: 'stage_id', type: 'uuid' }],
  taken: [
    { name: 'taken_edtf', type: 'text' },
    { name: 'taken_from', type: 'timestamp' },
    { name: 'taken_to', type: 'timestamp' },
    { name: 'taken_offset', type: 'smallint' },
  ],
  position: [
    { name: 'latitude', type: 'float8' },
    { name: 'longitude', type: 'float8' },
  ],
};

/** Columns of a field; none: it is kept in `item.record`, terms in their table. */
export const columnsOfField = (key: FieldKey): readonly Column[] => {
  const own = PLAIN.get(key);
  return own ? [own] : (MADE[key] ?? []);
};

/** Values of plain columns, by the names of these. */
export const plainColumns = (values: RecordValues): Record<string, unknown> =>
  Object.fromEntries([...PLAIN].map(([key, { name }]) => [name, values[key]]));
