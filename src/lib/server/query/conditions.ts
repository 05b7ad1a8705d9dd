import { sql, type Kysely, type Transaction } from 'kysely';
import type { Field } from '#core/fields/field';
import type { ByType } from '#core/fields/types';
import { codesNear } from '#core/colour/palette';
import { fieldOf, knownField } from '#core/fields/registry';
import { sightOfQuery, type Sight, type Viewer } from '#core/sight/viewer';
import {
  conditionsOf,
  groupOf,
  idOfRef,
  isCondition,
  MOST_PULLED_IN,
  MOST_STANDING,
  type Condition,
  type LastUnit,
  type Node,
  type Query,
} from '#core/query/tree';
import { EARTH_KM } from '#core/geo/position';
import { askedInterval, sinceWhen } from '#core/query/meaning';
import { likeText } from '#core/text/like';
import { counted } from '#core/text/quantities';
import { searchWords } from '#core/text/words';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { FROM, intervalOf, isSaid, orderOf, valueOf, type Expression } from './expressions';
import { isHeld, through } from '../sight/seen';
import { resolve } from './names';

type Db = Kysely<Database> | Transaction<Database>;

/** What a query's references stand for, looked up once, so that its statement holds plain values. */
interface Looked {
  folders: Map<string, { placeId: string; path: string }>;
  /** Each term with itself and all narrower ones. */
  terms: Map<string, string[]>;
  /** Trees of standing collections; null for hand-picked ones. */
  collections: Map<string, Node[] | null>;
  /** Standing collections, each behind those that it names, by the name their items have in the statement. */
  standing: Map<string, string>;
  now: Date;
  /** What is seen by the one who asks. */
  sight: Sight | null;
}

const idsIn = (nodes: readonly Node[], key: string): string[] => [
  ...new Set(
    [...conditionsOf(nodes)]
      .filter(({ field, test }) => field === key && test !== 'has')
      .flatMap(({ values }) => values.flatMap((value) => idOfRef(value) ?? [])),
  ),
];

async function collectionsBelow(db: Db, nodes: readonly Node[]): Promise<Looked['collections']> {
  const found: Looked['collections'] = new Map();
  let wished = idsIn(nodes, 'collection');
  while (wished.length > 0) {
    const rows = await db
      .selectFrom('collection')
      .select(['id', 'query'])
      .where('id', '=', sql<string>`any(${wished}::uuid[])`)
      .where(isHeld('collection'))
      .execute();
    for (const { id, query } of rows) found.set(id, query?.where ?? null);
    refuseTooMany([...found.values()]);
    wished = rows
      .flatMap(({ query }) => idsIn(query?.where ?? [], 'collection'))
      .filter((id) => !found.has(id));
  }
  return found;
}

/** @throws ArchiveError query-unclear where standing collections pull in more than one sentence may ask */
export function refuseTooMany(trees: readonly (readonly Node[] | null | undefined)[]): void {
  const standing = trees.filter((nodes) => nodes !== null && nodes !== undefined);
  const pulledIn = standing.reduce((sum, nodes) => sum + [...conditionsOf(nodes)].length, 0);
  if (standing.length > MOST_STANDING || pulledIn > MOST_PULLED_IN)
    throw new ArchiveError(
      'query-unclear',
      `The standing collections it names pull in ${counted(standing.length, 'other')} with ${counted(pulledIn, 'condition')}; ask for fewer.`,
    );
}

/** Standing collections, each behind those that it names. @throws ArchiveError query-unclear where they go round */
function inTheirOrder(collections: Looked['collections']): Looked['standing'] {
  const named = new Map<string, string>();
  const open = new Set<string>();
  const visit = (id: string): void => {
    const nodes = collections.get(id);
    if (!nodes || named.has(id)) return;
    if (open.has(id))
      throw new ArchiveError('query-unclear', 'Standing collections name one another in a circle.');
    open.add(id);
    for (const other of idsIn(nodes, 'collection')) visit(other);
    named.set(id, `standing_${named.size}`);
  };
  for (const id of collections.keys()) visit(id);
  return named;
}

async function lookUp(db: Db, where: Node[], sight: Sight | null): Promise<Looked> {
  const collections = await collectionsBelow(db, where);
  const all = [...where, ...[...collections.values()].flatMap((nodes) => nodes ?? [])];
  const folderIds = idsIn(all, 'folder');
  const termIds = idsIn(all, 'terms');
  const [folders, terms] = await Promise.all([
    folderIds.length === 0
      ? []
      : db
          .selectFrom('folder')
          .select(['id', 'placeId', 'path'])
          .where('id', '=', sql<string>`any(${folderIds}::uuid[])`)
          .execute(),
    termIds.length === 0
      ? []
      : sql<{ top: string; id: string }>`
          with recursive narrower as (
            select t.id as top, t.id from term t where t.id = any(${termIds}::uuid[])
            union select n.top, b.term_id from term_broader b join narrower n on b.broader_id = n.id
          ) select top, id from narrower`
          .execute(db)
          .then(({ rows }) => rows),
  ]);
  const below = new Map<string, string[]>();
  for (const { top, id } of terms) below.set(top, [...(below.get(top) ?? []), id]);
  return {
    folders: new Map(folders.map((folder) => [folder.id, folder])),
    terms: below,
    collections,
    standing: inTheirOrder(collections),
    now: new Date(),
    sight,
  };
}

function folderCondition({ test, values }: Condition, { folders }: Looked): Expression {
  const parts = values.flatMap((value) => {
    const folder = folders.get(idOfRef(value) ?? '');
    if (!folder) return [];
    const { placeId, path } = folder;
    const inPlace = sql`f.place_id = ${placeId}::uuid`;
    if (test === 'only') return [sql`(${inPlace} and d.path = ${path})`];
    if (path === '') return [inPlace];
    // starts_with rather than LIKE: a folder may be called 50%.
    return [sql`(${inPlace} and (d.path = ${path} or starts_with(d.path, ${`${path}/`})))`];
  });
  return parts.length > 0 ? sql.join(parts, sql` or `) : sql`false`;
}

function dateCondition(field: Field, { test, values }: Condition, { now }: Looked): Expression {
  const { from, to } = intervalOf(field);
  if (test === 'last')
    return sql`${from} >= ${sinceWhen(now, Number(values[0]), values[1] as LastUnit)}::timestamp`;
  if (test === 'each') {
    const wished = String(values[0]);
    const shape = wished.length > 2 ? 'MM-DD' : 'MM';
    return sql`to_char(${from}, ${shape}) = ${wished} and to_char(${to}, ${shape}) = ${wished}
      and date_trunc('month', ${from}) = date_trunc('month', ${to})`;
  }
  const asked = askedInterval(String(values[0]));
  if (!asked) return sql`false`;
  const [first, last] = [sql`${asked.from}::timestamp`, sql`${asked.to}::timestamp`];
  if (test === 'before') return sql`${to} < ${first}`;
  if (test === 'after') return sql`${from} > ${last}`;
  if (test === 'overlaps') return sql`${from} <= ${last} and ${to} >= ${first}`;
  return sql`${from} >= ${first} and ${to} <= ${last}`;
}

function nearCondition({ test, values }: Condition): Expression {
  if (test === 'box') {
    const [south, west, north, east] = values.map(Number) as [number, number, number, number];
    const across =
      west <= east
        ? sql`i.longitude between ${west} and ${east}`
        : sql`(i.longitude >= ${west} or i.longitude <= ${east})`;
    return sql`i.latitude between ${south} and ${north} and ${across}`;
  }
  const [latitude, longitude, km] = values.map(Number) as [number, number, number];
  // Haversine on the mean Earth; the band of latitude first, which an index may serve.
  const band = (km / EARTH_KM) * (180 / Math.PI) + 0.001;
  return sql`i.latitude between ${latitude - band} and ${latitude + band}
    and 2 * ${EARTH_KM}::float8 * asin(least(1, sqrt(power(sin(radians(i.latitude - ${latitude}) / 2), 2)
      + cos(radians(${latitude}::float8)) * cos(radians(i.latitude))
        * power(sin(radians(i.longitude - ${longitude}) / 2), 2)))) <= ${km}`;
}

function wordsCondition(text: string): Expression {
  const words = searchWords(text);
  if (words.length === 0) return sql`true`;
  const asked = words.map((word) => `'${word}':*`).join(' & ');
  return sql`i.id in (select item_id from item_words where words @@ ${asked}::tsquery)`;
}

function textCondition(field: Field, { test, values }: Condition): Expression {
  const texts = values.map(String);
  const value = valueOf(field);
  if (field.many) {
    if (test === 'is') return sql`${value} && ${texts}::text[]`;
    const patterns = texts.map(
      (text) => `${test === 'contains' ? '%' : ''}${likeText(text.toLowerCase())}%`,
    );
    return sql`exists (select from unnest(${value}) as one where lower(one) like any(${patterns}::text[]))`;
  }
  if (test === 'is') return sql`${value} = any(${texts}::text[])`;
  const patterns = texts.map(
    (text) => `${test === 'contains' ? '%' : ''}${likeText(text.toLowerCase())}%`,
  );
  return sql`lower(${value}) like any(${patterns}::text[])`;
}

function refCondition(field: Field, { values }: Condition, looked: Looked): Expression {
  const ids = values.flatMap((value) => idOfRef(value) ?? []);
  if (field.key === 'terms') {
    const all = [...new Set(ids.flatMap((id) => looked.terms.get(id) ?? []))];
    return sql`i.id in (select it.item_id from item_term it where it.term_id = any(${all}::uuid[]))`;
  }
  if (field.key === 'collection') {
    const picked = ids.filter((id) => looked.collections.get(id) === null);
    const standing = [...new Set(ids)].flatMap((id) => {
      const name = looked.standing.get(id);
      return name ? [sql`i.id in (select id from ${sql.table(name)})`] : [];
    });
    const byHand = sql`i.id in (select ci.item_id from collection_item ci where ci.collection_id = any(${picked}::uuid[]))`;
    return sql.join([byHand, ...standing], sql` or `);
  }
  return sql`${valueOf(field)} = any(${ids}::uuid[])`;
}

/** What SQL says for a condition on a field, whatever it is asked but `has`. */
type Saying = (field: Field, condition: Condition, looked: Looked) => Expression;

const SAYINGS: ByType<Saying> = {
  text: textCondition,
  'long-text': textCondition,
  names: textCondition,
  'yes-no': textCondition,
  languages: textCondition,
  number: (field, { test, values }) =>
    test === 'is'
      ? sql`${valueOf(field)} = any(${values.map(Number)}::float8[])`
      : sql`${valueOf(field)} >= ${values[0] ?? -Infinity}::float8 and ${valueOf(field)} <= ${values[1] ?? Infinity}::float8`,
  date: dateCondition,
  folder: (_, condition, looked) => folderCondition(condition, looked),
  position: (_, condition) => nearCondition(condition),
  colour: (field, { values }) =>
    sql`${valueOf(field)} && ${values.flatMap((one) => codesNear(String(one)))}::text[]`,
  words: (_, { values }) => wordsCondition(String(values[0])),
  ref: refCondition,
  enum: (field, { values }) => sql`${valueOf(field)}::text = any(${values.map(String)}::text[])`,
};

function conditionSql(condition: Condition, looked: Looked): Expression {
  const field = knownField(condition.field);
  return condition.test === 'has' ? isSaid(field) : SAYINGS[field.type](field, condition, looked);
}

function nodeSql(node: Node, looked: Looked): Expression {
  if (isCondition(node)) {
    const plain = sql`coalesce((${conditionSql(node, looked)}), false)`;
    return node.not ? sql`not ${plain}` : plain;
  }
  const [word, nodes] = groupOf(node);
  if (word === 'spans')
    return sql`i.id in (select i.of_id from ${FROM}
      where i.of_id is not null and ${through(looked.sight, 'i')} and ${allOf(nodes, looked)})`;
  const parts = nodes.map((one) => nodeSql(one, looked));
  if (word === 'all') return parts.length > 0 ? sql`(${sql.join(parts, sql` and `)})` : sql`true`;
  const any = parts.length > 0 ? sql`(${sql.join(parts, sql` or `)})` : sql`false`;
  return word === 'any' ? any : sql`not ${any}`;
}

const allOf = (nodes: readonly Node[], looked: Looked): Expression =>
  sql.join([sql`true`, ...nodes.map((node) => nodeSql(node, looked))], sql` and `);

/** A query ready to be asked: its condition; its order, ties by catalogue number, unknown values last. */
export interface AskedQuery {
  where: Expression;
  order: Expression;
  /** The query with every name looked up. */
  query: Query;
}

function orderSql({ order, where }: Query): Expression {
  const collection = idsIn(where, 'collection')[0];
  const field = fieldOf(order.by === 'hand' ? 'taken' : order.by)!;
  const key =
    order.by === 'hand' && collection
      ? sql`(select ci.position from collection_item ci
          where ci.item_id = i.id and ci.collection_id = ${collection}::uuid)`
      : orderOf(field);
  return order.down
    ? sql`${key} desc nulls last, i.number_key desc`
    : sql`${key} asc nulls last, i.number_key asc`;
}

/**
 * All of a tree. What standing collections find is found once each, however often they are named: a statement grows with
 * how many there are, never with how they name one another.
 */
function whole(nodes: readonly Node[], looked: Looked): Expression {
  const own = allOf(nodes, looked);
  if (looked.standing.size === 0) return own;
  const found = [...looked.standing].map(
    ([id, name]) =>
      sql`${sql.table(name)} as materialized (select i.id from ${FROM} where ${allOf(looked.collections.get(id)!, looked)})`,
  );
  return sql`i.id in (with ${sql.join(found)} select i.id from ${FROM} where ${own})`;
}

/** Look up what a query names, and say it in SQL over FROM. */
export async function asked(db: Db, viewer: Viewer, query: Query): Promise<AskedQuery> {
  const { query: named } = await resolve(db, query);
  const sight = sightOfQuery(viewer, named);
  const looked = await lookUp(db, named.where, sight);
  return {
    where: sql`${through(sight, 'i')} and ${whole(named.where, looked)}`,
    order: orderSql(named),
    query: named,
  };
}
