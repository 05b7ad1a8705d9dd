import { sql, type Kysely, type RawBuilder } from 'kysely';
import { nameOf, type Name } from '#core/choices/closest';
import { REF_KINDS, type RefKind } from '#core/fields/refs';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import type { Node } from '#core/query/tree';
import type { Database } from '../db/schema';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database>;

/** Everything the index needs to know by name. */
export interface Names {
  /** Small integer of each term → its id and the small integers of the broader ones, in order of their ids. */
  terms: Map<number, { id: string; broader: number[] }>;
  /** Every folder with the one above and what it is called, for its order. */
  folders: Map<
    string,
    { parentId: string | null; placeId: string; place: string; path: string; name: string }
  >;
  below: Map<string, string[]>;
  collections: Map<string, Node[] | null>;
  stages: Map<string, number>;
  /** What each is called, kind by kind; of a folder the whole way. */
  labels: Record<RefKind, Map<string, string>>;
}

/** How names of a kind are read, all or some, and taken in. */
interface Reading<Row extends { id: string }> {
  read: (db: Db, ids: readonly string[] | null) => Promise<Row[]>;
  take: (names: Names, row: Row) => void;
  drop: (names: Names, id: string) => void;
}

/** Rows of an alias, all or those with some ids. */
const some = (ids: readonly string[] | null, column: string): RawBuilder<boolean> =>
  ids === null ? sql<boolean>`true` : sql<boolean>`${sql.ref(column)} = any(${[...ids]}::uuid[])`;

const reading = <Row extends { id: string }>(one: Reading<Row>): Reading<{ id: string }> =>
  one as unknown as Reading<{ id: string }>;

const called = (labels: Names['labels'], kind: RefKind, id: string, label: string): void =>
  void labels[kind].set(id, label);

/** Of kinds of which only the name matters. */
const labelled = (
  kind: RefKind,
  read: Reading<{ id: string; label: string }>['read'],
): Reading<{ id: string }> =>
  reading<{ id: string; label: string }>({
    read,
    take: ({ labels }, { id, label }) => called(labels, kind, id, label),
    drop: ({ labels }, id) => void labels[kind].delete(id),
  });

const term = reading<{ id: string; ord: number; label: string; broader: number[] }>({
  read: async (db, ids) =>
    (
      await sql<{ id: string; ord: number; label: string; broader: number[] }>`
        select t.ord, t.id, t.label,
          coalesce(array_agg(a.ord order by a.id) filter (where a.id is not null), '{}') as broader
        from term t left join term_broader b on b.term_id = t.id left join term a on a.id = b.broader_id
        where ${some(ids, 't.id')} group by t.id`.execute(db)
    ).rows,
  take({ terms, labels }, { id, ord, label, broader }) {
    terms.set(ord, { id, broader });
    called(labels, 'term', id, label);
  },
  drop({ terms, labels }, id) {
    labels.term.delete(id);
    for (const [ord, { id: own }] of terms) if (own === id) terms.delete(ord);
  },
});

interface FolderRow {
  id: string;
  parentId: string | null;
  placeId: string;
  place: string;
  path: string;
  name: string;
}
const unhung = ({ below, folders }: Names, id: string): void => {
  const above = folders.get(id)?.parentId;
  const beside = above ? below.get(above) : undefined;
  if (above && beside)
    below.set(
      above,
      beside.filter((one) => one !== id),
    );
};
const folder = reading<FolderRow>({
  read: async (db, ids) =>
    (
      await sql<FolderRow>`
        select d.id, d.parent_id, d.place_id, p.name as place, d.path, case when d.path = '' then p.name else d.name end as name
        from folder d join place p on p.id = d.place_id where d.path <> ${WASTEBASKET}
          and (${some(ids, 'd.id')} or ${some(ids, 'd.place_id')})`.execute(db)
    ).rows,
  take(names, { id, ...row }) {
    const before = names.folders.get(id);
    if (before?.parentId !== row.parentId) {
      unhung(names, id);
      if (row.parentId)
        names.below.set(row.parentId, [...(names.below.get(row.parentId) ?? []), id]);
    }
    names.folders.set(id, row);
    called(names.labels, 'folder', id, row.path === '' ? row.place : `${row.place}/${row.path}`);
  },
  drop(names, id) {
    unhung(names, id);
    names.folders.delete(id);
    names.labels.folder.delete(id);
  },
});

const collection = reading<{ id: string; name: string; query: { where: Node[] } | null }>({
  read: (db, ids) =>
    db
      .selectFrom('collection')
      .select(['id', 'name', 'query'])
      .where(isHeld('collection'))
      .where(some(ids, 'id'))
      .execute(),
  take({ collections, labels }, { id, name, query }) {
    collections.set(id, query?.where ?? null);
    called(labels, 'collection', id, name);
  },
  drop({ collections, labels }, id) {
    collections.delete(id);
    labels.collection.delete(id);
  },
});

const stage = reading<{ id: string; name: string; position: number }>({
  read: (db, ids) =>
    db.selectFrom('stage').select(['id', 'name', 'position']).where(some(ids, 'id')).execute(),
  take({ stages, labels }, { id, name, position }) {
    stages.set(id, position);
    called(labels, 'stage', id, name);
  },
  drop({ stages, labels }, id) {
    stages.delete(id);
    labels.stage.delete(id);
  },
});

const READINGS: Record<RefKind, Reading<{ id: string }>> = {
  term,
  folder,
  collection,
  stage,
  accession: labelled(
    'accession',
    async (db, ids) =>
      (
        await sql<{ id: string; label: string }>`
          select id, year || '.' || lpad(number::text, greatest(3, length(number::text)), '0')
            || ' ' || title as label from accession where ${some(ids, 'id')}`.execute(db)
      ).rows,
  ),
  person: labelled('person', (db, ids) =>
    db.selectFrom('person').select(['id', 'name as label']).where(some(ids, 'id')).execute(),
  ),
};

/** Everything that has a name. */
export async function readNames(db: Db): Promise<Names> {
  const names: Names = {
    terms: new Map(),
    folders: new Map(),
    below: new Map(),
    collections: new Map(),
    stages: new Map(),
    labels: Object.fromEntries(REF_KINDS.map((kind) => [kind, new Map()])) as Names['labels'],
  };
  const all = await Promise.all(REF_KINDS.map((kind) => READINGS[kind].read(db, null)));
  for (const [at, rows] of all.entries())
    for (const row of rows) READINGS[REF_KINDS[at]!].take(names, row);
  return names;
}

/** Fields whose order hangs on names, as they stand. */
const ordersOf = (names: Names, kind: RefKind, ids: Iterable<string>): string =>
  JSON.stringify(
    [...ids].map((id) =>
      kind === 'stage' ? (names.stages.get(id) ?? null) : (names.labels.folder.get(id) ?? null),
    ),
  );
const ORDERED: RefKind[] = ['stage', 'folder'];

/** What became of names. */
export interface Renamed {
  kinds: RefKind[];
  /** Fields whose orders are other ones. */
  orders: string[];
  /** Small integers of terms whose broader ones changed. */
  moved: string[];
}

/**
 * Read those names anew that changed, and no others.
 * @param changed ids, kind by kind; of a folder also that of its place
 * @returns takes them in, once nobody reads; what it changes is told
 */
export async function readChanged(
  db: Db,
  changed: ReadonlyMap<RefKind, readonly string[]>,
): Promise<(names: Names) => Renamed> {
  const read = await Promise.all(
    [...changed].map(
      async ([kind, ids]) => [kind, ids, await READINGS[kind].read(db, ids)] as const,
    ),
  );
  return (names) => {
    const renamed: Renamed = { kinds: [], orders: [], moved: [] };
    for (const [kind, ids, rows] of read) {
      const there = new Set(rows.map(({ id }) => id));
      const all = new Set([...ids, ...there]);
      const before = ORDERED.includes(kind) ? ordersOf(names, kind, all) : '';
      const broader = kind === 'term' ? broaderOf(names, all) : new Map<string, string>();
      for (const id of ids) if (!there.has(id)) READINGS[kind].drop(names, id);
      for (const row of rows) READINGS[kind].take(names, row);
      renamed.kinds.push(kind);
      if (ORDERED.includes(kind) && before !== ordersOf(names, kind, all))
        renamed.orders.push(kind);
      if (kind !== 'term') continue;
      for (const [id, above] of broaderOf(names, all))
        if (broader.has(id) && broader.get(id) !== above) renamed.moved.push(id);
    }
    return renamed;
  };
}

/** The broader terms of some, as text to be compared; one pass, however many are asked for. */
function broaderOf({ terms }: Names, ids: ReadonlySet<string>): Map<string, string> {
  const found = new Map<string, string>();
  for (const { id, broader } of terms.values()) if (ids.has(id)) found.set(id, broader.join());
  return found;
}

/** Everything that has a name, for those who type; a kind is listed anew once it changed. */
export class NameList {
  readonly #lists = new Map<RefKind, Name[]>();
  #all: Name[] | null = null;

  forget(kinds: readonly RefKind[] = REF_KINDS): void {
    for (const kind of kinds) this.#lists.delete(kind);
    this.#all = null;
  }

  of({ labels }: Names): readonly Name[] {
    return (this.#all ??= REF_KINDS.flatMap((kind) => {
      const known =
        this.#lists.get(kind) ?? [...labels[kind]].map(([id, label]) => nameOf(kind, id, label));
      this.#lists.set(kind, known);
      return known;
    }));
  }
}
