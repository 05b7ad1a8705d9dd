import { readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { setImmediate } from 'node:timers/promises';
import { sql } from 'kysely';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { ALL_FIELDS } from '#core/fields/registry';
import { HOUSE } from '#core/sight/viewer';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { groupFieldOf, type Query } from '#core/query/tree';
import { choicesOf, holdings } from '#server/catalogue/facets';
import { findIds, wallOf } from '#server/catalogue/find';
import { addCollection, addItems, removeCollection } from '#server/collections/collections';
import { answerFrom } from '#server/index/answer';
import { askIndex } from '#server/index/client';
import { readChanged, readNames, type Names } from '#server/index/names';
import { LivingIndex } from '#server/index/living';
import { startIndex } from '#server/index/serve';
import { restored, saved } from '#server/index/snapshot';
import { startListening } from '#server/live/listen';
import type { RefKind } from '#core/fields/refs';
import type { LiveMessage } from '#core/live/messages';
import { resolve } from '#server/query/names';
import { changeRecords } from '#server/records/records';
import { NOBODY, until, useArchive } from '../support/archive';
import { makeItems, type Plain } from '../support/made';
import { queries } from '../support/queries';
import { ASKED } from '../support/asked';
import { asSeen } from '#server/sight/seen';

/** The index says what SQL says, whatever is asked and whatever happens. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
let items: Plain[] = [];
let living: LivingIndex;
beforeAll(async () => {
  items = await makeItems(archive);
  living = new LivingIndex(db(), archive.house.pool);
  await living.build();
}, 60_000);

const query = queries(ASKED, 3);
const sorted = ALL_FIELDS.filter(
  ({ uses }) => uses.includes('count') && !['long-text', 'yes-no', 'position'].includes(''),
);

async function agree(wished: Query, field: string): Promise<void> {
  const { query: named } = await resolve(db(), wished);
  const text = formatQuery(named);
  const ids = await answerFrom(living, { ask: 'ids', query: named, from: 0, to: 100_000 });
  expect([text, ids]).toEqual([text, await findIds(db(), HOUSE, named)]);
  const wall = await answerFrom(living, { ask: 'wall', query: named });
  const truth = await wallOf(db(), HOUSE, named);
  expect([text, wall.total, wall.bytes]).toEqual([text, truth.total, truth.bytes]);
  const plain = (groups: typeof truth.groups) =>
    groups.map(({ key, count, from, to, wide }) => [
      key,
      count,
      from?.slice(0, 19),
      to?.slice(0, 19),
      wide.toFixed(0),
    ]);
  if (groupFieldOf(named) !== 'accession')
    expect([text, plain(wall.groups)]).toEqual([text, plain(truth.groups)]);
  const choices = await answerFrom(living, {
    ask: 'choices',
    query: named,
    field,
    at: -1,
    typed: '',
  });
  const told = await choicesOf(db(), HOUSE, named, { field });
  const pairs = (found: typeof told) => [
    ...found.choices
      .filter(({ count }) => count > 0)
      .map(({ value, label, count }) => [value, label, count])
      .sort(),
    found.lacking,
  ];
  expect([text, field, pairs(choices)]).toEqual([text, field, pairs(told)]);
  const folders = await answerFrom(living, { ask: 'folders', query: named });
  const tree = await holdings(db(), HOUSE, named);
  const counts = (found: typeof tree) =>
    found.map(({ id, count, here, folders: below }) => [id, count, here, below]).sort();
  expect([text, counts(folders)]).toEqual([text, counts(tree)]);
}

const fields = sorted.map(({ key }) => key);
const agrees = (numRuns: number): Promise<void> =>
  fc.assert(fc.asyncProperty(query, fc.constantFrom(...fields), agree), { numRuns });

/** Names as they are read, whatever the order they came in. */
const told = (names: Names) => ({
  ...names,
  below: new Map([...names.below].flatMap(([id, own]) => (own.length ? [[id, own.sort()]] : []))),
});

describe('the index', () => {
  it('says what SQL says', () => agrees(120), 120_000);

  it('says so after edits, deletions, moves of terms and folders, and collections that come and go', async () => {
    const some = (from: number, count: number): string[] =>
      items.slice(from, from + count).map(({ id }) => id);
    const check = async (): Promise<void> => {
      expect(await living.catchUp()).not.toBeNull();
      expect(told(living.names)).toEqual(told(await readNames(db())));
      await agrees(15);
    };
    await changeRecords(db(), null, asSeen(some(0, 60)), {
      rating: 5,
      addTerms: ['New one under Kite'],
      headline: 'Set here',
    });
    await check();
    await db()
      .updateTable('item')
      .set({ deletedAt: new Date() })
      .where('id', 'in', some(60, 20))
      .execute();
    await check();
    await sql`insert into term_broader (term_id, broader_id)
      select t.id, b.id from term t, term b where t.label = 'Box kite' and b.label = 'Dusk'`.execute(
      db(),
    );
    await check();
    await sql`update folder set path = 'Renamed', name = 'Renamed' where path = 'Brand'`.execute(
      db(),
    );
    await check();
    const [twin, of] = some(120, 2) as [string, string];
    await db()
      .insertInto('lineage')
      .values({ itemId: twin, kind: 'twin of', ofId: of, createdBy: null, createdAt: new Date() })
      .execute();
    await check();
    await agree(parseQuery('has twin'), 'rating');
    await db().updateTable('item').set({ deletedAt: new Date() }).where('id', '=', of).execute();
    await living.catchUp();
    await agree(parseQuery('has twin'), 'rating');
    const rounds = await addCollection(db(), null, 'Second round');
    await addItems(db(), NOBODY, rounds, asSeen(some(10, 30)));
    await addCollection(
      db(),
      null,
      'Standing here',
      '',
      (await resolve(db(), parseQuery('rated 4..'))).query,
    );
    await check();
    await agree(parseQuery('collection "Standing here", "Second round"; order hand'), 'rating');
    await removeCollection(db(), NOBODY, rounds);
    for (const here of [false, true, false]) {
      await sql`update place set here = ${here} where name = 'Travel 50%'`.execute(db());
      // However many items lie in it, it is one change.
      const { rows } = await sql`select 1 from change_log where kind = 'place'`.execute(db());
      expect(rows.length).toBeGreaterThan(0);
      await check();
      await agree(parseQuery('file away'), 'file');
    }
    expect(await living.catchUp()).toBeNull();
  }, 180_000);

  it('is told of names, not of what else happens to what has one', async () => {
    for (const change of [
      `update place set looked_at = now()`,
      `update accession set reason = 'none', state = 'running'`,
      `update person set updated_at = now()`,
      `update collection as kept set note = 'Another'`,
    ]) {
      await sql.raw(change).execute(db());
      expect([change, await living.catchUp()]).toEqual([change, null]);
    }
    await sql`update accession set title = title || ' again'`.execute(db());
    expect(await living.catchUp()).toEqual({ ids: [] });
  });

  it('misses nothing of transactions that commit late', async () => {
    const [early, late] = items.slice(100, 102).map(({ id }) => id) as [string, string];
    const title = async (): Promise<void> => agree(parseQuery('title is "Late"'), 'rating');
    await db()
      .transaction()
      .execute(async (slow) => {
        await slow.updateTable('item').set({ title: 'Late' }).where('id', '=', late).execute();
        await db().updateTable('item').set({ title: 'Late' }).where('id', '=', early).execute();
        await living.catchUp();
        await title();
        await db().updateTable('item').set({ rating: 2 }).where('id', '=', early).execute();
        await living.catchUp();
      });
    await living.catchUp();
    await title();
    await agree(parseQuery('rated 2'), 'stage');
  });

  it('reads what is called otherwise and no other name, and keeps the orders that do not hang on it', async () => {
    const all = living.nameList().length;
    const names = await readNames(db());
    const { rows } = await sql<{ id: string }>`select id from term where label = 'Dusk'`.execute(
      db(),
    );
    const term = rows[0]!.id;
    const change = async (kind: RefKind, ids: string[]) =>
      (await readChanged(db(), new Map([[kind, ids]])))(names);
    await sql`update term set label = 'Blue hour' where id = ${term}`.execute(db());
    expect(await change('term', [term])).toEqual({ kinds: ['term'], orders: [], moved: [] });
    expect(names.labels.term.get(term)).toBe('Blue hour');
    await living.catchUp();
    expect(living.nameList()).toHaveLength(all);
    expect(living.nameList().map(({ label }) => label)).toContain('Blue hour');
    const [folder] = [...living.names.folders].find(([, { path }]) => path === 'Wind Week/Night')!;
    await sql`update folder set path = 'Wind Week/Dark', name = 'Dark' where id = ${folder}`.execute(
      db(),
    );
    expect(await change('folder', [folder])).toMatchObject({ orders: ['folder'] });
    await sql`delete from term_broader where term_id = ${term}`.execute(db());
    await sql`insert into term_broader (term_id, broader_id) select ${term}, id from term where label = 'Kite'`.execute(
      db(),
    );
    expect(await change('term', [term])).toMatchObject({ moved: [term] });
    await living.catchUp();
    await agree(parseQuery('terms Kite'), 'folder');
  });

  it('tells all of what changed at one moment, whatever of it has to be read', async () => {
    const ids = items.slice(200, 300).map(({ id }) => id);
    const query = parseQuery('rated 4');
    const total = async (): Promise<number> =>
      Number(await answerFrom(living, { ask: 'total', query }));
    await db().updateTable('item').set({ rating: 1 }).where('id', 'in', ids).execute();
    await living.catchUp();
    const before = await total();
    await db().updateTable('item').set({ rating: 4 }).where('id', 'in', ids).execute();
    // The words of half of them are other ones as well.
    await sql`update item_words set words = words || to_tsvector('simple', 'elsewhere')
      where item_id = any(${ids.slice(0, 50)}::uuid[])`.execute(db());
    const told = new Set<number>();
    let isCaught = false;
    const caught = living.catchUp().finally(() => (isCaught = true));
    while (!isCaught) {
      told.add(await total());
      await setImmediate();
    }
    await caught;
    told.add(await total());
    expect([...told]).toEqual([before, before + ids.length]);
  });

  it('says when it counts what changed', async () => {
    const { house } = archive;
    const query = parseQuery('rated 3');
    const index = startIndex(house, null);
    await index.ready;
    const counts: (number | null)[] = [];
    startListening(house, {
      hear(text) {
        const { about } = JSON.parse(text) as LiveMessage;
        if (about === 'counted')
          void askIndex(house, { ask: 'total', query }, null).then((total) => counts.push(total));
      },
      again: () => undefined,
    });
    try {
      const ids = items.slice(200, 230).map(({ id }) => id);
      const before = await askIndex(house, { ask: 'total', query }, null);
      await changeRecords(db(), null, asSeen(ids), { rating: 3 });
      await until(() => Promise.resolve(counts.length > 0), 'it to be told', 10);
      expect(counts.at(-1)).toBeGreaterThan(before!);
      expect(counts.at(-1)).toBe((await findIds(db(), HOUSE, query)).length);
    } finally {
      await index.stop();
    }
  });

  it('goes on from its snapshot, and notices one that is torn or old', async () => {
    const path = join(archive.folder, 'index.snapshot');
    writeFileSync(path, Buffer.concat([...saved(living)]));
    const bytes = readFileSync(path);
    await changeRecords(db(), null, asSeen([items[5]!.id]), { title: 'After the snapshot' });
    const again = new LivingIndex(db(), archive.house.pool);
    expect(await restored(again, path)).toBe(true);
    await again.catchUp();
    const before = living;
    living = again;
    await agrees(25);
    living = before;
    await living.catchUp();
    const torn = Buffer.from(bytes);
    torn[torn.length - 40]! ^= 1;
    const tooLong = Buffer.from(bytes);
    tooLong.writeBigUInt64LE(1n << 52n, 16);
    for (const wrong of [
      torn,
      tooLong,
      bytes.subarray(0, bytes.length - 9),
      'nothing of ours',
      '',
    ]) {
      writeFileSync(path, wrong);
      expect(await restored(new LivingIndex(db(), archive.house.pool), path)).toBe(false);
    }
    rmSync(path);
    expect(await restored(new LivingIndex(db(), archive.house.pool), path)).toBe(false);
  }, 60_000);
});
