import { embeds } from '../kinds/kinds';
import { IIM_DIGEST, IPTC_OLDER } from '../fields/namespaces';
import { parsePosition } from '../geo/position';
import { cutBytes } from '../text/bytes';
import { FIELDS, LANGUAGES, type FieldKey, type Languages, type RecordValues } from './fields';
import { formatOffset, parseWallClock, precisionOf, type Taken } from './taken';

/**
 * Tags to write; null deletes. Of `Group:Tag-` what is told is what the tag may say before: only then it is written
 * (ExifTool's `-TAG-=VALUE`); an empty one: only where there is none.
 */
export type TagChanges = Record<string, string | number | string[] | object[] | null>;

/** How lists stand in the texts of a PDF's information dictionary. */
const PDF_LIST: Partial<Record<FieldKey, string>> = { terms: ', ' };

/** As much of a date as both its ends say: its day, month or year; nothing where they lie in different years. */
function sharedBy(from: string, to: string): string | undefined {
  const isWhole = (length: number): boolean => from.slice(0, length) === to.slice(0, length);
  const length = [10, 7, 4].find(isWhole);
  return length === undefined ? undefined : from.slice(0, length);
}

/** `2026:09:12 19:42:07`, as Exif tells a wall clock (Exif 3.0, 4.6.5). */
const asExif = (wallClock: string): string => wallClock.replaceAll('-', ':').replace('T', ' ');

function takenTags(taken: Taken | null, target: WriteTarget): TagChanges {
  const moment = taken && precisionOf(taken) === 'moment' ? parseWallClock(taken.from) : null;
  const offset = taken?.offset ?? null;
  const zone = offset === null ? '' : formatOffset(offset);
  const exact = taken && moment ? taken.from.replace(/\.000$/, '') : '';
  const [second = '', fraction = ''] = exact.split('.');
  const date = moment ? asExif(second) : null;
  // XMP can say less than a day; Exif and IIM cannot, and stay empty rather than invent one.
  const partialDate = taken && !moment ? sharedBy(taken.from, taken.to) : undefined;
  const tags: TagChanges = {
    [`${IPTC_OLDER}:DateCreated`]: moment ? exact + zone : (partialDate ?? null),
    // The same once more, by older habits: one home tells it.
    'XMP-exif:DateTimeOriginal': null,
  };
  for (const name of target.followers ?? []) tags[name] = date;
  if (target.exif) {
    tags['ExifIFD:DateTimeOriginal'] = date;
    tags['IFD0:DateTimeOriginal'] = null;
    tags['ExifIFD:SubSecTimeOriginal'] = fraction || null;
    tags['ExifIFD:OffsetTimeOriginal'] = zone || null;
    if (date) Object.assign(tags, exifBlockTags(target));
    // Exif 3.0, annex: zones are told since 2.31.
    if (zone) {
      tags['ExifIFD:ExifVersion-#'] = BEFORE_ZONES;
      tags['ExifIFD:ExifVersion#'] = '0232';
    }
  }
  if (target.film) {
    tags['Keys:CreationDate'] = date ? `${date}${zone}` : null;
  }
  if (target.iim) {
    tags['IPTC:DateCreated'] = date ? date.slice(0, 10) : null;
    tags['IPTC:TimeCreated'] = moment ? second.slice(11) + zone : null;
  }
  return tags;
}

/** Versions of Exif that know no OffsetTimeOriginal. */
const BEFORE_ZONES = ['0100', '0110', '0200', '0210', '0220', '0221', '0222', '0230'];

/** Written only where the file does not say it yet. */
const ifMissing = (tags: Record<string, string | number>): TagChanges =>
  Object.fromEntries(
    Object.entries(tags).flatMap(([name, value]) => {
      const [tag = '', raw = ''] = /#$/.test(name) ? [name.slice(0, -1), '#'] : [name];
      return [
        [`${tag}-${raw}`, ''],
        [`${tag}${raw}`, value],
      ];
    }),
  );

/** What an Exif block must say of itself (Exif 3.0, table 4) and ExifTool does not add to a new one. */
function exifBlockTags({ format, size }: WriteTarget): TagChanges {
  // A TIFF tells its components itself; ExifTool would add what Exif asks of JPEG alone.
  if (format === 'tiff')
    return {
      ...ifMissing({ 'ExifIFD:FlashpixVersion#': '0100' }),
      'ExifIFD:ComponentsConfiguration': null,
    };
  if (format !== 'jpeg' || !size) return {};
  return ifMissing({
    'ExifIFD:ExifImageWidth': size.width,
    'ExifIFD:ExifImageHeight': size.height,
  });
}

/** Everywhere a position stands; the height of another one goes. */
function positionTags(text: string, target: WriteTarget): TagChanges {
  const at = text === '' ? null : parsePosition(text);
  const tags: TagChanges = { 'XMP-exif:GPSAltitude': null, 'XMP-exif:GPSAltitudeRef': null };
  const axes = [
    ['Latitude', at?.latitude, 'NS'],
    ['Longitude', at?.longitude, 'EW'],
  ] as const;
  for (const [axis, degrees, letters] of axes) {
    tags[`XMP-exif:GPS${axis}#`] = degrees ?? null;
    if (!target.exif) continue;
    tags[`GPS:GPS${axis}#`] = degrees === undefined ? null : Math.abs(degrees);
    tags[`GPS:GPS${axis}Ref#`] = degrees === undefined ? null : letters[degrees < 0 ? 1 : 0]!;
  }
  if (target.exif) {
    tags['GPS:GPSAltitude'] = null;
    tags['GPS:GPSAltitudeRef'] = null;
    if (at)
      Object.assign(
        tags,
        ifMissing({
          'GPS:GPSVersionID': '2.3.0.0',
          ...(target.format === 'tiff' ? { 'GPS:GPSProcessingMethod': 'MANUAL' } : {}),
        }),
      );
  }
  if (target.film) {
    tags['Keys:GPSCoordinates#'] = at ? `${at.latitude} ${at.longitude}` : null;
    for (const group of ['ItemList', 'UserData']) tags[`${group}:GPSCoordinates`] = null;
  }
  return tags;
}

/** A text and what it says in other languages: written together, since the text alone would take the others away. */
function languageTags(record: RecordValues, key: FieldKey): TagChanges {
  const pair = LANGUAGES.find(({ text, others }) => text === key || others === key);
  if (!pair) return {};
  const { xmp } = FIELDS[pair.text];
  const entries = Object.entries(record[pair.others]);
  return {
    [xmp]: record[pair.text] || null,
    ...Object.fromEntries(entries.map(([language, text]) => [`${xmp}-${language}`, text])),
  };
}

export interface WriteTarget {
  /** The file can hold Exif (an XMP sidecar cannot). */
  exif: boolean;
  /** The file holds IIM already: MWG 2.0, 3.4 updates it then and never adds one. */
  iim: boolean;
  /** It is a film: what its own atoms say of the same must agree. */
  film?: boolean;
  /** Where terms stand, as a structure of XMP; null takes it away, undefined leaves what is there. */
  hierarchy?: string | null | undefined;
  /** It is a PDF: what its information dictionary says of the same must agree. */
  pdf?: boolean;
  /** Key of its format: what a new block of Exif needs differs. */
  format?: string;
  /** As it is stored, in px. */
  size?: { width: number; height: number } | null;
  /** Other dates of the file that say the date of before and follow it, see `followersIn`. */
  followers?: readonly string[];
}

/** What a file holds beside XMP, by how records go into it. */
export function targetIn(mediaType: string, iim: boolean): WriteTarget {
  const how = embeds(mediaType);
  return {
    exif: how === 'exif',
    iim: how === 'exif' && iim,
    pdf: how === 'pdf',
    film: how === 'xmp' && mediaType.startsWith('video/'),
  };
}

/** A picture as it is stored, of one that is shown upright. @param orientation of Exif, 1–8 */
export function storedSize(
  width: number | null,
  height: number | null,
  orientation: number,
): { width: number; height: number } | null {
  if (width === null || height === null) return null;
  return orientation >= 5 && orientation <= 8
    ? { width: height, height: width }
    : { width, height };
}

/** Formats whose IIM lies beside a digest of it, among their image resources. */
const WITH_DIGEST = new Set(['jpeg', 'tiff']);

/**
 * The tags that bring a file in step with its record, for the fields named.
 * Empty values delete. IIM text is cut to the lengths IIM 4.2 allows; Exif and XMP keep all of it.
 */
export function tagsFromRecord(
  record: RecordValues,
  keys: readonly FieldKey[],
  target: WriteTarget,
): TagChanges {
  const tags: TagChanges = {};
  const orNull = (value: string): string | null => value || null;
  for (const key of keys) {
    const field = FIELDS[key];
    if (key === 'taken') {
      Object.assign(tags, takenTags(record.taken, target));
      continue;
    }
    if (key === 'terms' && target.hierarchy !== undefined)
      tags['XMP-mwg-kw:KeywordInfo'] = target.hierarchy;
    if (key === 'position') {
      Object.assign(tags, positionTags(record.position, target));
      continue;
    }
    Object.assign(tags, languageTags(record, key));
    if (field.languagesOf) continue;
    const value = record[key] as Exclude<RecordValues[FieldKey], Languages | Taken | null>;
    if (typeof value === 'number') {
      tags[field.xmp] = value === 0 ? null : value;
      // What some systems read instead of XMP; XMP alone tells of “rejected”.
      if (key === 'rating' && target.exif)
        for (const tag of ['Rating', 'RatingPercent']) tags[`IFD0:${tag}`] = null;
    } else if (Array.isArray(value)) {
      tags[field.xmp] = value.length ? value : null;
      if (target.exif && field.exif) tags[field.exif] = orNull(value.join('; '));
    } else {
      // Texts of several languages are told above. Values of vocabularies go in as they are kept, not by ExifTool's own words for them.
      tags[field.type === 'enum' ? `${field.xmp}#` : field.xmp] = orNull(value);
      if (target.exif && field.exif) tags[field.exif] = orNull(value);
    }
    if (target.pdf && field.pdf)
      tags[field.pdf] = orNull(
        [value]
          .flat()
          .map(String)
          .join(PDF_LIST[key] ?? '; '),
      );
    if (target.iim && field.iim) {
      const { tag, limit } = field.iim;
      const list = (Array.isArray(value) ? value : [String(value)]).filter(Boolean);
      tags[tag] = list.length ? list.map((entry) => cutBytes(entry, limit)) : null;
    }
  }
  if (target.iim) {
    tags['IPTC:CodedCharacterSet'] = 'UTF8';
    if (WITH_DIGEST.has(target.format ?? 'jpeg')) tags[IIM_DIGEST] = 'new';
  }
  return tags;
}
