import { formatPosition, positionAt } from '../geo/position';
import {
  FIELDS,
  FIELD_KEYS,
  inOrder,
  LANGUAGES,
  type FieldKey,
  type Languages,
  type RecordValues,
} from './fields';
import { precisionOf, takenFromExif, takenFromText, type Taken } from './taken';
import { IIM_DIGEST, IPTC_OLDER } from '../fields/namespaces';

/** Tags as ExifTool prints them with `-G1 -n`: `IFD0:Make`, `XMP-dc:Title` … */
export type FileTags = Record<string, unknown>;

/** One tag's value as text; empty where absent. Lists join with `; ` as Exif 3.0 asks of Artist. */
export function tagText(tags: FileTags, name: string): string {
  const value = valueOf(tags, name);
  if (value === undefined || value === null) return '';
  if (Array.isArray(value)) return bounded(value.slice(0, MOST_VALUES).map(String).join('; '));
  if (typeof value === 'object') return textOfLanguages(value as Record<string, unknown>);
  return bounded(String(value));
}

/** Structures of XMP whose parts have names of their own: `XMP-iptcExt:LocationShown` holds `LocationShownCity`. */
const STRUCTURES = [
  ['LocationShown', ''],
  ['CopyrightOwner', 'CopyrightOwner'],
  ['Licensor', 'Licensor'],
  ['ImageSupplier', 'ImageSupplier'],
] as const;

/** A tag's value; a part of a structure by the name it has when flattened. Of several structures the first. */
function valueOf(tags: FileTags, name: string): unknown {
  if (tags[name] !== undefined) return tags[name];
  const [group, tag = ''] = name.split(':');
  const found = STRUCTURES.find(([structure]) => tag.startsWith(structure) && tag !== structure);
  if (!found) return undefined;
  const held = tags[`${group}:${found[0]}`];
  const first = (Array.isArray(held) ? held[0] : held) as Record<string, unknown> | undefined;
  return first?.[found[1] + tag.slice(found[0].length)];
}

/** More than anybody writes into a field; a file may hold megabytes. */
const LONGEST = 20_000;
const MOST_VALUES = 500;

/** Text as a database can keep it. */
const bounded = (text: string): string =>
  text.slice(0, LONGEST).replaceAll('\0', '').toWellFormed().trim();

/** A language alternative (XMP part 1, 8.2.2.4) printed as an object: the default, else the first. */
function textOfLanguages(value: Record<string, unknown>): string {
  const text = value['x-default'] ?? Object.values(value)[0];
  return text === undefined ? '' : bounded(String(text));
}

function tagList(tags: FileTags, name: string): string[] {
  const value = tags[name];
  const list = Array.isArray(value) ? value : value === undefined || value === null ? [] : [value];
  const texts = list
    .slice(0, MOST_VALUES)
    .map((entry) => bounded(String(entry)))
    .filter(Boolean);
  return [...new Set(texts)];
}

/** Beyond this a number is what a broken file says. */
const MOST_NUMBER = 1e15;

/** Number of a tag; null where it is none. */
export function tagNumber(tags: FileTags, name: string): number | null {
  const text = tagText(tags, name);
  const value = Number(text);
  return text !== '' && Math.abs(value) <= MOST_NUMBER ? value : null;
}

/** First of several tags that holds text. */
export function firstText(tags: FileTags, ...names: string[]): string {
  for (const name of names) {
    const text = tagText(tags, name);
    if (text) return text;
  }
  return '';
}

/** Groups that speak of something else than the file itself: its small pictures, what it was made from. */
const OTHERS = /^(IFD1|XMP-|System|File|Composite|InteropIFD|Preview|Thumbnail|Derived)/;

/** Text of the first tag of this name in a group of the file's own format: old raws have groups of their makers. */
export function anyText(tags: FileTags, name: string): string {
  for (const key of Object.keys(tags))
    if (key.endsWith(`:${name}`) && !OTHERS.test(key)) {
      const text = tagText(tags, key);
      if (text) return text;
    }
  return '';
}

/** Whether a text is another one whose characters beyond ASCII were lost on the way. */
export function isLossy(text: string, other: string): boolean {
  if (!/[?\ufffd]/.test(text) || /[?\ufffd]/.test(other)) return false;
  const literal = text
    .split(/[?\ufffd]+/)
    .map((part) => part.replace(/[.*+?^${}()|[\]\\]/g, '\\$&'));
  return new RegExp(`^${literal.join('[^\\u0000-\\u007f]{1,8}')}$`, 'u').test(other);
}

/**
 * MWG 2.0, 5.1: Exif is preferred; IIM counts before XMP only where its digest shows that something that
 * does not know XMP changed it since.
 */
function places(key: FieldKey, legacyChanged: boolean): string[] {
  const { exif, iim, xmp, pdf } = FIELDS[key];
  const legacy = iim ? [iim.tag] : [];
  return [
    ...(exif ? [exif] : []),
    ...(legacyChanged ? [...legacy, xmp] : [xmp, ...legacy]),
    ...(pdf ? [pdf] : []),
  ];
}

function isLegacyChanged(tags: FileTags): boolean {
  const kept = tagText(tags, IIM_DIGEST);
  const current = tagText(tags, 'File:CurrentIPTCDigest');
  return kept !== '' && current !== '' && kept !== current;
}

function splitNames(names: string[]): string[] {
  const all = names.flatMap((name) => name.split(';')).map((name) => name.trim());
  return [...new Set(all.filter(Boolean))];
}

/** Names: the list forms (XMP, IIM) keep them apart better than Exif's one string does. */
function creators(tags: FileTags, legacyChanged: boolean): string[] {
  const exif = splitNames(tagList(tags, FIELDS.creator.exif!));
  const xmp = splitNames(tagList(tags, FIELDS.creator.xmp));
  const first = places('creator', legacyChanged)
    .map((name) => splitNames(tagList(tags, name)))
    .find((list) => list.length > 0);
  if (first && isLossy(first.join(';'), xmp.join(';'))) return xmp;
  for (const name of places('creator', legacyChanged).slice(1)) {
    const list = splitNames(tagList(tags, name));
    if (list.length && (exif.length === 0 || list.join(';') === exif.join(';'))) return list;
  }
  return exif;
}

function clampRating(value: number | null): number {
  if (value === null) return 0;
  return Math.min(5, Math.max(-1, Math.round(value)));
}

/** Time taken, after MWG 2.0, 5.6, then what footage and sound carry. */
export function takenFromTags(tags: FileTags): Taken | null {
  const text = (name: string): string => tagText(tags, name);
  const offset = firstText(tags, 'ExifIFD:OffsetTimeOriginal', 'ExifIFD:OffsetTime');
  const iimDate = text('IPTC:DateCreated').replaceAll('-', ':');
  const iim = takenFromExif(`${iimDate} ${text('IPTC:TimeCreated')}`);
  const candidates: (() => Taken | null)[] = [
    () =>
      takenFromExif(text('ExifIFD:DateTimeOriginal'), text('ExifIFD:SubSecTimeOriginal'), offset),
    () => takenFromExif(text('IFD0:DateTimeOriginal'), '', offset),
    () => fuller(partial(text(`${IPTC_OLDER}:DateCreated`)), iim),
    () => takenFromExif(text('XMP-exif:DateTimeOriginal')),
    () => iim ?? partial(iimDate),
    () => takenFromExif(text('Keys:CreationDate')),
    () => takenFromExif(text('ExifIFD:CreateDate'), text('ExifIFD:SubSecTimeDigitized'), offset),
    () => takenFromExif(text('QuickTime:CreateDate')),
    () => takenFromExif(text('Matroska:DateTimeOriginal')),
    () => takenFromExif(`${text('RIFF:OriginationDate')} ${text('RIFF:OriginationTime')}`),
    () => takenFromExif(text('RIFF:DateTimeOriginal')),
    () => partial(text('RIFF:DateCreated')),
    () => takenFromExif(anyText(tags, 'DateTimeOriginal')),
    () => takenFromExif(text('XMP-xmp:CreateDate')),
  ];
  for (const candidate of candidates) {
    const taken = candidate();
    if (taken) return taken;
  }
  return null;
}

/** Dates that are read where nothing better is told of when it was taken: of when it was digitised or made. */
const FOLLOWERS = ['ExifIFD:CreateDate', 'XMP-xmp:CreateDate', 'QuickTime:CreateDate'];

/**
 * Of those dates the ones that say the same as some date: they were told along with it. One that says something else is of
 * another moment, and stays.
 */
export const followersIn = (tags: FileTags, taken: Taken): string[] =>
  FOLLOWERS.filter((name) => {
    const told = takenFromExif(tagText(tags, name));
    return told?.from.slice(0, 19) === taken.from.slice(0, 19);
  });

/** A bare day in XMP does not hide the hour that IIM tells of the same day. */
function fuller(xmp: Taken | null, iim: Taken | null): Taken | null {
  if (!xmp || !iim || precisionOf(xmp) === 'moment') return xmp;
  return iim.from.slice(0, 10) === xmp.from.slice(0, 10) ? iim : xmp;
}

/** XMP dates may stop at the year, month or day (XMP part 1, 8.2.1.2). */
function partial(text: string): Taken | null {
  if (/^\d{4}([:-]\d\d){0,2}$/.test(text)) return takenFromText(text.replaceAll(':', '-'));
  return takenFromExif(text);
}

/** More than any file says one thing in. */
const MOST_LANGUAGES = 30;

/**
 * What a text says in languages of its own; without a default the first of them is the text itself. ExifTool names them
 * `XMP-dc:Title-de`.
 */
function languagesOf(tags: FileTags, name: string): Languages {
  const found: Languages = {};
  const add = (language: string, value: unknown): void => {
    if (/^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,4}$/.test(language) && language !== 'x-default')
      found[language] = bounded(String(value));
  };
  for (const [key, value] of Object.entries(tags))
    if (key.startsWith(`${name}-`)) add(key.slice(name.length + 1), value);
  const held = tags[name];
  if (typeof held === 'object' && held !== null && !Array.isArray(held))
    for (const [language, value] of Object.entries(held)) add(language, value);
  return Object.fromEntries(Object.entries(inOrder(found)).slice(0, MOST_LANGUAGES));
}

/** Other homes of a date and of a position, as far as a file itself has them. */
const OWN_HOMES: Partial<Record<FieldKey, readonly string[]>> = {
  taken: [
    ...['ExifIFD:DateTimeOriginal', 'ExifIFD:SubSecTimeOriginal', 'IFD0:DateTimeOriginal'],
    ...['IPTC:DateCreated', 'IPTC:TimeCreated', 'XMP-exif:DateTimeOriginal'],
  ],
  position: [
    ...['GPS:GPSLatitude', 'GPS:GPSLatitudeRef', 'GPS:GPSLongitude', 'GPS:GPSLongitudeRef'],
  ],
};

/**
 * What a file and the XMP beside it say together: where the sidecar speaks of a field, the file's own homes of it do not
 * count.
 */
export function withSidecar(own: FileTags, sidecar: FileTags): FileTags {
  const said = Object.entries(sidecar).filter(([name]) => name.startsWith('XMP-'));
  const told = FIELD_KEYS.filter((key) => said.some(([name]) => name === FIELDS[key].xmp));
  const homes = new Set(
    told.flatMap((key) => {
      const { exif, iim, pdf } = FIELDS[key];
      return [exif, iim?.tag, pdf, ...(OWN_HOMES[key] ?? [])];
    }),
  );
  const languages = told.map((key) => `${FIELDS[key].xmp}-`);
  const kept = Object.entries(own).filter(
    ([name]) => !homes.has(name) && !languages.some((begin) => name.startsWith(begin)),
  );
  return Object.fromEntries([...kept, ...said]);
}

const WHERE = ['Latitude', 'Longitude'] as const;
/** Where films of different makers say it: `+54.3207+010.1349+12/` is `54.3207 10.1349 12` here. */
const IN_FILMS = ['Keys', 'ItemList', 'UserData', 'QuickTime'];

/** Where it was taken (MWG 2.0, 5.7): Exif first, then XMP, then what films say. Nought and nought is no place. */
export function positionFromTags(tags: FileTags): string {
  const exif = WHERE.map((axis) => {
    const size = tagNumber(tags, `GPS:GPS${axis}`);
    return size === null || !/^[SW]/i.test(tagText(tags, `GPS:GPS${axis}Ref`))
      ? size
      : -Math.abs(size);
  });
  const xmp = WHERE.map((axis) => tagNumber(tags, `XMP-exif:GPS${axis}`));
  const film =
    IN_FILMS.map((group) => tagText(tags, `${group}:GPSCoordinates`)).find(Boolean) ?? '';
  const others = WHERE.map((axis) => tagNumber(tags, `Composite:GPS${axis}`));
  const inFilm = film
    .split(/[\s,]+/)
    .slice(0, 2)
    .map(Number);
  for (const [latitude, longitude] of [exif, xmp, film ? inFilm : [], others]) {
    if (typeof latitude !== 'number' || typeof longitude !== 'number') continue;
    if (latitude === 0 && longitude === 0) continue;
    const found = positionAt(latitude, longitude);
    if (found) return formatPosition(found);
  }
  return '';
}

/** Where it is a term of a vocabulary, its key there: files hold it with or without its address. */
function codeOf(key: FieldKey, text: string): string {
  const values = FIELDS[key].values ?? [];
  return values.find((one) => one.key === text || text.endsWith(`/${one.key}`))?.key ?? '';
}

/** The record as the file tells it. */
export function recordFromTags(tags: FileTags): RecordValues {
  const changed = isLegacyChanged(tags);
  const one = (key: FieldKey): string => {
    const text = firstText(tags, ...places(key, changed));
    const xmp = tagText(tags, FIELDS[key].xmp);
    return isLossy(text, xmp) ? xmp : text;
  };
  const list = (key: FieldKey): string[] =>
    places(key, changed)
      .map((name) => tagList(tags, name))
      .find((found) => found.length > 0) ?? [];
  const told = FIELD_KEYS.map((key) => {
    const field = FIELDS[key];
    if (field.many) return [key, list(key)];
    if (field.languagesOf) return [key, languagesOf(tags, field.xmp)];
    return [key, field.type === 'enum' ? codeOf(key, one(key)) : one(key)];
  });
  const values = Object.fromEntries(told) as RecordValues;
  for (const { text, others } of LANGUAGES) values[text] ||= Object.values(values[others])[0] ?? '';
  return {
    ...values,
    position: positionFromTags(tags),
    creator: creators(tags, changed),
    rating: clampRating(tagNumber(tags, FIELDS.rating.xmp) ?? tagNumber(tags, 'IFD0:Rating')),
    stage: tagText(tags, FIELDS.stage.xmp),
    taken: takenFromTags(tags),
  };
}
