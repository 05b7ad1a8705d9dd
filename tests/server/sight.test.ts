import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING } from '#core/query/tree';
import type { Access, Subject } from '#core/access/access';
import type { Role } from '#core/people/roles';
import { HOUSE, sightOfQuery, type Viewer } from '#core/sight/viewer';
import { addPerson } from '#server/auth/people';
import { choicesOf } from '#server/catalogue/facets';
import { countOf, findIds, findTiles, neighboursOf, tilesOf, wallOf } from '#server/catalogue/find';
import { keptCollection, keptCollections } from '#server/collections/kept';
import { idsOfPicked } from '#server/catalogue/picked';
import { rowsFound, rowsOf } from '#server/catalogue/rows';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { densityIn } from '#server/catalogue/spread';
import {
  addCollection,
  addItems,
  removeCollection,
  restoreCollection,
} from '#server/collections/collections';
import { newId } from '#server/house/ids';
import { answerFrom } from '#server/index/answer';
import { LivingIndex } from '#server/index/living';
import type { LiveMessage } from '#core/live/messages';
import { notify, notifyItems } from '#server/live/notify';
import { startStreams } from '#server/live/streams';
import { undo } from '#server/deeds/undo';
import { ledger, operationSteps } from '#server/ledger/ledger';
import { startRename } from '#server/naming/rename';
import { changeRecords, readRecords } from '#server/records/records';
import { summaryOfItems } from '#server/records/summary';
import { accessOfItem, itemsUnder, sayAccess, subjectNamed } from '#server/access/access';
import { fileFor } from '#server/sight/files';
import { asSeen, filedOf, seenIds } from '#server/sight/seen';
import { lettingGo } from '#server/wastebasket/wastebasket';
import { NOBODY, until, useArchive } from '../support/archive';
import { makeItems, type Plain } from '../support/made';

/** What one may not see is nowhere: not listed, not counted, not completed, not shown, not taken in hand. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
let items: Plain[] = [];
let index: LivingIndex;
const TEAMMATE: Viewer = { role: 'teammate', id: '00000000-0000-7000-8000-0000000000bb' };
const VIEWERS: Viewer[] = [
  { role: 'keeper', id: '00000000-0000-7000-8000-0000000000aa' },
  { role: 'contributor', id: '00000000-0000-7000-8000-0000000000cc' },
  TEAMMATE,
  { role: 'rights-desk', id: '00000000-0000-7000-8000-0000000000dd' },
];

const say = async (subject: Subject, name: string, state: Access) =>
  sayAccess(db(), null, { subject, of: await subjectNamed(db(), subject, name), state, note: '' });
const accessOf = async (id: string): Promise<Access> => (await accessOfItem(db(), id)).access;
const idsIn = (test: (one: Plain) => boolean): string[] => items.filter(test).map(({ id }) => id);
/** Put a collection under another one. */
const hang = (id: string, parentId: string | null) =>
  db().updateTable('collection').where('id', '=', id).set({ parentId }).execute();
/** State → how many items are in it. */
async function states(): Promise<Record<string, number>> {
  const { rows } = await sql<{
    access: string;
    n: number;
  }>`select access, count(*)::int as n from item group by 1`.execute(db());
  return Object.fromEntries(rows.map(({ access, n }) => [access, n]));
}

beforeAll(async () => {
  items = await makeItems(archive);
  index = new LivingIndex(db(), archive.house.pool);
  await index.build();
});

describe('access', () => {
  it('is the strictest of what is said of place, folder, accession, collection and item', async () => {
    const brand = idsIn(({ place, folder }) => place === 'Studio shelf' && folder === 'Brand');
    const below = idsIn(
      ({ place, folder }) => place === 'Studio shelf' && folder.startsWith('Wind Week'),
    );
    await say('folder', 'Studio shelf/Brand', 'closed');
    await say('folder', 'Studio shelf/Wind Week', 'restricted');
    expect(await states()).toEqual({
      ...{ closed: brand.length, restricted: below.length },
      open: items.length - brand.length - below.length,
    });
    await say('place', 'Studio shelf', 'dormant');
    expect(await accessOf(brand[0]!)).toBe('closed');
    expect((await accessOfItem(db(), below[0]!)).words).toMatch(
      /^It is restricted, as the folder “Studio shelf\/Wind Week” says; the place/,
    );
    await say('item', items.find(({ id }) => id === below[0])!.number, 'waiting');
    expect(await accessOf(below[0]!)).toBe('waiting');
    await say('item', items.find(({ id }) => id === below[0])!.number, 'open');
    expect(await accessOf(below[0]!)).toBe('restricted');
    await say('place', 'Studio shelf', 'open');
    const whole = await say('accession', '2026.007', 'dormant');
    expect((await states())['open']).toBeUndefined();
    expect(
      await itemsUnder(db(), 'accession', await subjectNamed(db(), 'accession', '2026.007')),
    ).toBe(items.length);
    await undo(db(), null, whole!.operationId);
    expect((await states())['dormant']).toBeUndefined();
  });

  it('follows an item that is filed elsewhere, and a folder that moves', async () => {
    const [one] = idsIn(({ place, folder }) => place === 'Studio shelf' && folder === '');
    const { rows } = await sql<{ brand: string; top: string }>`select
      (select id from folder where path = 'Brand' and place_id = p.id) as brand,
      (select id from folder where path = '' and place_id = p.id) as top from place p where name = 'Studio shelf'`.execute(
      db(),
    );
    const { brand, top } = rows[0]!;
    const move = (to: string) =>
      sql`update file set folder_id = ${to}::uuid where item_id = ${one}::uuid`.execute(db());
    await move(brand);
    expect(await accessOf(one!)).toBe('closed');
    await move(top);
    expect(await accessOf(one!)).toBe('open');
  });

  it('follows collections, nested ones, also where somebody made them go in a circle', async () => {
    const outer = await addCollection(db(), null, 'Under wraps', '');
    const inner = await addCollection(db(), null, 'Posters, secret', '');
    await hang(inner, outer);
    const [one, two] = idsIn(({ place, folder }) => place === 'Travel 50%' && folder === '').slice(
      0,
      2,
    ) as [string, string];
    await addItems(db(), NOBODY, inner, asSeen([one]));
    await say('collection', 'Under wraps', 'closed');
    expect([await accessOf(one), await accessOf(two)]).toEqual(['closed', 'open']);
    await addItems(db(), NOBODY, inner, asSeen([two]));
    expect(await accessOf(two)).toBe('closed');
    await hang(outer, inner);
    expect(await accessOf(two)).toBe('closed');
    await hang(outer, null);
    await removeCollection(db(), NOBODY, outer);
    expect([await accessOf(one), await accessOf(two)]).toEqual(['open', 'open']);
    await restoreCollection(db(), null, outer);
    expect(await accessOf(one)).toBe('closed');
    await removeCollection(db(), NOBODY, inner);
    expect(await accessOf(one)).toBe('open');
    await removeCollection(db(), NOBODY, outer);
  });

  it('is a deed of the ledger: told, undone, and a clash where somebody said otherwise since', async () => {
    const first = await say('folder', 'Travel 50%/Brand', 'restricted');
    expect((await ledger(db()))[0]).toMatchObject({
      summary: 'Made the folder “Travel 50%/Brand” restricted',
      canUndo: true,
    });
    await say('folder', 'Travel 50%/Brand', 'closed');
    await expect(undo(db(), null, first!.operationId)).rejects.toMatchObject({ code: 'conflict' });
    await say('folder', 'Travel 50%/Brand', 'open');
  });
});

describe('what one may not see', () => {
  /** Ids a plain look says somebody is listed. */
  async function listed(viewer: Viewer): Promise<string[]> {
    const may = {
      keeper: [],
      'rights-desk': ['closed'],
      contributor: ['closed', 'waiting'],
      teammate: ['closed', 'waiting'],
    };
    const { rows } = await sql<{
      id: string;
    }>`select id from item where deleted_at is null and access <> 'dormant'
      and access <> all(${may[viewer.role as 'keeper']}::text[]) order by number`.execute(db());
    return rows.map(({ id }) => id);
  }

  it('is in no list, total, sheet, bar or name, whoever answers: the database or the index', async () => {
    await sql`insert into access_mark (id, item_id, state) select gen_random_uuid(), id, (array['dormant', 'waiting', 'closed'])[1 + n % 3]
      from (select id, row_number() over (order by number) as n from item where access = 'open') i where n % 5 = 0`.execute(
      db(),
    );
    await index.catchUp();
    expect(Object.keys(await states()).sort()).toEqual([
      'closed',
      'dormant',
      'open',
      'restricted',
      'waiting',
    ]);
    const order = parseQuery('order number');
    for (const viewer of VIEWERS) {
      const plain = await listed(viewer);
      const sight = sightOfQuery(viewer, order);
      expect(await findIds(db(), viewer, order)).toEqual(plain);
      expect(
        await answerFrom(index, { ask: 'ids', query: order, from: 0, to: 1000, sight }),
      ).toEqual(plain);
      expect(await countOf(db(), viewer, EVERYTHING)).toBe(plain.length);
      expect((await wallOf(db(), viewer, EVERYTHING)).total).toBe(plain.length);
      expect(await findTiles(db(), viewer, order, 0, 3)).toMatchObject(
        plain.slice(0, 3).map((id) => ({ id })),
      );
      expect(await rowsFound(db(), viewer, order, ['title'], { limit: 1000 })).toHaveLength(
        plain.length,
      );
      const among = (key: string) =>
        items
          .filter(({ id }) => plain.includes(id))
          .filter((one) => one.record[key as 'title'] !== '').length;
      for (const field of [
        'creditLine',
        'rating',
        'terms',
        'stage',
        'accession',
        'collection',
        'format',
        'broughtBy',
        'colours',
        'taken',
        'access',
        'bytes',
      ]) {
        const ours = await choicesOf(db(), viewer, EVERYTHING, { field });
        const theirs = await answerFrom(index, {
          ask: 'choices',
          query: EVERYTHING,
          field,
          at: -1,
          typed: '',
          sight: sightOfQuery(viewer, EVERYTHING),
        });
        const told = ({ choices }: typeof ours) =>
          choices.map(({ value, count }) => `${value} ${count}`).sort();
        expect([viewer.role, field, told(theirs)]).toEqual([viewer.role, field, told(ours)]);
        if (field === 'creditLine') expect(ours.choices[0]!.count).toBe(among('creditLine'));
      }
      const density = await densityIn(db(), viewer, EVERYTHING, 'taken', 'year');
      expect(
        await answerFrom(index, {
          ask: 'density',
          query: EVERYTHING,
          field: 'taken',
          unit: 'year',
          sight,
        }),
      ).toEqual(density);
      const [hidden] = items.filter(({ id }) => !plain.includes(id));
      expect(await neighboursOf(db(), viewer, order, hidden!.id)).toBeNull();
    }
    expect(await countOf(db(), VIEWERS[0]!, parseQuery('access dormant'))).toBe(
      (await states())['dormant'],
    );
    expect(await countOf(db(), TEAMMATE, parseQuery('access closed'))).toBe(0);
  });

  it('is seen where it waits by whoever brought it in, whoever answers', async () => {
    const bea = await addPerson(db(), {
      ...{
        name: 'Bea',
        email: 'bea@sight.example',
        role: 'contributor',
        password: 'rope and canvas',
      },
    });
    const other: Viewer = { role: 'contributor', id: newId() };
    const viewer: Viewer = { role: 'contributor', id: bea };
    await sql`update accession set created_by = ${bea}::uuid`.execute(db());
    const again = new LivingIndex(db(), archive.house.pool);
    await again.build();
    const query = parseQuery('access waiting');
    const waiting = (await states())['waiting']!;
    const counted = (who: Viewer) =>
      answerFrom(again, { ask: 'total', query, sight: sightOfQuery(who, query) });
    expect([await countOf(db(), viewer, query), await counted(viewer)]).toEqual([waiting, waiting]);
    expect([await countOf(db(), other, query), await counted(other)]).toEqual([0, 0]);
    const [one] = await findIds(db(), HOUSE, query);
    expect(await seenIds(db(), viewer, [one!], 'take')).toEqual([one]);
    expect(await seenIds(db(), other, [one!])).toEqual([]);
    await sql`update accession set created_by = null`.execute(db());
  });

  it('is in no collection, cover, card, summary, row or relation', async () => {
    const standing = await addCollection(db(), null, 'All of it', '', EVERYTHING);
    const plain = new Set(await listed(TEAMMATE));
    const poster = (await keptCollections(archive.house, TEAMMATE)).find(
      ({ name }) => name === 'Poster round',
    )!;
    const chosen = items.filter(({ collections }) => collections.length > 0);
    // What is dormant stays where somebody put it.
    const { rows } = await sql<{
      id: string;
    }>`select id from item where access in ('open', 'dormant', 'restricted')`.execute(db());
    const seen = new Set(rows.map(({ id }) => id));
    expect(poster.count).toBe(chosen.filter(({ id }) => seen.has(id)).length);
    for (const picture of poster.cover) expect(seen).toContain(picture.split('/')[0]);
    expect((await keptCollection(archive.house, TEAMMATE, standing)).collection.count).toBe(
      plain.size,
    );
    const closed = items.find(({ id }) => !seen.has(id))!;
    const open = items.find(({ id }) => plain.has(id))!;
    await expect(showItem(db(), TEAMMATE, closed.id)).rejects.toMatchObject({ code: 'not-found' });
    await expect(itemByNumber(db(), TEAMMATE, closed.number)).rejects.toMatchObject({
      code: 'not-found',
    });
    expect(await tilesOf(db(), TEAMMATE, [closed.id, open.id])).toHaveLength(1);
    expect(await rowsOf(db(), TEAMMATE, [closed.id, open.id], ['title'])).toHaveLength(1);
    await sql`insert into lineage (item_id, kind, of_id, created_by) values (${open.id}::uuid, 'version of', ${closed.id}::uuid, null)`.execute(
      db(),
    );
    expect((await showItem(db(), TEAMMATE, open.id)).lineage).toEqual([]);
    expect((await showItem(db(), HOUSE, open.id)).lineage).toHaveLength(1);
  });

  it('is told to no window of those who may not know of it; of counts they hear that there are others', async () => {
    const { rows } = await sql<{ id: string; access: string }>`
      (select id, access from item where access = 'closed' order by number limit 1)
      union all (select id, access from item where access = 'open' order by number limit 1)`.execute(
      db(),
    );
    const [closed, open] = rows.map(({ id }) => id) as [string, string];
    const streams = startStreams(archive.house);
    const heard = (role: Role, personId: string): { read: () => LiveMessage[] } => {
      const messages: LiveMessage[] = [];
      const stream = streams.open({ personId, sessionId: personId, role });
      void (async () => {
        for await (const bytes of stream as unknown as AsyncIterable<Uint8Array>)
          for (const line of new TextDecoder().decode(bytes).split('\n'))
            if (line.startsWith('data: ')) messages.push(JSON.parse(line.slice(6)) as LiveMessage);
      })();
      return { read: () => messages };
    };
    const keeper = heard('keeper', '00000000-0000-7000-8000-0000000000aa');
    const teammate = heard('teammate', TEAMMATE.id!);
    const ids = (from: typeof keeper, about: string): string[][] =>
      from.read().flatMap((one) => (one.about === about && 'ids' in one ? [one.ids] : []));
    // Listening begins a moment after the hub.
    await until(async () => {
      await notifyItems(db(), [closed, open], ['title']);
      return ids(keeper, 'items').length > 0;
    }, 'the first message');
    await notifyItems(db(), [closed], ['title']);
    await notify(db(), { about: 'counted', ids: [closed, open] });
    // The index may tell of counts as well, when it is done.
    const came = (told: string[][], wished: string[]): boolean =>
      told.some((one) => JSON.stringify(one) === JSON.stringify(wished));
    await until(
      () =>
        Promise.resolve(
          came(ids(keeper, 'items'), [closed]) && came(ids(keeper, 'counted'), [closed, open]),
        ),
      'all that a keeper hears',
    );
    await until(() => Promise.resolve(came(ids(teammate, 'counted'), [])), 'that counts changed');
    expect(ids(teammate, 'items').length).toBeGreaterThan(0);
    for (const told of ids(teammate, 'items')) expect(told).toEqual([open]);
    for (const told of ids(teammate, 'counted')) expect(told).not.toContain(closed);
    // Whoever opens a stream hears of the last moments, and of no more than is his to know.
    const late = heard('teammate', '00000000-0000-7000-8000-0000000000bc');
    await until(() => Promise.resolve(ids(late, 'counted').length > 0), 'what was told before');
    for (const told of ids(late, 'items')) expect(told).toEqual([open]);
  });

  it('is taken in hand by no verb: the good ones go on; where none is left it is not found', async () => {
    const { rows } = await sql<{ id: string }>`select id from item where access = 'closed'`.execute(
      db(),
    );
    const [closed, open] = [rows[0]!.id, (await findIds(db(), TEAMMATE, EVERYTHING))[0]!];
    const ids = await idsOfPicked(archive.house, TEAMMATE, [closed, open, newId(), open]);
    expect(ids).toEqual([open]);
    expect((await summaryOfItems(db(), ids)).count).toBe(1);
    await expect(idsOfPicked(archive.house, TEAMMATE, [closed])).rejects.toMatchObject({
      code: 'not-found',
    });
    // One who may see them all changed both; the other is told of one step alone.
    const done = await changeRecords(db(), null, asSeen([closed, open]), {
      headline: 'Told to both',
    });
    expect(await operationSteps(db(), TEAMMATE, done!.operationId)).toHaveLength(1);
    expect(await operationSteps(db(), HOUSE, done!.operationId)).toHaveLength(2);
  });

  it('is given back by no undo of those who may not see it by now: the rest is, where they wish it', async () => {
    const ada = await addPerson(db(), {
      ...{ name: 'Ada', email: 'ada@sight.example', role: 'contributor', password: 'sails' },
    });
    const seen = new Set(await findIds(db(), TEAMMATE, EVERYTHING));
    const open = items.filter(({ id }) => seen.has(id)).slice(-2);
    const [one, other] = open.map(({ id }) => id) as [string, string];
    const titles = async (): Promise<string[]> =>
      (await readRecords(db(), [one, other])).map(({ values }) => values.title).sort();
    const done = await changeRecords(db(), ada, asSeen([one, other]), { title: 'Of both' });
    await say('item', open[0]!.number, 'closed');
    await expect(undo(db(), ada, done!.operationId)).rejects.toMatchObject({
      code: 'conflict',
      message: expect.stringMatching(/^1 item of this is not yours to see by now/) as string,
      data: { rest: 1 },
    });
    expect(await titles()).toEqual(['Of both', 'Of both']);
    const again = await undo(db(), ada, done!.operationId, true);
    expect((await titles()).filter((title) => title === 'Of both')).toHaveLength(1);
    await undo(db(), null, again);
    expect(await titles()).toEqual(['Of both', 'Of both']);
    await say('item', open[0]!.number, 'open');
  });

  it('gives its file for no more than it says', async () => {
    const { rows } = await sql<{
      id: string;
      access: Access;
    }>`select distinct on (access) id, access from item where deleted_at is null order by access`.execute(
      db(),
    );
    const told: string[] = [];
    for (const { id, access } of rows)
      for (const purpose of ['show', 'play', 'take'] as const)
        told.push(
          `${access} ${purpose} ${await fileFor(db(), TEAMMATE, id, purpose).then(
            () => 'yes',
            ({ code }: { code: string }) => code,
          )}`,
        );
    expect(told.sort()).toEqual(
      [
        ...['show', 'play', 'take'].flatMap((purpose) => [
          `open ${purpose} yes`,
          `dormant ${purpose} yes`,
        ]),
        ...['show', 'play', 'take'].flatMap((purpose) => [
          `closed ${purpose} not-found`,
          `waiting ${purpose} not-found`,
        ]),
        ...['restricted show yes', 'restricted play not-allowed', 'restricted take not-allowed'],
      ].sort(),
    );
  });
});

describe('a span, which has no file of its own', () => {
  const span = newId();
  let clip: Plain;
  beforeAll(async () => {
    const open = new Set(await findIds(db(), TEAMMATE, EVERYTHING));
    clip = items.find(({ id }) => open.has(id))!;
    await sql`insert into item (id, number, accession_id, kind, media_type, format, original_name, provenance, technical, of_id, from_frame, to_frame)
      select ${span}::uuid, '2026.007.9001', accession_id, 'span', media_type, format, original_name, '{}', technical, id, 25, 75
      from item where id = ${clip.id}::uuid`.execute(db());
    await changeRecords(db(), null, asSeen([span]), {
      title: 'Launch, second try',
      rating: 4,
      addTerms: ['Hands'],
      taken: '2026-09-12',
    });
    await index.catchUp();
  });

  it('is found, counted, rated, described, collected, on wall, Register and Timeline', async () => {
    const query = parseQuery('title "Launch, second try"');
    const sight = sightOfQuery(TEAMMATE, query);
    expect(await findIds(db(), TEAMMATE, query)).toEqual([span]);
    expect(await answerFrom(index, { ask: 'ids', query, from: 0, to: 9, sight })).toEqual([span]);
    expect((await wallOf(db(), TEAMMATE, query)).total).toBe(1);
    expect(await answerFrom(index, { ask: 'wall', query, sight })).toMatchObject({ total: 1 });
    const [tile] = await tilesOf(db(), TEAMMATE, [span]);
    expect(tile).toMatchObject({
      rating: 4,
      name: clip.name,
      folder: clip.folder,
      number: '2026.007.9001',
    });
    const [row] = await rowsOf(
      db(),
      TEAMMATE,
      [span],
      ['title', 'rating', 'terms', 'writing', 'folder'],
    );
    expect(row!.values).toMatchObject({
      title: 'Launch, second try',
      rating: 4,
      terms: ['Hands'],
      writing: null,
    });
    const density = await densityIn(db(), TEAMMATE, query, 'taken', 'day');
    expect(
      await answerFrom(index, { ask: 'density', query, field: 'taken', unit: 'day', sight }),
    ).toEqual(density);
    expect(JSON.stringify(density)).toContain('1');
    const collection = await addCollection(db(), null, 'Good takes', '');
    expect(await addItems(db(), NOBODY, collection, await seenIds(db(), TEAMMATE, [span]))).toBe(1);
    expect((await keptCollection(archive.house, TEAMMATE, collection)).ids).toEqual([span]);
    expect((await showItem(db(), TEAMMATE, span)).files[0]).toMatchObject({ name: clip.name });
    expect((await fileFor(db(), TEAMMATE, span, 'show')).itemId).toBe(clip.id);
    expect((await summaryOfItems(db(), asSeen([span]))).count).toBe(1);
  });

  it('is undone like any other', async () => {
    const done = await changeRecords(db(), null, asSeen([span]), { rating: 1 });
    await undo(db(), null, done!.operationId);
    expect((await readRecords(db(), [span]))[0]!.values.rating).toBe(4);
  });

  it('is never renamed, discarded or written, alone or among others', async () => {
    const both = asSeen([span, clip.id]);
    expect(await filedOf(db(), both)).toEqual([clip.id]);
    expect(await lettingGo(db(), both)).toMatchObject({ items: 1, files: 1 });
    expect(await lettingGo(db(), asSeen([span]))).toMatchObject({ items: 0, files: 0 });
    const wish = {
      viewer: HOUSE,
      pattern: 'New name {counter 01}',
      clash: 'refuse',
      extension: 'keep',
    } as const;
    await expect(
      startRename(db(), null, { ...wish, itemIds: asSeen([span]) }),
    ).rejects.toMatchObject({ name: 'ArchiveError' });
    const jobs = await db()
      .selectFrom('job')
      .select('itemId')
      .where('task', '=', 'write-record')
      .where('itemId', '=', span)
      .execute();
    expect(jobs).toEqual([]);
  });

  it('is seen no more than what it is of, and gone with it', async () => {
    await say('item', clip.number, 'closed');
    expect(await accessOf(span)).toBe('closed');
    expect(await seenIds(db(), TEAMMATE, [span])).toEqual([]);
    await say('item', clip.number, 'open');
    expect(await seenIds(db(), TEAMMATE, [span])).toEqual([span]);
  });
});
