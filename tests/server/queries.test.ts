import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { KINDS, type Kind } from '#core/kinds/kinds';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { EVERYTHING, LACKABLE, type Query, type ClauseField } from '#core/query/tree';
import { takenFromText } from '#core/records/taken';
import { searchWords } from '#core/text/words';
import { choicesOf, holdings } from '#server/catalogue/choices';
import { complete } from '#server/catalogue/complete';
import { findIds, findTiles, neighboursOf, tilesOf, wallIndex } from '#server/catalogue/find';
import { addCollection, addItems, removeCollection } from '#server/collections/collections';
import { newId } from '#server/house/ids';
import { addPlace, ensureFolder, type Place } from '#server/places/places';
import { refreshWords } from '#server/records/records';
import { typedTerms } from '#server/terms/terms';
import { storeValues } from '#server/records/store';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { random } from '../../demo/paint/random';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { KEEPER, useArchive } from '../support/archive';

/** Queries of every shape over some hundred made-up items, against a plain filter in memory. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;

interface Plain {
  id: string;
  number: string;
  kind: Kind;
  place: string;
  folder: string;
  name: string;
  size: number;
  record: RecordValues;
  collections: string[];
}
const items: Plain[] = [];
const PLACES = ['Studio shelf', 'Travel 50%'];
const FOLDERS = ['', 'Wind Week', 'Wind Week/Opening', 'Wind Week/Night', 'Wind_Week', 'Brand'];
/** Each with the broader ones it implies. */
const TERMS: Record<string, string[]> = {
  Kite: [],
  'Box kite': ['Kite'],
  'Six-sided box kite': ['Box kite', 'Kite'],
  Dusk: [],
  Hands: [],
};
const TITLES = ['', 'Red sail', 'Käthe’s knot', 'Low tide, flats', 'red Sail again'];
const DATES = ['', '2026', '2026-09', '2026-09-12', '2026-09-12 19:42', '2025-12-31/2026-01-02'];
const STAGES = ['', 'To look over', 'Shortlist', 'Cleared for print'];
const COUNT = 240;

beforeAll(async () => {
  const { pick, int, next } = random(2026);
  const stages = await db().selectFrom('stage').select('name').orderBy('position').execute();
  STAGES.splice(1, STAGES.length, ...stages.slice(0, 3).map(({ name }) => name));
  const places: Place[] = [];
  for (const name of PLACES) {
    const root = join(archive.folder, name);
    mkdirSync(root);
    places.push(await addPlace(archive.house, name, root));
  }
  await typedTerms(db(), [
    'Box kite under Kite',
    'Six-sided box kite under Box kite',
    'Dusk',
    'Hands',
  ]);
  const accession = newId();
  await db()
    .insertInto('accession')
    .values({
      id: accession,
      year: 2026,
      number: 7,
      title: 'Made up',
      source: '{}',
      plan: '{}',
      root: '/',
      mode: 'copy',
      placeId: places[0]!.id,
      createdBy: null,
    })
    .execute();
  const collection = await addCollection(db(), null, 'Poster round', '');
  const gone = await addCollection(db(), null, 'Thrown away', '');
  for (let at = 0; at < COUNT; at += 1) {
    const place = pick(places);
    const folder = pick(FOLDERS);
    const taken = pick(DATES);
    const record: RecordValues = {
      ...EMPTY_RECORD,
      title: pick(TITLES),
      caption: next() < 0.4 ? 'Test flight at low tide' : '',
      creator: next() < 0.5 ? ['Bea Lund'] : [],
      creditLine: next() < 0.5 ? 'Saltreach Kites' : '',
      copyrightNotice: next() < 0.5 ? '© 2026' : '',
      terms: Object.keys(TERMS).filter(() => next() < 0.25),
      rating: int(-1, 5),
      stage: pick(STAGES),
      taken: taken ? takenFromText(taken) : null,
    };
    const one: Plain = {
      id: randomUUID(),
      number: `2026.007.${String(at + 1).padStart(4, '0')}`,
      kind: pick(KINDS),
      place: place.name,
      folder,
      name: `${pick(['HRN', 'tern', 'SLT'])}_${String(at).padStart(3, '0')}.jpg`,
      size: int(1, 5) * 1000,
      record,
      collections: [],
    };
    await db()
      .insertInto('item')
      .values({
        id: one.id,
        number: one.number,
        accessionId: accession,
        kind: one.kind,
        mediaType: 'image/jpeg',
        format: 'jpeg',
        originalName: one.name,
        version: 0,
        provenance: '{}',
        technical: '{}',
        camera: '',
        latitude: null,
        longitude: null,
        width: int(1, 4) * 100,
        height: 200,
        duration: null,
        noPicture: null,
        words: null,
        stageId: null,
        takenEdtf: null,
        takenFrom: null,
        takenTo: null,
        takenOffset: null,
      })
      .execute();
    await db()
      .insertInto('file')
      .values({
        id: newId(),
        itemId: one.id,
        placeId: place.id,
        folderId: await ensureFolder(db(), place.id, folder),
        name: one.name,
        role: 'original',
        size: one.size,
        modifiedNs: 0,
        inode: at,
        contentHash: `${at}`,
        essenceHash: null,
        pictureKey: `${at}`,
        writeProblem: null,
      })
      .execute();
    await storeValues(db(), [{ itemId: one.id, values: record, changed: FIELD_KEYS }], {
      source: 'file',
      by: null,
      at: new Date(),
    });
    items.push(one);
  }
  await refreshWords(
    db(),
    items.map(({ id }) => id),
  );
  const chosen = items.filter((_, at) => at % 7 === 0);
  await addItems(
    db(),
    KEEPER,
    collection,
    chosen.map(({ id }) => id),
  );
  for (const one of chosen) one.collections.push('Poster round');
  await addItems(db(), KEEPER, gone, [items[0]!.id]);
  await removeCollection(db(), KEEPER, gone);
});

/** What a query means, said plainly. */
function holds(one: Plain, query: Query): boolean {
  const { record } = one;
  if (query.kinds?.length && !query.kinds.includes(one.kind)) return false;
  if (query.folder) {
    const { place, path, deep } = query.folder;
    if (one.place.toLowerCase() !== place.toLowerCase()) return false;
    const below = one.folder === path || path === '' || one.folder.startsWith(`${path}/`);
    if (deep ? !below : one.folder !== path) return false;
  }
  if (query.taken === 'unknown') {
    if (record.taken) return false;
  } else if (query.taken) {
    const wished = takenFromText(query.taken)!;
    if (!record.taken || record.taken.from < wished.from || record.taken.to > wished.to)
      return false;
  }
  if (query.rated && (record.rating < query.rated.min || record.rating > query.rated.max))
    return false;
  if (query.stages?.length && !query.stages.includes(record.stage)) return false;
  for (const term of query.terms ?? []) {
    const given = new Set(record.terms.flatMap((own) => [own, ...TERMS[own]!]));
    if (![...given].some((own) => own.toLowerCase() === term.toLowerCase())) return false;
  }
  const lacks = {
    title: record.title === '',
    caption: record.caption === '',
    creator: record.creator.length === 0,
    credit: record.creditLine === '',
    copyright: record.copyrightNotice === '',
    terms: record.terms.length === 0,
    date: record.taken === null,
    place: true,
  };
  if ((query.lacking ?? []).some((field) => !lacks[field])) return false;
  if (query.collection && !one.collections.includes(query.collection)) return false;
  if (query.words) {
    const texts = [
      one.name,
      record.title,
      record.caption,
      record.creditLine,
      record.copyrightNotice,
      record.stage,
      one.number,
      one.place,
      one.folder,
      ...record.creator,
      ...record.terms.flatMap((own) => [own, ...TERMS[own]!]),
    ];
    const own = texts.flatMap(searchWords);
    if (!searchWords(query.words).every((word) => own.some((text) => text.startsWith(word))))
      return false;
  }
  return true;
}

const maybe = <T>(value: fc.Arbitrary<T>): fc.Arbitrary<T | undefined> =>
  fc.option(value, { nil: undefined, freq: 2 });
const query: fc.Arbitrary<Query> = fc
  .record({
    kinds: maybe(fc.subarray([...KINDS], { minLength: 1 })),
    folder: maybe(
      fc.record({
        place: fc.constantFrom(...PLACES, 'studio SHELF'),
        path: fc.constantFrom(...FOLDERS, 'nowhere'),
        deep: fc.boolean(),
      }),
    ),
    taken: maybe(
      fc.constantFrom('2026', '2026-09', '2026-09-12', 'unknown', '2025-12-01/2026-01-31'),
    ),
    rated: maybe(
      fc
        .tuple(fc.integer({ min: -1, max: 5 }), fc.integer({ min: -1, max: 5 }))
        .map(([a, b]) => ({ min: Math.min(a, b), max: Math.max(a, b) })),
    ),
    stages: maybe(fc.nat(15).map((bits) => [0, 1, 2, 3].filter((bit) => bits & (1 << bit)))),
    terms: maybe(fc.subarray([...Object.keys(TERMS), 'kite', 'no such term'], { maxLength: 2 })),
    lacking: maybe(fc.subarray([...LACKABLE], { maxLength: 3 })),
    words: maybe(fc.constantFrom('red', 'SAIL', 'kathe', 'low ti', 'hrn', 'wind week', 'zzz')),
    collection: maybe(fc.constantFrom('Poster round', 'Thrown away', 'none')),
    order: fc.record({
      by: fc.constantFrom('taken', 'name', 'rating', 'brought', 'size', 'title'),
      down: fc.boolean(),
    }),
  })
  .map(({ stages, ...rest }) => ({
    ...rest,
    ...(stages?.length ? { stages: stages.map((at) => STAGES[at]!) } : {}),
  })) as fc.Arbitrary<Query>;

describe('a query', () => {
  it('finds exactly what a plain filter finds, as often as it is asked', async () => {
    await fc.assert(
      fc.asyncProperty(query, async (wished) => {
        const found = await findIds(db(), wished);
        expect(new Set(found)).toEqual(
          new Set(items.filter((one) => holds(one, wished)).map(({ id }) => id)),
        );
        expect((await wallIndex(db(), wished)).total).toBe(found.length);
      }),
      { numRuns: 150 },
    );
  });

  it('means the same as its text', async () => {
    await fc.assert(
      fc.asyncProperty(query, async (wished) => {
        const again = parseQuery(formatQuery(wished));
        expect(await findIds(db(), again)).toEqual(await findIds(db(), wished));
      }),
      { numRuns: 60 },
    );
  });

  it('orders as it says, ties by number, what is unknown last', async () => {
    const key = (one: Plain, by: string): string | number | null => {
      if (by === 'taken') return one.record.taken?.from ?? null;
      if (by === 'name') return one.name.toLowerCase();
      if (by === 'rating') return one.record.rating;
      if (by === 'size') return one.size;
      if (by === 'title') return one.record.title.toLowerCase() || null;
      return one.number;
    };
    const byId = new Map(items.map((one) => [one.id, one]));
    for (const by of ['taken', 'name', 'rating', 'brought', 'size'] as const)
      for (const down of [false, true]) {
        const found = (await findIds(db(), { order: { by, down } })).map((id) => byId.get(id)!);
        const keys = found.map((one) => key(one, by));
        const unknown = keys.indexOf(null);
        if (unknown >= 0) expect(keys.slice(unknown).every((one) => one === null)).toBe(true);
        for (let at = 1; at < found.length; at += 1) {
          const [a, b] = [keys[at - 1]!, keys[at]!];
          if (a === null || b === null) continue;
          expect(down ? a >= b : a <= b).toBe(true);
        }
      }
  });

  it('pages without losing or repeating anything, and every neighbour knows its place', async () => {
    const wished = parseQuery('order rating down');
    const all = await findIds(db(), wished);
    const paged: string[] = [];
    for (let offset = 0; offset < all.length; offset += 37)
      paged.push(...(await findTiles(db(), wished, offset, 37)).map(({ id }) => id));
    expect(paged).toEqual(all);
    for (const at of [0, 1, 120, all.length - 1]) {
      const near = await neighboursOf(db(), wished, all[at]!);
      expect(near).toMatchObject({
        index: at,
        total: all.length,
        previous: all[at - 1] ?? null,
        next: all[at + 1] ?? null,
      });
    }
    expect(await neighboursOf(db(), parseQuery('words zzz'), all[0]!)).toBeNull();
    const some = [all[5]!, all[2]!, all[9]!];
    expect((await tilesOf(db(), some)).map(({ id }) => id)).toEqual(some);
  });

  it('groups its wall so that every item hangs in one group', async () => {
    for (const text of ['', 'order name', 'order rating', 'rated 3..; order taken']) {
      const wished = parseQuery(text);
      const index = await wallIndex(db(), wished);
      expect(index.groups.reduce((sum, { count }) => sum + count, 0)).toBe(index.total);
      expect(index.aspects).toHaveLength(index.total);
    }
  });
});

/** What the sentence says once a choice of a sheet was taken. */
const CHOOSE = {
  kinds: (value) => ({ kinds: [value as 'photo'] }),
  stages: (value) => ({ stages: [value] }),
  lacking: (value) => ({ lacking: [value as 'title'] }),
  rated: (value) => ({ rated: { min: Number(value), max: Number(value) } }),
  taken: (value) => ({ taken: value }),
  accession: (value) => ({ accession: value }),
  collection: (value) => ({ collection: value }),
  terms: (value, { terms = [] }) => ({ terms: [...terms, value] }),
  folder: (value) => {
    const [place = '', ...path] = value.split('/');
    return { folder: { place, path: path.join('/'), deep: true } };
  },
} satisfies Partial<Record<ClauseField, (value: string, query: Query) => Query | Partial<Query>>>;

describe('the choices of a clause', () => {
  it('count what choosing them finds, whatever else the sentence says', async () => {
    await fc.assert(
      fc.asyncProperty(
        query,
        fc.constantFrom<keyof typeof CHOOSE>(...(Object.keys(CHOOSE) as (keyof typeof CHOOSE)[])),
        async (wished, field) => {
          const choices = await choicesOf(db(), wished, field);
          for (const { value, count } of choices) {
            const chosen: Query = { ...wished, ...CHOOSE[field](value, wished) };
            expect([field, value, (await findIds(db(), chosen)).length]).toEqual([
              field,
              value,
              count,
            ]);
          }
        },
      ),
      { numRuns: 60 },
    );
  }, 60_000);

  it('add up in the tree of holdings', async () => {
    const nodes = await holdings(db(), EVERYTHING);
    for (const { place, path, count, here } of nodes) {
      const deep = { ...EVERYTHING, folder: { place, path, deep: true } };
      const own = { ...EVERYTHING, folder: { place, path, deep: false } };
      expect((await findIds(db(), deep)).length).toBe(count);
      expect((await findIds(db(), own)).length).toBe(here);
    }
    const top = nodes.filter(({ path }) => path === '');
    expect(top.reduce((sum, { count }) => sum + count, 0)).toBe(items.length);
  });

  it('are completed from a few letters, each with what it would find', async () => {
    for (const letters of ['kit', 'wind', 'short', 'poster', '50%', '_', '\\', "'", 'ö'])
      for (const { clause, count, field } of await complete(db(), letters)) {
        const found = await findIds(db(), parseQuery(clause));
        if (field === 'words') continue;
        expect([letters, field, clause, found.length]).toEqual([letters, field, clause, count]);
      }
    expect((await complete(db(), '  ')).length).toBe(0);
    expect((await complete(db(), 'thrown')).some(({ field }) => field === 'collection')).toBe(
      false,
    );
  });
});
