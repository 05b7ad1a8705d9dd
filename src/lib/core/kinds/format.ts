/** What an item is; a span is a stretch of another item. */
export const KINDS = [
  'photo',
  'footage',
  'sound',
  'vector',
  'document',
  'font',
  'bundle',
  'span',
  'other',
] as const;
export type Kind = (typeof KINDS)[number];

/** What makes the picture of a file; each is a module of the server. */
export type PictureBy =
  /** libvips, from the pixels */
  | 'pixels'
  /** one frame by FFmpeg */
  | 'frame'
  /** a frame of footage that says something */
  | 'film'
  | 'wave'
  | 'heif'
  | 'raw'
  | 'pdf'
  | 'postscript'
  | 'drawing'
  | 'specimen'
  /** the small picture or the first lines of a document */
  | 'lines';

/** How one looks at it closely. */
export type Look = 'picture' | 'pages' | 'drawing' | 'film' | 'sound' | 'specimen' | 'lines';

/** What carries a record in a file: XMP with Exif, with the document's own facts, or alone. */
export type Embeds = 'exif' | 'pdf' | 'xmp';

/** One format: how it is recognised, pictured, looked at, and where its record goes. */
export interface Format {
  /** What it is stored and told apart by. */
  key: string;
  kind: Kind;
  /** IANA media type. */
  type: string;
  /** Short name for people: JPEG, TIFF, camera raw … */
  name: string;
  /** Extensions files of it usually have, without dot, in lower case. None: any. */
  extensions: readonly string[];
  /** Whether a file is one, by its first bytes and, where these are not enough, its extension. */
  looks?: (head: Head) => boolean;
  /** Whether a text without signature is one: it has no unprintable bytes and one of the extensions. */
  isText?: true;
  picture?: PictureBy;
  look?: Look;
  /** FFmpeg's reader; formats without one are never given to it. */
  reader?: string;
  /** The record is written into the file, by what it can hold beside XMP; otherwise into a sidecar beside it. */
  embeds?: Embeds;
  /** What its picture leaves out. */
  loss?: string;
}

/** The first bytes of a file, and its extension. */
export class Head {
  constructor(
    readonly bytes: Uint8Array,
    readonly extension: string,
  ) {}

  /** Bytes as Latin-1 text. */
  ascii(from: number, length: number): string {
    return String.fromCharCode(...this.bytes.subarray(from, from + length));
  }
  starts(...bytes: number[]): boolean {
    return this.bytes.length >= bytes.length && bytes.every((one, at) => this.bytes[at] === one);
  }
  /** Whether some text stands somewhere. */
  at(from: number, text: string): boolean {
    return this.ascii(from, text.length) === text;
  }
  get isZip(): boolean {
    return this.at(0, 'PK\u0003\u0004');
  }
  /** Major brand of an ISO base media file (ISO/IEC 14496-12); empty where it is none. */
  get brand(): string {
    return this.at(4, 'ftyp') ? this.ascii(8, 4) : '';
  }
  /** Form of a RIFF file; empty where it is none. */
  get riff(): string {
    return this.at(0, 'RIFF') || this.at(0, 'RF64') ? this.ascii(8, 4) : '';
  }
  /** TIFF and BigTIFF in both byte orders. */
  get isTiff(): boolean {
    return ['II*\0', 'MM\0*', 'II+\0', 'MM\0+'].includes(this.ascii(0, 4));
  }
}

const words = (text: string): string[] => text.split(' ').filter(Boolean);

/** An entry of the table: key, kind, media type, name, extensions, and what else there is to say. */
export const format = (
  key: string,
  kind: Kind,
  type: string,
  name: string,
  extensions: string,
  rest: Omit<Format, 'key' | 'kind' | 'type' | 'name' | 'extensions'> = {},
): Format => ({ key, kind, type, name, extensions: words(extensions), ...rest });
