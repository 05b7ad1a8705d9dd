import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import type { ContributorEntry } from '#core/lists/entries';
import { HOUSE } from '#core/sight/viewer';
import { FIELDS } from '#core/records/fields';
import { breaks, type HouseRule } from '#core/records/rules';
import { parseQuery } from '#core/query/grammar';
import { refTo } from '#core/query/tree';
import { findIds } from '#server/catalogue/find';
import { addCollection } from '#server/collections/collections';
import { undo } from '#server/deeds/undo';
import { listedContributors, saveContributor, unlistedCreators } from '#server/lists/contributors';
import { saveStamp, stampItems, stampPreview } from '#server/lists/stamps';
import { dropStage, listedStages, mergeStages, orderStages, saveStage } from '#server/lists/stages';
import {
  dropTerm,
  exportedThesaurus,
  importThesaurus,
  mergeTerms,
  saveTerm,
  splitTerm,
  termCard,
  termsUnder,
  termsWith,
} from '#server/lists/thesaurus';
import { resolve } from '#server/query/names';
import { changeRecords, readRecords } from '#server/records/records';
import { setHouseRules } from '#server/lists/rules';
import { houseRules } from '#server/records/rules';
import { termsNear, typedTerms } from '#server/terms/terms';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2, writeJpeg, older } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
let root = '';
const valuesOf = async (at: number) => (await readRecords(db(), [ids[at]!]))[0]!.values;
const fileOf = (at: number) => exiv2(join(root, `l${at + 1}.jpg`));
const found = async (text: string): Promise<number> =>
  (await findIds(db(), HOUSE, (await resolve(db(), parseQuery(text))).query)).length;
const stageNamed = async (name: string) =>
  (await listedStages(db(), HOUSE)).find((stage) => stage.name === name)!;
const termNamed = async (label: string): Promise<string> =>
  (await termsWith(archive.house, HOUSE, label)).find((term) => term.label === label)!.id;
const wishOf = (stage: Awaited<ReturnType<typeof stageNamed>>) => {
  const { name, shape, colour, key, retired } = stage;
  return { name, shape, colour, key, retired };
};

beforeAll(async () => {
  const source = join(archive.folder, 'lists');
  mkdirSync(source);
  for (const at of [1, 2, 3]) await writeJpeg(join(source, `l${at}.jpg`), at);
  const place = await placeNamed(archive, 'Lists');
  root = place.root;
  await bringIn(archive, source, { mode: 'copy', place });
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
});

describe('a stage', () => {
  it('that is called otherwise is so in records, files, kept queries and files that still say the old; and back', async () => {
    await changeRecords(db(), null, asSeen([ids[0]!]), { stage: 'Shortlist' });
    await idle(archive);
    const before = await stageNamed('Shortlist');
    const done = await saveStage(db(), null, before.id, { ...wishOf(before), name: 'Chosen' });
    expect(done!.items).toBe(1);
    expect((await valuesOf(0)).stage).toBe('Chosen');
    expect(await found('stage Chosen')).toBe(1);
    // Whoever remembers the old name still finds it.
    expect(await found('stage Shortlist')).toBe(1);
    await idle(archive);
    expect(fileOf(0)['Xmp.xmp.Label']).toBe('Chosen');
    await changeRecords(db(), null, asSeen([ids[1]!]), { stage: 'shortlist' });
    expect((await valuesOf(1)).stage).toBe('Chosen');
    await undo(db(), null, done!.operationId);
    await idle(archive);
    expect((await valuesOf(0)).stage).toBe('Shortlist');
    expect(fileOf(0)['Xmp.xmp.Label']).toBe('Shortlist');
  });

  it('gives records back under its present name', async () => {
    const { operationId } = (await changeRecords(db(), null, asSeen([ids[0]!]), {
      stage: 'For print',
    }))!;
    const stage = await stageNamed('Shortlist');
    await saveStage(db(), null, stage.id, { ...wishOf(stage), name: 'Picked' });
    await undo(db(), null, operationId);
    expect((await valuesOf(0)).stage).toBe('Picked');
  });

  it('merges into another, with its items, its standing collections and its names; and back', async () => {
    const [from, into] = [await stageNamed('Picked'), await stageNamed('For print')];
    const query = parseQuery(`stage ${refTo(from.id)}`);
    const collection = await addCollection(db(), null, 'Picked ones', '', query);
    const done = await mergeStages(db(), null, from.id, into.id);
    expect(await stageNamed('Picked')).toBeUndefined();
    expect((await valuesOf(0)).stage).toBe('For print');
    expect(await found(`collection ${refTo(collection)}`)).toBe(2);
    expect(await found('stage Shortlist')).toBe(2);
    await undo(db(), null, done!.operationId);
    expect((await valuesOf(0)).stage).toBe('Picked');
    expect((await stageNamed('Picked')).id).toBe(from.id);
    expect(await found(`collection ${refTo(collection)}`)).toBe(2);
    expect(await found('stage "For print"')).toBe(0);
  });

  it('is refused a taken key or name, a change of what was changed meanwhile, and to go while items are at it', async () => {
    const stage = await stageNamed('Published');
    const save = (part: object, seen?: object) =>
      saveStage(db(), null, stage.id, { ...wishOf(stage), ...part }, seen as never);
    await expect(save({ key: 'a' })).rejects.toMatchObject({ code: 'conflict' });
    await expect(save({ key: 'h' })).rejects.toMatchObject({ code: 'value-refused' });
    await expect(save({ name: 'for PRINT' })).rejects.toMatchObject({ code: 'conflict' });
    const { id, items, ...seen } = stage;
    void id;
    void items;
    await save({ colour: 'wax' }, seen);
    await expect(save({ colour: 'plum' }, seen)).rejects.toMatchObject({ code: 'conflict' });
    await expect(dropStage(db(), null, (await stageNamed('Picked')).id)).rejects.toMatchObject({
      code: 'conflict',
    });
  });

  it('is one of twelve; files bring more, which are not offered', async () => {
    const wish = { shape: 'bar', colour: 'slate', key: null, retired: false } as const;
    const inUse = (await listedStages(db(), HOUSE)).filter(({ retired }) => !retired).length;
    for (let at = inUse; at < 12; at += 1)
      await saveStage(db(), null, null, { ...wish, name: `Stage ${at}` });
    await expect(saveStage(db(), null, null, { ...wish, name: 'One more' })).rejects.toMatchObject({
      code: 'value-refused',
    });
    await changeRecords(db(), null, asSeen([ids[2]!]), { stage: 'From a file' });
    expect((await stageNamed('From a file')).retired).toBe(true);
  });

  it('stands where it was put', async () => {
    const order = (await listedStages(db(), HOUSE)).map(({ id }) => id).reverse();
    const done = await orderStages(db(), null, order);
    expect((await listedStages(db(), HOUSE)).map(({ id }) => id)).toEqual(order);
    await expect(orderStages(db(), null, order.slice(1))).rejects.toMatchObject({
      code: 'conflict',
    });
    await undo(db(), null, done!.operationId);
    expect((await listedStages(db(), HOUSE)).map(({ id }) => id)).toEqual(order.reverse());
  });
});

describe('a term', () => {
  beforeAll(async () => {
    await typedTerms(db(), ['Box kite under Kite', 'Gale under Wind', 'Weather']);
    await changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Box kite'] });
    await changeRecords(db(), null, asSeen([ids[1]!]), { addTerms: ['Gale', 'Kite'] });
    await idle(archive);
  });

  it('may stand under several: whatever is broader finds its items, and counts them', async () => {
    const [gale, weather] = [await termNamed('Gale'), await termNamed('Weather')];
    const { entry } = await termCard(archive.house, HOUSE, gale);
    const { done } = await saveTerm(db(), null, gale, {
      ...entry,
      broader: [...entry.broader, weather],
    });
    expect(await found('terms Weather')).toBe(1);
    expect(await found('terms Wind')).toBe(1);
    expect(await found('words weather')).toBe(1);
    const { terms } = await termsUnder(archive.house, HOUSE, weather);
    expect(terms).toMatchObject([{ label: 'Gale', items: 1 }]);
    await undo(db(), null, done!.operationId);
    expect(await found('terms Weather')).toBe(0);
    expect(await found('words weather')).toBe(0);
  });

  it('never stands under itself', async () => {
    const [kite, box] = [await termNamed('Kite'), await termNamed('Box kite')];
    const { entry } = await termCard(archive.house, HOUSE, kite);
    await expect(saveTerm(db(), null, kite, { ...entry, broader: [box] })).rejects.toMatchObject({
      code: 'value-refused',
    });
  });

  it('is found and typed by its other labels, and files that say them are read as it', async () => {
    const kite = await termNamed('Kite');
    const { entry } = await termCard(archive.house, HOUSE, kite);
    const labels = [{ kind: 'also', lang: 'de', label: 'Drachen' } as const];
    await saveTerm(db(), null, kite, { ...entry, labels });
    expect(await found('words drachen')).toBe(2);
    expect(await found('terms Drachen')).toBe(2);
    expect(await typedTerms(db(), ['Drachen'])).toEqual(['Kite']);
    await changeRecords(db(), null, asSeen([ids[2]!]), { addTerms: ['drachen'] });
    expect((await valuesOf(2)).terms).toEqual(['Kite']);
  });

  it('that is called otherwise is so in records and files; the ledger gives steps of before back under the new name', async () => {
    const box = await termNamed('Box kite');
    const { operationId } = (await changeRecords(db(), null, asSeen([ids[0]!]), {
      removeTerms: ['Box kite'],
    }))!;
    const { entry } = await termCard(archive.house, HOUSE, box);
    const { done } = await saveTerm(db(), null, box, { ...entry, label: 'Cellular kite' });
    await undo(db(), null, operationId);
    expect((await valuesOf(0)).terms).toEqual(['Cellular kite']);
    await idle(archive);
    expect(fileOf(0)['Xmp.dc.subject']).toBe('Cellular kite');
    await undo(db(), null, done!.operationId);
    await idle(archive);
    expect(fileOf(0)['Xmp.dc.subject']).toBe('Box kite');
  });

  it('merges into another with what stands under it, and the other way round', async () => {
    const [wind, weather] = [await termNamed('Wind'), await termNamed('Weather')];
    await changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Wind'] });
    const done = await mergeTerms(db(), null, [wind], weather);
    expect((await valuesOf(0)).terms).toEqual(['Box kite', 'Weather']);
    expect(await found('terms Weather')).toBe(2);
    expect(await typedTerms(db(), ['Wind'])).toEqual(['Weather']);
    await undo(db(), null, done!.operationId);
    expect((await valuesOf(0)).terms).toEqual(['Box kite', 'Wind']);
    expect(await found('terms Weather')).toBe(0);
    expect(await found('terms Wind')).toBe(2);
  });

  it('is parted: what a query finds gets the new one', async () => {
    const kite = await termNamed('Kite');
    const { query } = await resolve(db(), parseQuery('terms Gale'));
    const { done } = await splitTerm(db(), null, kite, { label: 'Storm kite', query }, HOUSE);
    expect((await valuesOf(1)).terms).toEqual(['Gale', 'Storm kite']);
    expect((await valuesOf(2)).terms).toEqual(['Kite']);
    await undo(db(), null, done!.operationId);
    expect((await valuesOf(1)).terms).toEqual(['Gale', 'Kite']);
    await expect(
      splitTerm(db(), null, kite, { label: 'None', query: parseQuery('rated 5') }, HOUSE),
    ).rejects.toMatchObject({ code: 'value-refused' });
  });

  it('goes off the list only where nothing has it; what stood under it moves up', async () => {
    await typedTerms(db(), ['Knot under Rope under Tool']);
    const rope = await termNamed('Rope');
    const done = await dropTerm(db(), null, rope);
    const knot = await termNamed('Knot');
    const tool = await termNamed('Tool');
    expect((await termCard(archive.house, HOUSE, knot)).entry.broader).toEqual([tool]);
    await undo(db(), null, done!.operationId);
    expect((await termCard(archive.house, HOUSE, knot)).entry.broader).toEqual([rope]);
    await expect(dropTerm(db(), null, await termNamed('Gale'))).rejects.toMatchObject({
      code: 'conflict',
    });
  });

  it('stands in the way of an undo where it was changed again', async () => {
    const gale = await termNamed('Gale');
    const { entry } = await termCard(archive.house, HOUSE, gale);
    const { done } = await saveTerm(db(), null, gale, { ...entry, note: 'Eight and more' });
    await saveTerm(db(), null, gale, { ...entry, note: 'Nine and more' });
    await expect(undo(db(), null, done!.operationId)).rejects.toMatchObject({ code: 'conflict' });
  });
});

describe('the thesaurus in files', () => {
  it.each(['ttl', 'jsonld', 'csv'] as const)('goes out and in again as %s, equal', async (form) => {
    const kite = await termNamed('Kite');
    const { entry } = await termCard(archive.house, HOUSE, kite);
    await saveTerm(db(), null, kite, {
      ...entry,
      note: 'What flies on a line; "no" bird\nat all',
      related: [await termNamed('Wind')],
      labels: [
        { kind: 'also', lang: '', label: 'Flyer; of a kind' },
        { kind: 'hidden', lang: '', label: 'kyte' },
        { kind: 'preferred', lang: 'de', label: 'Drachen' },
      ],
    });
    const text = await exportedThesaurus(db(), form);
    const read = (mode: 'add' | 'replace') =>
      importThesaurus(db(), null, { text, form, mode, dry: true });
    expect((await read('replace')).changes).toEqual([]);
    expect((await read('add')).changes).toEqual([]);
  });

  it('is Turtle and JSON-LD to another tool as well', async () => {
    const file = join(archive.folder, 'thesaurus.ttl');
    writeFileSync(file, await exportedThesaurus(db(), 'ttl'));
    const triples = execFileSync('rapper', ['-q', '-i', 'turtle', '-o', 'ntriples', file], {
      encoding: 'utf8',
    });
    expect(triples).toContain('<http://www.w3.org/2004/02/skos/core#prefLabel> "Kite" .');
    expect(triples).toContain('<http://www.w3.org/2004/02/skos/core#prefLabel> "Drachen"@de .');
    expect(triples.match(/core#broader>/g)!.length).toBeGreaterThan(2);
  });

  it('takes terms in as one step, and gives them back', async () => {
    const text = 'Rope\n  Bridle\n    = Harness\nCord\n  Bridle\n';
    const { operation, changes } = await importThesaurus(db(), null, {
      ...{ text, form: 'txt', mode: 'add', dry: false },
    });
    expect(changes.map(({ after }) => after.label).sort()).toEqual(['Bridle', 'Cord']);
    const bridle = await termCard(archive.house, HOUSE, await termNamed('Bridle'));
    expect(bridle.entry.broader).toHaveLength(2);
    await undo(db(), null, operation!);
    expect(await termsWith(archive.house, HOUSE, 'Bridle')).toEqual([]);
  });

  it('is refused in words where it is no thesaurus, and fetches nothing', async () => {
    const read = (text: string, form: 'ttl' | 'jsonld') =>
      importThesaurus(db(), null, { text, form, mode: 'add', dry: true });
    await expect(read('<a> <b', 'ttl')).rejects.toMatchObject({ code: 'file-unreadable' });
    await expect(read('{"@id": ', 'jsonld')).rejects.toMatchObject({ code: 'file-unreadable' });
    await expect(
      read('{"@context": "http://127.0.0.1:9/context", "prefLabel": "x"}', 'jsonld'),
    ).rejects.toMatchObject({ message: expect.stringContaining('nothing is fetched') as string });
  });

  it('of fifty thousand is taken in, looked at and found at once', async () => {
    const rows = Array.from({ length: 50_000 }, (_, at) =>
      at % 500 === 0 ? `Branch ${at}` : `  Leaf ${at}`,
    );
    const { operation, changes } = await importThesaurus(db(), null, {
      ...{ text: rows.join('\n'), form: 'txt', mode: 'add', dry: false },
    });
    expect(changes).toHaveLength(50_000);
    const { terms } = await termsUnder(archive.house, HOUSE, await termNamed('Branch 500'));
    expect(terms).toHaveLength(499);
    expect((await termsWith(archive.house, HOUSE, 'leaf 49999')).map(({ label }) => label)).toEqual(
      ['Leaf 49999'],
    );
    await undo(db(), null, operation!);
    expect(await termsWith(archive.house, HOUSE, 'leaf')).toEqual([]);
  }, 240_000);
});

describe('a contributor', () => {
  const bea: ContributorEntry = {
    ...{ name: 'Bea Lund', kind: 'person', also: ['B. Lund'], creditLine: 'Bea Lund / Saltreach' },
    ...{ copyrightNotice: '', usageTerms: '', email: '', phone: '', web: '', note: '' },
    retired: false,
  };

  it('corrected once is corrected in every record and file that said the old; one undo', async () => {
    await changeRecords(db(), null, asSeen([ids[0]!]), {
      creator: ['B. Lund'],
      creditLine: bea.creditLine,
    });
    await changeRecords(db(), null, asSeen([ids[1]!]), {
      creator: ['Bea Lund'],
      creditLine: 'by hand',
    });
    expect((await unlistedCreators(db(), HOUSE)).map(({ name }) => name)).toContain('B. Lund');
    const made = await saveContributor(db(), null, null, bea, { follow: true });
    expect((await valuesOf(0)).creator).toEqual(['Bea Lund']);
    expect(await listedContributors(db(), HOUSE)).toMatchObject([{ name: 'Bea Lund', items: 2 }]);
    const after = { ...bea, name: 'Bea Lundt', creditLine: 'Bea Lundt / Saltreach' };
    const { done } = await saveContributor(db(), null, made.id, after, { follow: true });
    await idle(archive);
    expect(fileOf(0)).toMatchObject({
      'Xmp.dc.creator': 'Bea Lundt',
      'Exif.Image.Artist': 'Bea Lundt',
      [older('Credit')]: 'Bea Lundt / Saltreach',
    });
    expect(fileOf(1)[older('Credit')]).toBe('by hand');
    await undo(db(), null, done!.operationId);
    await idle(archive);
    expect(fileOf(0)['Xmp.dc.creator']).toBe('Bea Lund');
  });
});

describe('a stamp', () => {
  it('is kept, shown before on what it changes, put as one step, bound to what was seen', async () => {
    const entry = {
      ...{ name: 'Wind Week', project: 'Festival' },
      lines: [
        { field: 'event', way: 'overwrite', value: 'Wind Week {number}' } as const,
        { field: 'creditLine', way: 'fill', value: 'Saltreach Kites' } as const,
        { field: 'terms', way: 'add', value: ['Weather'] } as const,
      ],
    };
    await saveStamp(db(), null, null, entry as never);
    const { lines } = entry as never as { lines: never };
    const preview = await stampPreview(db(), asSeen(ids), lines);
    expect(preview.fields).toEqual([
      { field: 'creditLine', changed: 1 },
      { field: 'terms', changed: 3 },
      { field: 'event', changed: 3 },
    ]);
    expect(preview.values).toBe(preview.lines.length);
    await changeRecords(db(), null, asSeen([ids[2]!]), { title: 'Meanwhile' });
    await expect(
      stampItems(db(), null, asSeen(ids), lines, preview.fingerprint),
    ).rejects.toMatchObject({
      code: 'conflict',
    });
    const now = await stampPreview(db(), asSeen(ids), lines);
    const done = await stampItems(db(), null, asSeen(ids), lines, now.fingerprint);
    expect((await valuesOf(2)).event).toMatch(/^Wind Week 20/);
    expect((await stampPreview(db(), asSeen(ids), lines)).changed).toBe(0);
    await undo(db(), null, done!.operationId);
    expect((await valuesOf(2)).event).toBe('');
  });
});

describe('the rules of the house', () => {
  const rules: HouseRule[] = [
    { field: 'creditLine', required: true, allowed: [], like: '' },
    { field: 'event', required: false, allowed: ['Wind Week', 'Spring fair'], like: '' },
    { field: 'persons', required: true, allowed: ['Ida', 'Bo'], like: '' },
    { field: 'terms', required: true, allowed: [], like: '' },
    { field: 'taken', required: true, allowed: [], like: '' },
    { field: 'jobId', required: false, allowed: [], like: '@@-####*?' },
    { field: 'source', required: false, allowed: ['a.b', 'a+b'], like: 'a\\.?' },
  ];

  it('say of every item what it breaks, the same here and in the database', async () => {
    const wishes = [
      {
        creditLine: 'x',
        event: 'Wind Week',
        persons: ['Ida'],
        taken: '2026',
        jobId: 'WW-2026ä',
        source: 'a.b',
      },
      {
        creditLine: '',
        event: 'Another',
        persons: ['Ida', 'Zoë'],
        addTerms: ['Kite'],
        jobId: 'WW-2026',
        source: 'a+b',
      },
      { creditLine: 'y', event: '', persons: [], taken: '', jobId: 'W', source: '' },
    ];
    for (const [at, wish] of wishes.entries())
      await changeRecords(db(), null, asSeen([ids[at]!]), wish);
    await setHouseRules(db(), null, rules);
    expect(await houseRules(db())).toEqual(rules);
    let broken = 0;
    for (const [at, id] of ids.entries()) {
      const values = await valuesOf(at);
      for (const rule of rules) {
        const label = FIELDS[rule.field].label;
        const found = await findIds(db(), HOUSE, parseQuery(`unready "${label}"; order name`));
        expect([at, label, found.includes(id)]).toEqual([
          ...[at, label, breaks(values[rule.field], rule)],
        ]);
        if (found.includes(id)) broken += 1;
      }
    }
    expect(broken).toBeGreaterThan(4);
    expect(await found('has unready')).toBe(ids.length - (await found('lacking unready')));
  });

  it('are refused where they ask for nothing, twice, or for values of fields that have their own', async () => {
    for (const wrong of [
      [{ field: 'event', required: false, allowed: [], like: '' }],
      [rules[0]!, rules[0]!],
      [{ field: 'rating', required: true, allowed: ['3'], like: '' }],
    ] as HouseRule[][])
      await expect(setHouseRules(db(), null, wrong)).rejects.toMatchObject({
        code: 'value-refused',
      });
    await setHouseRules(db(), null, []);
    expect(await found('has unready')).toBe(0);
  });
});

describe('while bringing in', () => {
  it('kept stamps are put on each file, and stand in it from the first', async () => {
    const lines = [
      { field: 'event', way: 'fill', value: 'Come in {original}' },
      { field: 'terms', way: 'add', value: ['Arrival under Day'] },
    ] as const;
    const kept = await saveStamp(db(), null, null, {
      ...{ name: 'Arrivals', project: '', lines: lines as never },
    });
    const source = join(archive.folder, 'arrivals');
    mkdirSync(source);
    await writeJpeg(join(source, 'n1.jpg'), 21);
    const place = await placeNamed(archive, 'Arrivals');
    const gone = '01a20000-0000-7000-8000-000000000000';
    await bringIn(archive, source, { mode: 'copy', place, plan: { stamps: [kept.id, gone] } });
    const [id] = await findIds(db(), HOUSE, parseQuery('name "n1.jpg"'));
    const [record] = await readRecords(db(), [id!]);
    expect(record!.values).toMatchObject({ event: 'Come in n1', terms: ['Arrival'] });
    expect(exiv2(join(place.root, 'n1.jpg'))['Xmp.dc.subject']).toBe('Arrival');
  });
});

describe('suggestions', () => {
  it('are what neighbours in the folder have, the most given first, and not what it has itself', async () => {
    for (const id of ids) await changeRecords(db(), null, asSeen([id]), { addTerms: ['Common'] });
    await changeRecords(db(), null, asSeen([ids[1]!]), { addTerms: ['Rare'] });
    await changeRecords(db(), null, asSeen([ids[0]!]), { removeTerms: ['Common'] });
    const near = await termsNear(db(), ids[0]!);
    expect(near[0]).toBe('Common');
    expect(near).toContain('Rare');
    expect(await termsNear(db(), ids[1]!)).not.toContain('Common');
  });
});
