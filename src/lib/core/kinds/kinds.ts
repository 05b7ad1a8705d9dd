import { MHL_FOLDER } from '../manifest/mhl';

/** What an item is, told from its first bytes; the extension only settles what bytes cannot. */
export const KINDS = [
  'photo',
  'footage',
  'sound',
  'vector',
  'document',
  'font',
  'bundle',
  'other',
] as const;
export type Kind = (typeof KINDS)[number];

/** Plural words of the sentence. */
export const KIND_WORDS: Record<Kind, string> = {
  photo: 'photos',
  footage: 'footage',
  sound: 'sounds',
  vector: 'vector art',
  document: 'documents',
  font: 'fonts',
  bundle: 'bundles',
  other: 'other files',
};

export interface Format {
  /** What it is stored and told apart by. */
  key: string;
  kind: Kind;
  /** IANA media type. */
  type: string;
  /** Short name for people: JPEG, TIFF, camera raw … */
  name: string;
}

const format = (kind: Kind, type: string, name: string) => ({ kind, type, name });

const TABLE = {
  jpeg: format('photo', 'image/jpeg', 'JPEG'),
  png: format('photo', 'image/png', 'PNG'),
  webp: format('photo', 'image/webp', 'WebP'),
  avif: format('photo', 'image/avif', 'AVIF'),
  heic: format('photo', 'image/heic', 'HEIC'),
  tiff: format('photo', 'image/tiff', 'TIFF'),
  gif: format('photo', 'image/gif', 'GIF'),
  jxl: format('photo', 'image/jxl', 'JPEG XL'),
  jp2: format('photo', 'image/jp2', 'JPEG 2000'),
  psd: format('photo', 'image/vnd.adobe.photoshop', 'Layered picture'),
  bmp: format('photo', 'image/bmp', 'BMP'),
  raw: format('photo', 'image/x-raw', 'Camera raw'),
  svg: format('vector', 'image/svg+xml', 'SVG'),
  postscript: format('vector', 'application/postscript', 'PostScript'),
  pdf: format('document', 'application/pdf', 'PDF'),
  mp4: format('footage', 'video/mp4', 'MP4'),
  mov: format('footage', 'video/quicktime', 'QuickTime'),
  mkv: format('footage', 'video/x-matroska', 'Matroska'),
  webm: format('footage', 'video/webm', 'WebM'),
  avi: format('footage', 'video/x-msvideo', 'AVI'),
  mxf: format('footage', 'application/mxf', 'MXF'),
  mpeg: format('footage', 'video/mpeg', 'MPEG'),
  mpegVideo: format('footage', 'video/mpeg', 'MPEG video'),
  mpegTs: format('footage', 'video/mp2t', 'MPEG-TS'),
  dv: format('footage', 'video/dv', 'DV'),
  asf: format('footage', 'video/x-ms-asf', 'ASF'),
  r3d: format('footage', 'application/octet-stream', 'R3D'),
  exr: format('photo', 'image/x-exr', 'OpenEXR'),
  hdr: format('photo', 'image/vnd.radiance', 'Radiance'),
  ppm: format('photo', 'image/x-portable-pixmap', 'PPM'),
  pgm: format('photo', 'image/x-portable-graymap', 'PGM'),
  pbm: format('photo', 'image/x-portable-bitmap', 'PBM'),
  ico: format('photo', 'image/vnd.microsoft.icon', 'Icon'),
  tga: format('photo', 'image/x-tga', 'TGA'),
  xcf: format('photo', 'image/x-xcf', 'Layered drawing'),
  wav: format('sound', 'audio/wav', 'WAV'),
  aiff: format('sound', 'audio/aiff', 'AIFF'),
  flac: format('sound', 'audio/flac', 'FLAC'),
  mp3: format('sound', 'audio/mpeg', 'MP3'),
  ogg: format('sound', 'audio/ogg', 'Ogg'),
  m4a: format('sound', 'audio/mp4', 'MPEG-4 audio'),
  ttf: format('font', 'font/ttf', 'TrueType'),
  otf: format('font', 'font/otf', 'OpenType'),
  woff: format('font', 'font/woff', 'WOFF'),
  woff2: format('font', 'font/woff2', 'WOFF2'),
  html: format('document', 'text/html', 'HTML'),
  text: format('document', 'text/plain', 'Text'),
  zip: format('other', 'application/zip', 'ZIP'),
  office: format('document', 'application/octet-stream', 'Document'),
  other: format('other', 'application/octet-stream', 'File'),
};
export type FormatKey = keyof typeof TABLE;

const FORMATS = Object.fromEntries(
  Object.entries(TABLE).map(([key, rest]) => [key, { key, ...rest }]),
) as Record<FormatKey, Format & { key: FormatKey }>;

export const FORMAT_KEYS = Object.keys(TABLE) as FormatKey[];

/** The name people know a stored format by. */
export const formatName = (key: string): string =>
  (TABLE as Record<string, { name: string }>)[key]?.name ?? TABLE.other.name;

/** Raw formats carry their maker's extension; their bytes mostly look like TIFF. */
const RAW_EXTENSIONS = new Set(
  '3fr arw cr2 cr3 crw dcr dng erf fff gpr iiq k25 kdc mef mos mrw nef nrw orf pef raf raw rw2 rwl sr2 srf srw x3f'.split(
    ' ',
  ),
);

const TEXT_EXTENSIONS: Record<string, Format> = {
  txt: FORMATS.text,
  md: FORMATS.text,
  csv: FORMATS.text,
  html: FORMATS.html,
  htm: FORMATS.html,
  docx: FORMATS.office,
  xlsx: FORMATS.office,
  pptx: FORMATS.office,
  odt: FORMATS.office,
  ods: FORMATS.office,
  idml: FORMATS.office,
};

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

const ascii = (head: Uint8Array, from: number, length: number): string =>
  String.fromCharCode(...head.subarray(from, from + length));

function isoBase(head: Uint8Array, extension: string): Format {
  const brand = ascii(head, 8, 4);
  if (brand === 'avif' || brand === 'avis') return FORMATS.avif;
  if (/^(heic|heix|heim|heis|hevc|hevx|mif1|msf1)$/.test(brand)) return FORMATS.heic;
  if (brand === 'crx ') return FORMATS.raw;
  if (brand === 'qt  ') return FORMATS.mov;
  if (brand === 'M4A ' || brand === 'M4B ') return FORMATS.m4a;
  if (extension === 'm4a') return FORMATS.m4a;
  return FORMATS.mp4;
}

function riff(head: Uint8Array): Format | null {
  const form = ascii(head, 8, 4);
  if (form === 'WEBP') return FORMATS.webp;
  if (form === 'WAVE') return FORMATS.wav;
  return form === 'AVI ' ? FORMATS.avi : null;
}

const startsWith = (head: Uint8Array, ...bytes: number[]): boolean =>
  head.length >= bytes.length && bytes.every((byte, index) => head[index] === byte);

/** Packets of 188 bytes, each begun by 0x47 (ISO/IEC 13818-1); cameras put four bytes of time before each. */
const isTransportStream = (head: Uint8Array): boolean =>
  [
    [0, 188],
    [4, 192],
  ].some(([first, size]) => [0, 1, 2, 3].every((packet) => head[first! + packet * size!] === 0x47));

/** Signatures of the formats we know, most specific first. */
function bySignature(head: Uint8Array, extension: string): Format | null {
  const start = ascii(head, 0, 4);
  if (startsWith(head, 0xff, 0xd8, 0xff)) return FORMATS.jpeg;
  if (startsWith(head, 0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return FORMATS.png;
  if (start === 'GIF8') return FORMATS.gif;
  if (start === 'RIFF' || start === 'RF64') return riff(head);
  if (ascii(head, 4, 4) === 'ftyp') return isoBase(head, extension);
  if (/^(moov|mdat|wide|free|skip)$/.test(ascii(head, 4, 4))) return FORMATS.mov;
  if (start === 'II*\0' || start === 'MM\0*' || start === 'II+\0' || start === 'MM\0+')
    return RAW_EXTENSIONS.has(extension) ? FORMATS.raw : FORMATS.tiff;
  if (start === 'IIRO' || start === 'IIRS' || startsWith(head, 0x49, 0x49, 0x55, 0))
    return FORMATS.raw;
  if (ascii(head, 0, 8) === 'FUJIFILM' || start === 'FOVb' || start === '\0MRM') return FORMATS.raw;
  if (ascii(head, 6, 8) === 'HEAPCCDR') return FORMATS.raw;
  if (start === '8BPS') return FORMATS.psd;
  if (ascii(head, 0, 8) === 'gimp xcf') return FORMATS.xcf;
  if (startsWith(head, 0x76, 0x2f, 0x31, 0x01)) return FORMATS.exr;
  if (/^#\?(RADIANCE|RGBE)/.test(ascii(head, 0, 10))) return FORMATS.hdr;
  const netpbm = /^P([1-6])[\s#]/.exec(ascii(head, 0, 3))?.[1];
  if (netpbm) return [FORMATS.pbm, FORMATS.pgm, FORMATS.ppm][(Number(netpbm) - 1) % 3]!;
  if (startsWith(head, 0, 0, 1, 0) && head[4] !== 0 && head[5] === 0) return FORMATS.ico;
  if (isTransportStream(head)) return FORMATS.mpegTs;
  if (startsWith(head, 0x30, 0x26, 0xb2, 0x75, 0x8e, 0x66, 0xcf, 0x11)) return FORMATS.asf;
  if (startsWith(head, 0x1f, 0x07, 0x00)) return FORMATS.dv;
  if (/^RED[12]$/.test(ascii(head, 4, 4))) return FORMATS.r3d;
  if (start === '%PDF') return FORMATS.pdf;
  if (start === '%!PS' || startsWith(head, 0xc5, 0xd0, 0xd3, 0xc6)) return FORMATS.postscript;
  if (startsWith(head, 0x1a, 0x45, 0xdf, 0xa3))
    return ascii(head, 0, 64).includes('webm') ? FORMATS.webm : FORMATS.mkv;
  if (startsWith(head, 0x06, 0x0e, 0x2b, 0x34)) return FORMATS.mxf;
  if (startsWith(head, 0, 0, 1, 0xba)) return FORMATS.mpeg;
  if (startsWith(head, 0, 0, 1, 0xb3)) return FORMATS.mpegVideo;
  if (start === 'FORM' && /^AIF[FC]$/.test(ascii(head, 8, 4))) return FORMATS.aiff;
  if (start === 'fLaC') return FORMATS.flac;
  if (start === 'OggS') return FORMATS.ogg;
  if (start.startsWith('ID3')) return FORMATS.mp3;
  if (startsWith(head, 0xff, 0xfb) || startsWith(head, 0xff, 0xf3)) return FORMATS.mp3;
  if (start === 'wOFF') return FORMATS.woff;
  if (start === 'wOF2') return FORMATS.woff2;
  if (start === 'OTTO') return FORMATS.otf;
  if (startsWith(head, 0, 1, 0, 0, 0) || start === 'true' || start === 'ttcf') return FORMATS.ttf;
  if (startsWith(head, 0xff, 0x0a) || ascii(head, 4, 4) === 'JXL ') return FORMATS.jxl;
  if (ascii(head, 4, 4) === 'jP  ') return FORMATS.jp2;
  if (start.startsWith('BM') && head.length > 26 && head[14] !== undefined && head[14] >= 12)
    return FORMATS.bmp;
  return null;
}

/**
 * Format of a file from its first bytes (4 kB are enough) and, where these say nothing, its name.
 * @param head first bytes of the file
 * @param name file name
 */
export function formatOf(head: Uint8Array, name: string): Format {
  const extension = extensionOf(name);
  const found = bySignature(head, extension);
  if (found) return found;
  if (/<svg[\s>]/i.test(ascii(head, 0, Math.min(head.length, 4096)))) return FORMATS.svg;
  if (ascii(head, 0, 2) === 'PK') return TEXT_EXTENSIONS[extension] ?? FORMATS.zip;
  // A Truevision picture has no signature at its beginning; its name and a plausible head must do.
  if (extension === 'tga' && [1, 2, 3, 9, 10, 11].includes(head[2] ?? 0) && (head[1] ?? 2) <= 1)
    return FORMATS.tga;
  const byName = TEXT_EXTENSIONS[extension];
  const binary = head.includes(0);
  return byName && !binary ? byName : FORMATS.other;
}

/** Whether the XMP record goes into the file itself (true) or beside it as a sidecar. */
export function embeds(type: string): boolean {
  return type === 'image/jpeg';
}

/** Whether a name is that of a camera's raw file. */
export const isRawName = (name: string): boolean => RAW_EXTENSIONS.has(extensionOf(name));

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
