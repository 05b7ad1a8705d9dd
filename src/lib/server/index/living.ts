import { sql, type Kysely } from 'kysely';
import type { Pool } from 'pg';
import { Answers, countedHere, type Counting } from '#core/index/answers';
import { filled, say, type Bits } from '#core/index/bits';
import { isSlow, slowKey, type Surroundings } from '#core/index/evaluate';
import { ShelfIndex } from '#core/index/shelfIndex';
import type { Name } from '#core/choices/closest';
import { isRefKind, type RefKind } from '#core/fields/refs';
import { HOUSE } from '#core/sight/viewer';
import { conditionsOf, EVERYTHING, type Condition, type Node, type Query } from '#core/query/tree';
import type { Database } from '../db/schema';
import { asked, refuseTooMany } from '../query/conditions';
import { FROM } from '../query/expressions';
import type { Counter } from './counter';
import { loadAll, loadItems, loadStates, type Change } from './load';
import { NameList, readChanged, readNames, type Names, type Renamed } from './names';

type Db = Kysely<Database>;

/** Items changed at once beyond which everything is read anew. */
const MOST_CHANGED = 200_000;
/** So many are taken in at one moment: nobody is told one half of what changed. Of more whoever asks has a turn in between. */
const MOST_AT_ONCE = 20_000;
/** Trees of folders kept for those who ask again. */
const MOST_REMEMBERED = 12;

/** A query with the conditions of what the one who asks may see, for spans it asks clips about. */
export type SeenQuery = Query & { seen?: readonly Node[] };

/** An index that follows the change log. */
export class LivingIndex {
  index = new ShelfIndex();
  answers!: Answers;
  names!: Names;
  /** Transactions below this were all seen. */
  horizon = '0';
  /** Changes of transactions at or above the horizon that were taken in already. */
  #seen = new Set<number>();
  /** When the log was last read to its end. */
  caughtUpAt = 0;
  #slow = new Map<string, Bits>();
  #slowVersion = 0;
  #hands = new Map<string, ReadonlyMap<string, number>>();

  constructor(
    readonly db: Db,
    readonly pool: Pool,
    /** Who counts besides this thread. */
    readonly counter: Counter | null = null,
  ) {
    this.#wire();
  }

  #wire(): void {
    this.answers = new Answers(
      this.index,
      (field) => this.#ranks(field),
      (collection) => this.#hands.get(collection) ?? null,
    );
  }

  #ranks(field: string): ReadonlyMap<string | number, number> | null {
    if (field === 'stage') return this.names.stages;
    if (field !== 'folder') return null;
    const named = [...this.names.folders].map(
      ([id, { place, path }]) => [id, `${place}/${path}`.toLowerCase()] as const,
    );
    named.sort(([, a], [, b]) => (a < b ? -1 : a > b ? 1 : 0));
    return new Map(named.map(([id], at) => [id, at]));
  }

  /** Where the log stands now: what later transactions do is read from here. */
  async #mark(): Promise<string> {
    const { rows } = await sql<{
      at: string;
    }>`select pg_snapshot_xmin(pg_current_snapshot())::text as at`.execute(this.db);
    return rows[0]!.at;
  }

  /** How often everything was read from the database. */
  builds = 0;
  /** Read everything from the database. */
  async build(tell?: (done: number) => void): Promise<void> {
    this.builds += 1;
    const horizon = await this.#mark();
    const index = new ShelfIndex();
    const names = await readNames(this.db);
    // Nobody asks it yet.
    const change: Change = (act) => Promise.resolve(act());
    await loadAll({ db: this.db, pool: this.pool, index, names, change }, tell);
    this.take(index, names, horizon);
    await this.catchUp();
  }

  /** Go on from an index that was true at a horizon. */
  take(index: ShelfIndex, names: Names, horizon: string): void {
    this.index = index;
    this.names = names;
    this.#list.forget();
    this.horizon = horizon;
    this.#seen.clear();
    this.#wire();
    index.prepare();
    this.answers.prepare();
  }

  /** Whether the change log still tells everything since a horizon: it is pruned, and a database may be another one. */
  async reaches(horizon: string): Promise<boolean> {
    const { rows } = await sql<{ reaches: boolean }>`
      select ${horizon}::xid8 <= pg_snapshot_xmin(pg_current_snapshot())
        and ${horizon}::xid8 >= (select pruned_below from change_log_reach) as reaches`.execute(
      this.db,
    );
    return rows[0]?.reaches === true;
  }

  /** Take in what changed since. @returns ids of the items that did, none: many, or of what has a name; null: nothing did */
  async catchUp(): Promise<{ ids: string[] } | null> {
    // The snapshot is taken first: what commits between the two is read again, never missed.
    const next = await this.#mark();
    const { rows } = await sql<{ no: number; kind: string; subject: string }>`
      select no, kind, subject from change_log where xid >= ${this.horizon}::xid8 order by no limit ${MOST_CHANGED + 1}`.execute(
      this.db,
    );
    if (rows.length > MOST_CHANGED) {
      await this.build();
      return { ids: [] };
    }
    const fresh = rows.filter(({ no }) => !this.#seen.has(no));
    const named = new Map<RefKind, string[]>();
    for (const { kind, subject } of fresh)
      if (isRefKind(kind)) named.set(kind, [...(named.get(kind) ?? []), subject]);
    const places = fresh.filter(({ kind }) => kind === 'place').map(({ subject }) => subject);
    const worded = new Set(
      fresh.filter(({ kind }) => kind === 'words').map(({ subject }) => subject),
    );
    const items = [
      ...new Set(fresh.filter(({ kind }) => kind === 'item').map(({ subject }) => subject)),
      ...worded,
    ];
    const renamed = await this.#rename(named);
    if (named.has('collection')) items.push(...(await this.#inCollections(fresh)));
    items.push(...(await this.#under(renamed.moved)));
    items.push(...(await this.#twinsOf(items)));
    const { db, pool, index, names } = this;
    const ids = [...new Set(items)];
    const kept: (() => void)[] = [];
    const keep: Change = (act) => Promise.resolve(void kept.push(act));
    const change: Change = ids.length > MOST_AT_ONCE ? (act) => this.#change(act) : keep;
    const reading = { db, pool, index, names, change };
    await loadItems(reading, { ids, worded });
    await loadStates(reading, [...new Set(places)]);
    await this.#change(() => {
      for (const act of kept) act();
      this.index.settle();
      this.answers.settle();
    });
    if (fresh.length > 0) this.#hands.clear();
    const { rows: below } = await sql<{
      no: number;
    }>`select no from change_log where xid >= ${next}::xid8`.execute(this.db);
    const open = new Set(below.map(({ no }) => no));
    for (const { no } of rows) if (open.has(no)) this.#seen.add(no);
    for (const no of this.#seen) if (!open.has(no)) this.#seen.delete(no);
    this.horizon = next;
    this.caughtUpAt = Date.now();
    if (fresh.length === 0) return null;
    return { ids: named.size > 0 || places.length > 0 ? [] : ids };
  }

  readonly #counting = new Set<Promise<unknown>>();
  #isToChange = false;
  /** Let others count what lies in the columns: they do not change meanwhile. */
  async counting<T>(count: (how: Counting) => Promise<T>): Promise<T> {
    const how: Counting = (parts) =>
      this.counter && !this.#isToChange
        ? this.counter.count(parts)
        : Promise.resolve(countedHere(parts));
    const counted = count(how);
    this.#counting.add(counted);
    try {
      return await counted;
    } finally {
      this.#counting.delete(counted);
    }
  }
  /** Change the columns, once nobody counts any more; who begins meanwhile counts in this thread. */
  async #change(act: () => void): Promise<void> {
    this.#isToChange = true;
    try {
      while (this.#counting.size > 0) await Promise.allSettled([...this.#counting]);
      act();
    } finally {
      this.#isToChange = false;
    }
  }

  /** Take all that changed into the columns, before they are saved. */
  async settle(): Promise<void> {
    await this.#change(() => this.index.settle(1));
  }

  readonly #list = new NameList();
  /** Everything that has a name, for those who type. */
  nameList(): readonly Name[] {
    return this.#list.of(this.names);
  }

  /** Read what is called otherwise, and keep the orders it does not change. */
  async #rename(named: ReadonlyMap<RefKind, readonly string[]>): Promise<Renamed> {
    if (named.size === 0) return { kinds: [], orders: [], moved: [] };
    const take = await readChanged(this.db, named);
    const renamed = take(this.names);
    // What was made of the names before is made anew.
    this.names = { ...this.names };
    this.#list.forget(renamed.kinds);
    for (const field of renamed.orders) this.answers.orders.forget(field);
    this.index.touch();
    return renamed;
  }

  #remembered = new Map<string, unknown>();
  #rememberedAt = 0;
  /** What was made of this version of the index before, or is made now. */
  async remember<T>(key: string, make: () => Promise<T>): Promise<T> {
    if (this.#rememberedAt !== this.index.version) this.#remembered.clear();
    this.#rememberedAt = this.index.version;
    if (this.#remembered.size > MOST_REMEMBERED) this.#remembered.clear();
    if (!this.#remembered.has(key)) this.#remembered.set(key, await make());
    return this.#remembered.get(key) as T;
  }

  /** Items that have one of some terms, or one below. */
  async #under(terms: readonly string[]): Promise<string[]> {
    if (terms.length === 0) return [];
    const { rows } = await sql<{ id: string }>`
      with recursive narrower as (
        select t.id from term t where t.id = any(${[...terms]}::uuid[])
        union select b.term_id from term_broader b join narrower n on b.broader_id = n.id
      ) select distinct it.item_id as id from item_term it join narrower n on n.id = it.term_id`.execute(
      this.db,
    );
    return rows.map(({ id }) => id);
  }

  /** Whether an item is held twice is told by its twins as well: by one that goes, or comes back. */
  async #twinsOf(ids: string[]): Promise<string[]> {
    if (ids.length === 0) return [];
    const { rows } = await sql<{ id: string }>`
      select of_id as id from lineage where kind = 'twin of' and item_id = any(${ids}::uuid[])
      union select item_id from lineage where kind = 'twin of' and of_id = any(${ids}::uuid[])`.execute(
      this.db,
    );
    return rows.map(({ id }) => id);
  }

  /** Items of collections that were let go of or came back. */
  async #inCollections(fresh: { kind: string; subject: string }[]): Promise<string[]> {
    const ids = fresh.filter(({ kind }) => kind === 'collection').map(({ subject }) => subject);
    const { rows } = await sql<{ id: string }>`select distinct item_id as id from collection_item
      where collection_id = any(${ids}::uuid[])`.execute(this.db);
    return rows.map(({ id }) => id);
  }

  /** What conditions speak of; asks the database for what the columns do not hold. */
  async around(query: SeenQuery): Promise<Surroundings> {
    if (this.#slowVersion !== this.index.version) this.#slow.clear();
    this.#slowVersion = this.index.version;
    const names = this.names;
    const nodes: Node[] = [...query.where];
    const standing = new Set<string>();
    const conditions: Condition[] = [];
    for (let at = 0; at < nodes.length; at += 1)
      for (const condition of conditionsOf([nodes[at]!])) {
        conditions.push(condition);
        if (condition.field !== 'collection') continue;
        for (const value of condition.values) {
          const id = String(value).slice(1);
          const where = names.collections.get(id);
          if (where && !standing.has(id)) {
            standing.add(id);
            refuseTooMany([...standing].map((one) => names.collections.get(one)));
            nodes.push(...where);
          }
        }
      }
    for (const condition of conditions) if (isSlow(condition)) await this.#ask(condition);
    if (query.order.by === 'hand')
      for (const { field, values } of conditions)
        if (field === 'collection') await this.#readHand(String(values[0]).slice(1));
    return {
      foldersBelow: function* foldersBelow(id: string): Generator<string> {
        yield id;
        for (const child of names.below.get(id) ?? []) yield* foldersBelow(child);
      },
      collection: (id) => names.collections.get(id),
      now: new Date(),
      slow: this.#slow,
      seen: query.seen ?? [],
    };
  }

  async #ask(condition: Condition): Promise<void> {
    const key = slowKey(condition);
    if (this.#slow.has(key)) return;
    const { field, test, values } = condition;
    const plain: Condition = { field, test, values };
    const { where } = await asked(this.db, HOUSE, { ...EVERYTHING, where: [plain] });
    const { rows } = await sql<{ ord: number }>`select i.ord from ${FROM} where ${where}`.execute(
      this.db,
    );
    const hits = filled(this.index.size, false);
    for (const { ord } of rows) if (ord < this.index.size) say(hits, ord, true);
    this.#slow.set(key, hits);
  }

  async #readHand(id: string): Promise<void> {
    if (this.#hands.has(id)) return;
    const rows = await this.db
      .selectFrom('collectionItem')
      .select(['itemId', 'position'])
      .where('collectionId', '=', id)
      .execute();
    this.#hands.set(id, new Map(rows.map(({ itemId, position }) => [itemId, position])));
  }
}
