import { MHL_FOLDER } from '../manifest/folder';
import { Head, type Embeds, type Format, type Kind } from './format';
import { FILMS, SOUNDS } from './films';
import { OTHER, OTHERS } from './others';
import { ARTS, FONTS, PAPERS, TEXTS } from './papers';
import { PHOTOS, RAW_EXTENSIONS, TGA } from './photos';

export { KINDS, type Format, type Kind, type Look, type PictureBy } from './format';

/** Plural words of the sentence. */
export const KIND_WORDS: Record<Kind, string> = {
  photo: 'photos',
  footage: 'footage',
  sound: 'sounds',
  vector: 'vector art',
  document: 'documents',
  font: 'fonts',
  bundle: 'bundles',
  span: 'spans',
  other: 'other files',
};

/** Every format, in the order in which files are asked whether they are one: what is most particular first. */
export const FORMATS: readonly Format[] = [
  ...PHOTOS,
  ...SOUNDS,
  ...FILMS,
  ...PAPERS,
  ...ARTS,
  ...FONTS,
  ...OTHERS,
  TGA,
  ...TEXTS,
  OTHER,
];
const BY_KEY = new Map(FORMATS.map((one) => [one.key, one]));

export const FORMAT_KEYS: readonly string[] = [...BY_KEY.keys()];

/** What is known of a stored format. */
export const formatByKey = (key: string): Format => BY_KEY.get(key) ?? OTHER;

/** The name people know a stored format by. */
export const formatName = (key: string): string => formatByKey(key).name;

/** Extension without dot in lower case; empty where there is none. */
export function extensionOf(name: string): string {
  const dot = name.lastIndexOf('.');
  return dot > 0 ? name.slice(dot + 1).toLowerCase() : '';
}

/** A path or name without its extension; a name that begins with its only dot keeps it. */
export function stemOf(path: string): string {
  const extension = extensionOf(path.slice(path.lastIndexOf('/') + 1));
  return extension ? path.slice(0, -extension.length - 1) : path;
}

/** No text holds these; nor does any text of ours hold a NUL. */
const isBinary = (bytes: Uint8Array): boolean =>
  bytes.includes(0) &&
  !((bytes[0] === 0xff && bytes[1] === 0xfe) || (bytes[0] === 0xfe && bytes[1] === 0xff));

/**
 * Format of a file from its first bytes (4 kB are enough) and, where these say nothing, its name.
 * @param bytes first bytes of the file
 * @param name file name
 */
export function formatOf(bytes: Uint8Array, name: string): Format {
  const extension = extensionOf(name);
  const head = new Head(bytes, extension);
  const found = FORMATS.find(({ looks }) => looks?.(head));
  if (found) return found;
  const text = FORMATS.find((one) => one.isText && one.extensions.includes(extension));
  return text && !isBinary(bytes) ? text : OTHER;
}

/** Whether a file's name says another kind than its bytes do: `kite.jpg` that is a PNG. */
export function isNamedOtherwise(format: string, name: string): boolean {
  const { extensions } = formatByKey(format);
  return extensions.length > 0 && !extensions.includes(extensionOf(name));
}

/** Formats that browsers show moving. */
const MOVING = new Set(['gif', 'webp', 'png']);
/** Whether a picture moves, and browsers show how. @param frames how many pictures it has */
export const moves = (format: string, frames: number | undefined): boolean =>
  MOVING.has(format) && (frames ?? 1) > 1;

/** How the record goes into a file of this media type; null: beside it, as a sidecar. */
export const embeds = (type: string): Embeds | null =>
  FORMATS.find((one) => one.type === type && one.embeds)?.embeds ?? null;

const RAW = new Set(RAW_EXTENSIONS.split(' '));
/** Whether a name is that of a camera's raw file. */
export const isRawName = (name: string): boolean => RAW.has(extensionOf(name));

/** Files that never become items of their own. */
export function isSidecar(name: string): boolean {
  return extensionOf(name) === 'xmp';
}

/** Names an operating system or we ourselves leave behind; never brought in. */
export function isClutter(name: string): boolean {
  return (
    name.startsWith('.mindful-') ||
    name.startsWith('._') ||
    name === MHL_FOLDER ||
    /^(\.DS_Store|Thumbs\.db|desktop\.ini|\.Trash.*|\.Spotlight.*|\.fseventsd)$/i.test(name)
  );
}
