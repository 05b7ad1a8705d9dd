import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { isInside } from '#core/atlas/clusters';
import { fieldOf } from '#core/fields/registry';
import { KINDS, type Kind } from '#core/kinds/kinds';
import { kilometres, parsePosition } from '#core/geo/position';
import { askedInterval } from '#core/query/meaning';
import { groupOf, isCondition, type Condition, type Node, type Query } from '#core/query/tree';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { takenFromText } from '#core/records/taken';
import type { Technical } from '#core/records/technical';
import { searchWords } from '#core/text/words';
import { addCollection, addItems, removeCollection } from '#server/collections/collections';
import type { House } from '#server/house/house';
import { newId } from '#server/house/ids';
import { ensureFolder } from '#server/places/folderRows';
import { addPlace, type Place } from '#server/places/places';
import { refreshWords } from '#server/records/records';
import { storeValues } from '#server/records/store';
import { typedTerms } from '#server/terms/terms';
import { random } from '../../demo/paint/random';
import { NOBODY } from './archive';
import { asSeen } from '#server/sight/seen';

/** An item as a plain filter sees it. */
export interface Plain {
  id: string;
  number: string;
  kind: Kind;
  place: string;
  folder: string;
  name: string;
  size: number;
  record: RecordValues;
  collections: string[];
  technical: Technical;
  width: number;
  /** Main colours; each looks like one of those that are asked for, or like none. */
  colours: string[];
}
export interface Made {
  house: House;
  folder: string;
}
export const PLACES = ['Studio shelf', 'Travel 50%'];
export const FOLDERS = [
  '',
  'Wind Week',
  'Wind Week/Opening',
  'Wind Week/Night',
  'Wind_Week',
  'Brand',
];
/** Each with the broader ones it implies. */
export const TERMS: Record<string, string[]> = {
  Kite: [],
  'Box kite': ['Kite'],
  'Six-sided box kite': ['Box kite', 'Kite'],
  Dusk: [],
  Hands: [],
};
const TITLES = ['', 'Red sail', 'Käthe’s knot', 'Low tide, flats', 'red Sail again'];
const DATES = ['', '2026', '2026-09', '2026-09-12', '2026-09-12 19:42', '2025-12-31/2026-01-02'];
export const STAGES = ['', 'To look over', 'Shortlist', 'Cleared for print'];
const COUNT = 240;

/** Fill an archive with made-up items of every sort. */
export async function makeItems({ house, folder: base }: Made): Promise<Plain[]> {
  const db = (): House['db'] => house.db;
  const items: Plain[] = [];
  const { pick, int, next } = random(2026);
  const stages = await db().selectFrom('stage').select('name').orderBy('position').execute();
  STAGES.splice(1, STAGES.length, ...stages.slice(0, 3).map(({ name }) => name));
  const places: Place[] = [];
  for (const name of PLACES) {
    const root = join(base, name);
    mkdirSync(root);
    places.push(await addPlace(house, name, root));
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
      headline: pick(['', 'Wind Week opens', 'Flats at dusk']),
      persons: next() < 0.3 ? [pick(['Bea Lund', 'Tomas Ekwueme'])] : [],
      city: pick(['', 'Saltreach', 'Harbour']),
      titleIn: next() < 0.2 ? { de: 'Rotes Segel' } : {},
      position: next() < 0.4 ? `${pick([51.2, 51.25, 40])}, ${pick([1.4, 1.5, -3])}` : '',
    };
    const camera = pick(['', 'Marlow Heron 5', 'Oskin Tern X']);
    const technical: Technical = {
      ...(camera
        ? { camera, iso: pick([100, 200, 400, 3200]), aperture: pick([1.8, 2.8, 5.6]) }
        : {}),
      ...(next() < 0.5 ? { lens: pick(['Heron 24-70mm f/2.8', 'Tern 400mm f/5.6']) } : {}),
    };
    const one: Plain = {
      id: randomUUID(),
      number: `2026.007.${String(at + 1).padStart(4, '0')}`,
      // A span is made of a clip, never brought in.
      kind: pick(KINDS.filter((kind) => kind !== 'span')),
      place: place.name,
      folder,
      name: `${pick(['HRN', 'tern', 'SLT'])}_${String(at).padStart(3, '0')}.jpg`,
      size: int(1, 5) * 1000,
      record,
      collections: [],
      technical,
      width: int(1, 4) * 100,
      colours: pick([[], ['#c22'], ['#a63', '#eee'], ['#00f'], ['#eee', '#c22']]),
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
        technical: JSON.stringify(technical),
        camera,
        latitude: null,
        longitude: null,
        width: one.width,
        colours: one.colours,
        height: 200,
        duration: null,
        noPicture: null,
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
  await addItems(db(), NOBODY, collection, asSeen(chosen.map(({ id }) => id)));
  for (const one of chosen) one.collections.push('Poster round');
  await addItems(db(), NOBODY, gone, asSeen([items[0]!.id]));
  await removeCollection(db(), NOBODY, gone);
  return items;
}

/** Which of the colours that are asked for a code looks like. */
const LIKE: Record<string, string> = { '#c22': '#cc2222', '#a63': '#aa6633' };

const lower = (text: unknown): string => String(text).toLowerCase();

/** Every value of a field that a plain look at an item gives. */
function valuesOf(one: Plain, key: string): (string | number)[] {
  const { record, technical } = one;
  const own = { ...technical, ...record } as Record<string, unknown>;
  const made: Record<string, unknown> = {
    kind: one.kind,
    format: 'jpeg',
    name: one.name,
    originalName: one.name,
    number: one.number,
    bytes: one.size,
    width: one.width,
    height: 200,
    megapixels: Math.round((one.width * 200) / 1e5) / 10,
    proportion: { 100: 'upright', 200: 'square', 300: 'across', 400: 'panorama' }[one.width],
    file: 'present',
    copies: 1,
    collection: one.collections,
    colours: one.colours,
    terms: record.terms.flatMap((term) => [term, ...TERMS[term]!]),
    position: record.position === '' ? [] : ['here'],
    taken: record.taken ? ['dated'] : [],
    brought: ['dated'],
    picture: ['made'],
    accession: '2026.007',
    writing: 'waiting',
  };
  const value = key in made ? made[key] : own[key];
  if (value === undefined || value === '' || value === null) return [];
  return typeof value === 'object'
    ? (Object.values(value) as (string | number)[])
    : [value as string | number];
}

function holdsCondition(one: Plain, { field: key, test, values }: Condition): boolean {
  const field = fieldOf(key)!;
  const own = valuesOf(one, key);
  const { taken } = one.record;
  switch (test) {
    case 'has':
      return own.length > 0;
    case 'contains':
      return own.some((text) => values.some((value) => lower(text).includes(lower(value))));
    case 'begins':
      return own.some((text) => values.some((value) => lower(text).startsWith(lower(value))));
    case 'range':
      return own.some(
        (value) =>
          Number(value) >= (values[0] === null ? -Infinity : Number(values[0])) &&
          Number(value) <= (values[1] === null ? Infinity : Number(values[1])),
      );
    case 'within':
    case 'overlaps':
    case 'before':
    case 'after': {
      const asked = askedInterval(String(values[0]))!;
      if (!taken) return false;
      if (test === 'before') return taken.to < asked.from;
      if (test === 'after') return taken.from > asked.to;
      if (test === 'overlaps') return taken.from <= asked.to && taken.to >= asked.from;
      return taken.from >= asked.from && taken.to <= asked.to;
    }
    case 'last': {
      const since = new Date();
      const [count, unit] = values as [number, string];
      if (unit === 'days') since.setUTCDate(since.getUTCDate() - count);
      if (unit === 'weeks') since.setUTCDate(since.getUTCDate() - 7 * count);
      if (unit === 'months') since.setUTCMonth(since.getUTCMonth() - count);
      if (unit === 'years') since.setUTCFullYear(since.getUTCFullYear() - count);
      return taken !== null && taken.from.slice(0, 19) >= since.toISOString().slice(0, 19);
    }
    case 'each':
      return (
        taken !== null &&
        taken.from.slice(5).startsWith(String(values[0])) &&
        taken.to.slice(5).startsWith(String(values[0])) &&
        taken.from.slice(0, 7) === taken.to.slice(0, 7)
      );
    case 'in':
    case 'only':
      return values.some((value) => {
        const [place = '', ...path] = String(value).split('/');
        if (lower(place) !== lower(one.place)) return false;
        const wished = path.join('/');
        if (!FOLDERS.includes(wished)) return false;
        const below = one.folder === wished || wished === '' || one.folder.startsWith(`${wished}/`);
        return test === 'in' ? below : one.folder === wished;
      });
    case 'near': {
      if (field.type === 'colour') return own.some((code) => values.includes(LIKE[code] ?? ''));
      const [latitude, longitude, km] = values.map(Number) as [number, number, number];
      const at = parsePosition(one.record.position);
      return at !== null && kilometres(latitude, longitude, at.latitude, at.longitude) <= km;
    }
    case 'box': {
      const [south, west, north, east] = values.map(Number) as [number, number, number, number];
      const at = parsePosition(one.record.position);
      return at !== null && isInside({ south, west, north, east }, at.latitude, at.longitude);
    }
    case 'says': {
      const { record } = one;
      const texts = [
        one.name,
        one.number,
        one.place,
        one.folder,
        record.title,
        record.caption,
        record.creditLine,
        record.headline,
        record.city,
        one.technical.camera ?? '',
        ...record.creator,
        ...record.persons,
        ...record.terms.flatMap((term) => [term, ...TERMS[term]!]),
      ];
      const words = texts.flatMap(searchWords);
      return searchWords(String(values[0])).every((word) =>
        words.some((text) => text.startsWith(word)),
      );
    }
    default:
      return own.some((text) =>
        values.some((value) => (field.of ? lower(text) === lower(value) : text === value)),
      );
  }
}

/** What a node of a query means, said plainly. */
export function holds(one: Plain, node: Node): boolean {
  if (isCondition(node)) return holdsCondition(one, node) !== (node.not === true);
  const [word, nodes] = groupOf(node);
  // Nothing that is made has spans.
  if (word === 'spans') return false;
  if (word === 'all') return nodes.every((part) => holds(one, part));
  const any = nodes.some((part) => holds(one, part));
  return word === 'any' ? any : !any;
}
export const holdsAll = (one: Plain, query: Query): boolean =>
  query.where.every((node) => holds(one, node));
