import { sql, type Kysely, type Transaction } from 'kysely';
import { nameOf, type Name } from '#core/choices/closest';
import type { Field } from '#core/fields/field';
import { REF_KINDS, REFS, type RefKind } from '#core/fields/refs';
import { fieldOf } from '#core/fields/registry';
import { dictionaryOf, possibleNames, type Dictionary, type Named } from '#core/english/dictionary';
import { conditionsOf, idOfRef, mapRefs, refTo, type Query } from '#core/query/tree';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import type { Database } from '../db/schema';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

/** Every name of a kind with its id, as SQL. Names are compared in lower case. */
export const NAMES: Record<RefKind, ReturnType<typeof sql>> = {
  term: sql`select t.id, t.label from term t`,
  stage: sql`select s.id, s.name as label from stage s`,
  collection: sql`select c.id, c.name as label from collection c where ${isHeld('c')}`,
  accession: sql`select a.id, a.year || '.' || lpad(a.number::text, greatest(3, length(a.number::text)), '0') as label
    from accession a`,
  person: sql`select p.id, p.name as label from person p`,
  folder: sql`select d.id, case when d.path = '' then p.name else p.name || '/' || d.path end as label
    from folder d join place p on p.id = d.place_id where d.path <> ${WASTEBASKET}`,
};

/** What else they are called: found by it, never shown. */
const ALIASES: Partial<Record<RefKind, ReturnType<typeof sql>>> = {
  term: sql`select l.term_id as id, l.label from term_label l`,
  stage: sql`select s.id, former as label from stage s cross join lateral unnest(s.formerly) as former`,
};
/** All that names of a kind are found by, the name itself first. */
const looked = (kind: RefKind): ReturnType<typeof sql> =>
  ALIASES[kind]
    ? sql`select id, label, 0 as rank from (${NAMES[kind]}) own
        union all select id, label, 1 from (${ALIASES[kind]}) other`
    : sql`select id, label, 0 as rank from (${NAMES[kind]}) own`;

const plain = (kind: RefKind, label: string): string =>
  REFS[kind].plain?.(label) ?? label.toLowerCase();

async function idsOf(db: Db, kind: RefKind, labels: string[]): Promise<Map<string, string>> {
  if (labels.length === 0) return new Map();
  const wished = [...new Set(labels.map((label) => plain(kind, label)))];
  const { rows } = await sql<{ id: string; label: string }>`
    select id, label from (${looked(kind)}) named where lower(label) = any(${wished}::text[])
    order by rank desc`.execute(db);
  return new Map(rows.map(({ id, label }) => [label.toLowerCase(), id]));
}

/** What a query names, looked up: references by id. `unknown` are the names nobody knows. */
export interface Resolved {
  query: Query;
  unknown: { field: Field; label: string }[];
}

/** Look up the labels a query holds in place of ids. */
export async function resolve(db: Db, query: Query): Promise<Resolved> {
  const labels = new Map<RefKind, Set<string>>();
  for (const { field: key, test, values } of conditionsOf(query.where)) {
    const kind = fieldOf(key)?.of;
    if (!kind || test === 'has') continue;
    for (const value of values)
      if (!idOfRef(value)) labels.set(kind, (labels.get(kind) ?? new Set()).add(String(value)));
  }
  if (labels.size === 0) return { query, unknown: [] };
  const found = new Map<RefKind, Map<string, string>>();
  for (const [kind, names] of labels) found.set(kind, await idsOf(db, kind, [...names]));
  const unknown: Resolved['unknown'] = [];
  const resolved = mapRefs(query, (field, value) => {
    if (idOfRef(value)) return value;
    const id = found.get(field.of!)?.get(plain(field.of!, value));
    if (!id) unknown.push({ field, label: value });
    return id ? refTo(id) : value;
  });
  return { query: resolved, unknown };
}

/** Labels of the references of a query, by reference. */
export async function labelsOf(db: Db, query: Query): Promise<Record<string, string>> {
  const ids = new Map<RefKind, Set<string>>();
  for (const { field: key, values } of conditionsOf(query.where)) {
    const kind = fieldOf(key)?.of;
    if (!kind) continue;
    for (const value of values) {
      const id = idOfRef(value);
      if (id) ids.set(kind, (ids.get(kind) ?? new Set()).add(id));
    }
  }
  const labels: Record<string, string> = {};
  for (const [kind, wished] of ids) {
    const { rows } = await sql<{ id: string; label: string }>`
      select id, label from (${NAMES[kind]}) named where id = any(${[...wished]}::uuid[])`.execute(
      db,
    );
    for (const { id, label } of rows) labels[refTo(id)] = label;
  }
  return labels;
}

/** More names than one person's archive has without an index; who has more has the index. */
const MOST_LISTED = 20_000;

/** Everything that has a name. */
export async function allNames(db: Db): Promise<Name[]> {
  const parts = REF_KINDS.map(
    (kind) => sql`(select ${sql.lit(kind)} as kind, id::text, label from (${NAMES[kind]}) named
      limit ${MOST_LISTED})`,
  );
  const { rows } = await sql<{ kind: RefKind; id: string; label: string }>`
    ${sql.join(parts, sql` union all `)}`.execute(db);
  return rows.map(({ kind, id, label }) => nameOf(kind, id, label));
}

const MOST_NAMES = 2000;

/** Everything a text may name, looked up at once, for reading it as a sentence. */
export async function namesFor(db: Db, text: string): Promise<Named[]> {
  const names = possibleNames(text).slice(0, MOST_NAMES);
  const parts = REF_KINDS.map(
    (kind) => sql`select ${sql.lit(kind)} as kind, id::text, label from (${looked(kind)}) named
      where lower(label) = any(${names}::text[])`,
  );
  const { rows } = await sql<Named>`
    ${sql.join(parts, sql` union all `)}
    union all select 'folder', d.id::text, d.name from folder d where lower(d.name) = any(${names}::text[]) and d.path not in ('', ${WASTEBASKET})
    limit ${MOST_NAMES}`.execute(db);
  return rows;
}

/** As {@link namesFor}, to be asked name by name. */
export const dictionaryFor = async (db: Db, text: string): Promise<Dictionary> =>
  dictionaryOf(await namesFor(db, text));
