import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Field } from '#core/fields/field';
import { ALL_FIELDS, fieldOf } from '#core/fields/registry';
import { HOUSE } from '#core/sight/viewer';
import { formatQuery, parseQuery } from '#core/query/grammar';
import { readSentence } from '#core/english/read';
import { sentenceText } from '#core/query/sentence';
import { EVERYTHING, has, not, type Condition, type Query } from '#core/query/tree';
import { complete, understand } from '#server/catalogue/complete';
import { choicesOf, holdings } from '#server/catalogue/facets';
import {
  countOf,
  findIds,
  findTiles,
  neighboursOf,
  stretchOf,
  tilesOf,
  wallOf,
} from '#server/catalogue/find';
import { keptCollections } from '#server/collections/kept';
import { whyOf } from '#server/catalogue/why';
import {
  addCollection,
  addItems,
  editCollection,
  removeCollection,
} from '#server/collections/collections';
import { endApart } from '#server/apart/apart';
import { asked } from '#server/query/conditions';
import { typedTerms } from '#server/terms/terms';
import { dictionaryFor, labelsOf, resolve } from '#server/query/names';
import { NOBODY, useArchive } from '../support/archive';
import { holdsAll, makeItems, type Plain } from '../support/made';
import { ASKED } from '../support/asked';
import { conditions, queries } from '../support/queries';
import { asSeen } from '#server/sight/seen';

/** Queries of every shape over some hundred made-up items, against a plain filter in memory. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
let items: Plain[] = [];
beforeAll(async () => {
  items = await makeItems(archive);
});
afterAll(endApart);

const near: fc.Arbitrary<Condition> = fc
  .tuple(fc.constantFrom(51.2, 51.23, 0), fc.constantFrom(1.4, 1.45), fc.constantFrom(3, 9, 5000))
  .map((values) => ({ field: 'position', test: 'near', values }));
const query = fc
  .tuple(queries(ASKED, 3), fc.option(near))
  .map(([wished, extra]) => (extra ? { ...wished, where: [...wished.where, extra] } : wished));

describe('a query', () => {
  it('finds exactly what a plain filter finds, as often as it is asked', async () => {
    await fc.assert(
      fc.asyncProperty(query, async (wished) => {
        const found = await findIds(db(), HOUSE, wished);
        const expected = items.filter((one) => holdsAll(one, wished)).map(({ id }) => id);
        expect([formatQuery(wished), [...found].sort()]).toEqual([
          formatQuery(wished),
          expected.sort(),
        ]);
        expect((await wallOf(db(), HOUSE, wished)).total).toBe(found.length);
      }),
      { numRuns: 100 },
    );
  }, 60_000);

  it('means the same as its text, as its sentence, and by ids', async () => {
    await fc.assert(
      fc.asyncProperty(query, async (wished) => {
        const found = await findIds(db(), HOUSE, wished);
        expect(await findIds(db(), HOUSE, parseQuery(formatQuery(wished)))).toEqual(found);
        const { query: named, unknown } = await resolve(db(), wished);
        expect(await findIds(db(), HOUSE, named)).toEqual(found);
        if (unknown.length > 0) return;
        const labels = await labelsOf(db(), named);
        const text = sentenceText(named, (reference) => labels[reference]);
        const again = readSentence(text, await dictionaryFor(db(), text), '2026-11-25');
        expect([text, again.unread]).toEqual([text, []]);
        expect(new Set(await findIds(db(), HOUSE, again.query))).toEqual(new Set(found));
      }),
      { numRuns: 60 },
    );
  }, 60_000);

  it('orders as it says, ties by number, what is unknown last', async () => {
    const key = (one: Plain, by: string): string | number | null => {
      if (by === 'taken') return one.record.taken?.from ?? null;
      if (by === 'name') return one.name.toLowerCase();
      if (by === 'rating') return one.record.rating;
      if (by === 'bytes') return one.size;
      if (by === 'iso') return one.technical.iso ?? null;
      return one.number;
    };
    const byId = new Map(items.map((one) => [one.id, one]));
    for (const by of ['taken', 'name', 'rating', 'brought', 'bytes', 'iso'] as const)
      for (const down of [false, true]) {
        const found = (await findIds(db(), HOUSE, { where: [], order: { by, down } })).map((id) =>
          byId.get(id)!,
        );
        const keys = found.map((one) => key(one, by));
        const unknown = keys.indexOf(null);
        if (unknown >= 0) expect(keys.slice(unknown).every((one) => one === null)).toBe(true);
        for (let at = 1; at < found.length; at += 1) {
          const [a, b] = [keys[at - 1]!, keys[at]!];
          if (a === null || b === null) continue;
          expect(down ? a >= b : a <= b).toBe(true);
          if (a === b)
            expect(
              down
                ? found[at - 1]!.number > found[at]!.number
                : found[at - 1]!.number < found[at]!.number,
            ).toBe(true);
        }
      }
  });

  it('pages without losing or repeating anything, and every neighbour knows its place', async () => {
    const wished = parseQuery('order rating down; group camera');
    const all = await findIds(db(), HOUSE, wished);
    const paged: string[] = [];
    for (let offset = 0; offset < all.length; offset += 37)
      paged.push(...(await findTiles(db(), HOUSE, wished, offset, 37)).map(({ id }) => id));
    expect(paged).toEqual(all);
    for (const at of [0, 1, 120, all.length - 1])
      expect(await neighboursOf(db(), HOUSE, wished, all[at]!)).toMatchObject({
        index: at,
        total: all.length,
        previous: all[at - 1] ?? null,
        next: all[at + 1] ?? null,
      });
    expect(await neighboursOf(db(), HOUSE, parseQuery('words zzz'), all[0]!)).toBeNull();
    const some = [all[5]!, all[2]!, all[9]!];
    expect((await tilesOf(db(), HOUSE, some)).map(({ id }) => id)).toEqual(some);
  });

  it('parts its wall so that every item hangs in one group, whatever it is parted by', async () => {
    const groups = ALL_FIELDS.filter(({ uses }) => uses.includes('group')).map(
      ({ key }) => `group ${key}`,
    );
    for (const text of ['', 'order name', 'order rating', 'rated 3..; order taken', ...groups]) {
      const wished = parseQuery(text);
      const wall = await wallOf(db(), HOUSE, wished);
      expect(wall.groups.reduce((sum, { count }) => sum + count, 0)).toBe(wall.total);
      const aspects = await stretchOf(db(), HOUSE, wished, 0, items.length);
      expect(aspects).toHaveLength(wall.total);
      const wide = wall.groups.reduce((sum, group) => sum + group.wide, 0);
      expect(wide).toBeCloseTo(
        aspects.reduce((sum, one) => sum + one / 100, 0),
        0,
      );
      if (wished.group) {
        const keys = wall.groups.map(({ key }) => key);
        expect([text, new Set(keys).size]).toEqual([text, keys.length]);
      }
    }
  });

  it('says of one item which parts hold', async () => {
    const one = items.find(({ record }) => record.title === 'Red sail')!;
    const why = await whyOf(
      db(),
      HOUSE,
      parseQuery('title is "Red sail"; not title is "Red sail"; words red'),
      one.id,
    );
    expect(why).toEqual({
      found: false,
      parts: [
        { words: 'title “Red sail”', holds: true },
        { words: 'not title “Red sail”', holds: false },
        { words: 'saying “red”', holds: true },
      ],
    });
    await expect(
      whyOf(db(), HOUSE, EVERYTHING, '018f0000-0000-7000-8000-000000000000'),
    ).rejects.toThrow('no such item');
  });
});

const CHOSEN: Partial<Record<Field['type'], Condition['test']>> = {
  folder: 'in',
  date: 'within',
  colour: 'near',
};
function chosen(field: Field, value: string | number): Condition {
  const [low, high] = String(value).split('..');
  if (field.unit === 'bytes')
    return { field: field.key, test: 'range', values: [Number(low), Number(high)] };
  return { field: field.key, test: CHOSEN[field.type] ?? 'is', values: [value] };
}

describe('the choices of a field', () => {
  const counted = ALL_FIELDS.filter(
    ({ uses, type }) => uses.includes('count') && type !== 'long-text',
  );

  it('count what choosing them finds, whatever else the sentence says', async () => {
    await fc.assert(
      fc.asyncProperty(
        query,
        fc.constantFrom(...counted),
        fc.integer({ min: -1, max: 2 }),
        async (wished, field, at) => {
          const { choices, lacking } = await choicesOf(db(), HOUSE, wished, {
            field: field.key,
            at,
          });
          const rest: Query = { ...wished, where: wished.where.filter((_, index) => index !== at) };
          const find = (condition: Condition): Promise<number> =>
            countOf(db(), HOUSE, { ...rest, where: [...rest.where, condition] });
          for (const { value, count } of choices.slice(0, 40))
            expect([field.key, value, await find(chosen(field, value))]).toEqual([
              field.key,
              value,
              count,
            ]);
          if (field.type !== 'folder')
            expect([field.key, await find(not(has(field.key)))]).toEqual([field.key, lacking]);
        },
      ),
      { numRuns: 60 },
    );
  }, 120_000);

  it('add up in the tree of holdings', async () => {
    const nodes = await holdings(db(), HOUSE, EVERYTHING);
    for (const { id, count, here } of nodes) {
      const inside = (test: 'in' | 'only'): Query => ({
        ...EVERYTHING,
        where: [{ field: 'folder', test, values: [`#${id}`] }],
      });
      expect((await findIds(db(), HOUSE, inside('in'))).length).toBe(count);
      expect((await findIds(db(), HOUSE, inside('only'))).length).toBe(here);
    }
    const top = nodes.filter(({ path }) => path === '');
    expect(top.reduce((sum, { count }) => sum + count, 0)).toBe(items.length);
  });

  it('are completed from a few letters, each with what it would find', async () => {
    for (const letters of ['kit', 'wind', 'short', 'poster', '50%', '_', '\\', "'", 'ö', 'len'])
      for (const { clause, count, about, field } of await complete(archive.house, HOUSE, letters)) {
        if (field) expect(fieldOf(field)).toBeDefined();
        const found = await findIds(db(), HOUSE, parseQuery(clause));
        if (count >= 0)
          expect([letters, about, clause, found.length]).toEqual([letters, about, clause, count]);
      }
    expect((await complete(archive.house, HOUSE, '  ')).length).toBe(0);
    expect(
      (await complete(archive.house, HOUSE, 'thrown')).some(
        ({ about }) => about === 'collected in',
      ),
    ).toBe(false);
  });

  it('are understood from plain English, and what is not is told', async () => {
    const [told] = await understand(
      archive.house,
      HOUSE,
      'box kites from last September without credit, four pips or more, sideways',
      '2026-11-25',
    );
    expect(told).toMatchObject({
      words: 'about Box kite, taken in September 2026, not yet credited, four pips or more',
      unread: ['sideways'],
    });
    expect(told!.count).toBe(
      items.filter((one) =>
        holdsAll(one, parseQuery('term "Box kite"; taken 2026-09; lacking credit; rated 4..')),
      ).length,
    );
    expect(await understand(archive.house, HOUSE, 'quite another thing', '2026-11-25')).toEqual([]);
  });
});

describe('a name that several things have', () => {
  it('is offered as each, counted, and first as one that finds something; names are tried together', async () => {
    const today = '2026-11-25';
    // A folder of this name holds items, a term and a collection of it do not.
    await typedTerms(db(), ['Opening']);
    const empty = await addCollection(db(), null, 'Opening');
    const ways = await understand(archive.house, HOUSE, 'photos opening', today);
    expect(ways.length).toBeGreaterThan(2);
    expect(ways[0]!.count).toBeGreaterThan(0);
    for (const { clause, count } of ways)
      expect([clause, count]).toEqual([
        clause,
        (await findIds(db(), HOUSE, parseQuery(clause))).length,
      ]);
    const both = await understand(archive.house, HOUSE, 'opening dusk', today);
    expect(both[0]!.words).toContain('Dusk');
    expect(both[0]!.words).toContain('Opening');
    await removeCollection(db(), NOBODY, empty);
  });

  it('is read without end by nobody: long texts and very many words are bounded', async () => {
    const long = 'kite due use yes XYZ queue '.repeat(400);
    const began = performance.now();
    await complete(archive.house, HOUSE, long.slice(0, 2000));
    await understand(archive.house, HOUSE, long.slice(0, 2000), '2026-11-25');
    // Not a measure: it took longer than any test may before.
    expect(performance.now() - began).toBeLessThan(20_000);
  });
});

describe('a standing collection', () => {
  it('is found once, however often others name it', async () => {
    const named = async (text: string): Promise<Query> =>
      (await resolve(db(), parseQuery(text))).query;
    const chain = [await addCollection(db(), null, 'Pulled 0', '', await named('rated 3..'))];
    for (let at = 1; at < 5; at += 1) {
      const often = Array.from(
        { length: 60 },
        (_, one) => `collection "Pulled ${at - 1}", "Nowhere ${one}"`,
      );
      for (let one = 0; at === 1 && one < 60; one += 1)
        await addCollection(db(), null, `Nowhere ${one}`);
      chain.push(
        await addCollection(db(), null, `Pulled ${at}`, '', await named(often.join('; '))),
      );
    }
    const query = await named('collection "Pulled 4"');
    const { where } = await asked(db(), HOUSE, query);
    const { sql: statement } = where.compile(db());
    expect(statement.length).toBeLessThan(100_000);
    expect(await findIds(db(), HOUSE, query)).toEqual(
      await findIds(db(), HOUSE, await named('rated 3..')),
    );
    const many = Array.from({ length: 45 }, (_, at) => `Many ${at}`);
    for (const name of many) await addCollection(db(), null, name, '', await named('rated 3..'));
    await expect(
      findIds(db(), HOUSE, await named(`collection ${many.map((name) => `"${name}"`).join(', ')}`)),
    ).rejects.toMatchObject({ code: 'query-unclear' });
  });

  it('fills itself, serves as a condition in others, and refuses circles', async () => {
    const named = async (text: string): Promise<Query> =>
      (await resolve(db(), parseQuery(text))).query;
    const good = await addCollection(db(), null, 'Good ones', '', await named('rated 4..'));
    const wish = 'collection "Good ones"; kind photo, sound';
    const both = await addCollection(db(), null, 'Good and loud', '', await named(wish));
    const expected = (text: string): number =>
      items.filter((one) => holdsAll(one, parseQuery(text))).length;
    const shown = await keptCollections(archive.house, HOUSE);
    expect(shown.find(({ id }) => id === good)!.count).toBe(expected('rated 4..'));
    expect(shown.find(({ id }) => id === both)!.count).toBe(
      expected('rated 4..; kind photo, sound'),
    );
    expect(await countOf(db(), HOUSE, await named('not collection "Good and loud"'))).toBe(
      items.length - expected('rated 4..; kind photo, sound'),
    );
    await expect(
      editCollection(db(), null, good, { query: await named('collection "Good and loud"') }),
    ).rejects.toThrow('asks for it');
    await expect(addItems(db(), NOBODY, good, asSeen([items[0]!.id]))).rejects.toThrow(
      'fills itself',
    );
    await editCollection(db(), null, good, { name: 'Best ones', query: await named('rated 5') });
    expect(await countOf(db(), HOUSE, await named('collection "Good and loud"'))).toBe(
      expected('rated 5; kind photo, sound'),
    );
  });
});

describe('words', () => {
  it('find names, texts, terms with their broader ones, persons and places shown', async () => {
    for (const text of [
      'saltreach',
      'harbour',
      'ekwueme',
      'dusk',
      'kite',
      'six sided',
      'flats',
      'tern',
      'wind nig',
    ]) {
      const wished = parseQuery(`words "${text}"`);
      const expected = items.filter((one) => holdsAll(one, wished)).length;
      expect([text, await countOf(db(), HOUSE, wished)]).toEqual([text, expected]);
    }
  });
});

describe('random conditions', () => {
  it('hold together with their opposite for every item', async () => {
    await fc.assert(
      fc.asyncProperty(conditions({ ...ASKED, fields: ALL_FIELDS }), async ({ not: _, ...one }) => {
        const count = (condition: Condition): Promise<number> =>
          countOf(db(), HOUSE, { ...EVERYTHING, where: [condition] });
        expect((await count(one)) + (await count(not(one)))).toBe(items.length);
      }),
      { numRuns: 100 },
    );
  }, 60_000);
});
