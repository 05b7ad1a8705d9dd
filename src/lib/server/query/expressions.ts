import { sql, type RawBuilder } from 'kysely';
import type { Field } from '#core/fields/field';
import type { ByType } from '#core/fields/types';
import { isHeld } from '../sight/seen';

/** What SQL says for a field, over the tables `item i`, `file f` (the original it stands on), `folder d`, `place p`. */
export type Expression = RawBuilder<unknown>;

/** Tables every expression may speak of. */
export const FROM = sql`item i
  join file f on f.item_id = i.holder_id and f.role = 'original'
  join folder d on d.id = f.folder_id
  join place p on p.id = f.place_id`;

/** Fields that are computed. */
const MADE: Record<string, Expression> = {
  megapixels: sql`round((i.width::float8 * i.height / 1000000)::numeric, 1)::float8`,
  proportion: sql`case when i.width is null or i.height is null or i.height = 0 then null
    when i.width < 0.95 * i.height then 'upright' when i.width <= 1.05 * i.height then 'square'
    when i.width < 2 * i.height then 'across' else 'panorama' end`,
  folder: sql`f.folder_id`,
  broughtBy: sql`(select a.created_by from accession a where a.id = i.accession_id)`,
  file: sql`case when not p.here then 'away' else f.state end`,
  writing: sql`case when i.of_id is not null then null when i.disputes <> '{}' then 'differs' when f.written_version >= i.version then 'written'
    when f.write_problem is not null then 'failed' else 'waiting' end`,
  // A call for each row is dear: where there are no rules nothing is asked.
  unready: sql`case when (select coalesce(value, '[]') <> '[]' from setting where key = 'rules')
    then broken_rules(i, (select value from setting where key = 'rules')) else '{}' end`,
  picture: sql`(i.no_picture is null)`,
  burst: sql`i.burst::text`,
  lead: sql`i.burst_lead`,
  twin: sql`(exists (select from lineage l join item o on o.id = l.of_id and ${isHeld('o')}
      where l.item_id = i.id and l.kind = 'twin of')
    or exists (select from lineage l join item o on o.id = l.item_id and ${isHeld('o')}
      where l.of_id = i.id and l.kind = 'twin of'))`,
  copies: sql`(select count(*)::float8 from file c where c.item_id = i.id and c.state = 'present'
    and c.role in ('original', 'second-copy'))`,
  position: sql`(i.latitude is not null)`,
  terms: sql`array(select it.term_id from item_term it where it.item_id = i.id)`,
  collection: sql`array(select ci.collection_id from collection_item ci
    join collection c on c.id = ci.collection_id and ${isHeld('c')} where ci.item_id = i.id)`,
};

/** The value of a field: text, number, boolean, uuid, timestamp, or for fields of many values an array. */
export function valueOf(field: Field): Expression {
  const { store, key } = field;
  if ('column' in store) return sql.raw(store.column);
  if ('made' in store) {
    const made = MADE[key];
    if (!made) throw new TypeError(`nothing computes “${key}”`);
    return made;
  }
  const json = sql`${sql.raw(`i.${store.json}`)}`;
  const name = sql.lit(key);
  if (field.many)
    return sql`array(select jsonb_array_elements_text(
      case when jsonb_typeof(${json} -> ${name}) = 'array' then ${json} -> ${name} else '[]' end))`;
  return field.type === 'number'
    ? sql`(case when jsonb_typeof(${json} -> ${name}) = 'number' then (${json} ->> ${name})::float8 end)`
    : sql`(${json} ->> ${name})`;
}

/** Whether an item says anything in a field. */
export function isSaid(field: Field): Expression {
  if (field.key === 'terms') return sql`exists (select from item_term it where it.item_id = i.id)`;
  const value = valueOf(field);
  return field.many ? sql`cardinality(${value}) > 0` : SAID[field.type](value);
}

const isThere = (value: Expression): Expression => sql`${value} is not null`;
const isWritten = (value: Expression): Expression => sql`coalesce(${value}, '') <> ''`;
/** Whether one value says anything. */
const SAID: ByType<(value: Expression) => Expression> = {
  text: isWritten,
  'long-text': isWritten,
  names: isThere,
  number: isThere,
  enum: isThere,
  'yes-no': (value) => value,
  date: isThere,
  ref: isThere,
  folder: isThere,
  position: (value) => value,
  languages: isThere,
  colour: isThere,
  words: isThere,
};

/** Wall-clock ends of a date field. */
export function intervalOf(field: Field): { from: Expression; to: Expression } {
  if (field.key === 'taken') return { from: sql`i.taken_from`, to: sql`i.taken_to` };
  const at = sql`(${valueOf(field)} at time zone 'UTC')`;
  return { from: at, to: at };
}

/** What items are ordered by: unknown values are null, texts in lower case by their bytes. */
export function orderOf(field: Field): Expression {
  if (field.key === 'number' || field.key === 'brought' || field.key === 'accession')
    return sql`i.number_key`;
  if (field.key === 'stage') return sql`(select s.position from stage s where s.id = i.stage_id)`;
  return ORDERS[field.type](valueOf(field));
}

const asItIs = (value: Expression): Expression => value;
/** What one value is ordered by. */
const ORDERS: ByType<(value: Expression) => Expression> = {
  text: (value) => sql`nullif(lower(${value}), '') collate "C"`,
  'long-text': asItIs,
  names: asItIs,
  number: asItIs,
  enum: (value) => sql`${value}::text collate "C"`,
  'yes-no': asItIs,
  date: asItIs,
  ref: asItIs,
  folder: () => sql`lower(p.name || '/' || d.path) collate "C"`,
  position: asItIs,
  languages: asItIs,
  colour: asItIs,
  words: asItIs,
};
