import type { RandomAccess } from './tiff';

/**
 * The pictures of a HEIF file (ISO/IEC 23008-12; HEIC, AVIF): the data of its items that are no metadata, with their
 * properties and how they hang together. Where in the file they lie may change.
 */
/** A description of more than this is what a broken file says of itself; bytes. */
const LARGEST_META = 64 << 20;
const MOST_ITEMS = 20_000;
const MOST_EXTENTS = 100_000;
const PIECE = 1 << 20;
/** Items that describe: Exif, XMP, addresses. */
const DESCRIBES = new Set(['Exif', 'mime', 'uri ']);

class Torn extends Error {}

/** Numbers of a box one after the other. @throws Torn beyond its end */
class Reader {
  at = 0;
  readonly #view: DataView;
  constructor(readonly bytes: Uint8Array) {
    this.#view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  get left(): number {
    return this.bytes.length - this.at;
  }
  uint(length: number): number {
    if (length > this.left) throw new Torn();
    const at = this.at;
    this.at += length;
    if (length === 0) return 0;
    if (length === 1) return this.#view.getUint8(at);
    if (length === 2) return this.#view.getUint16(at);
    if (length === 4) return this.#view.getUint32(at);
    if (length === 8) return Number(this.#view.getBigUint64(at));
    throw new Torn();
  }
  take(length: number): Uint8Array {
    if (length < 0 || length > this.left) throw new Torn();
    this.at += length;
    return this.bytes.subarray(this.at - length, this.at);
  }
  text(length: number): string {
    return String.fromCharCode(...this.take(length));
  }
  /** The next box inside. */
  box(): { type: string; body: Uint8Array } {
    const short = this.uint(4);
    const type = this.text(4);
    const whole = short === 1 ? this.uint(8) : short;
    const head = short === 1 ? 16 : 8;
    return { type, body: this.take(short === 0 ? this.left : whole - head) };
  }
  *boxes(): Generator<{ type: string; body: Uint8Array }> {
    while (this.left >= 8) yield this.box();
    if (this.left > 0) throw new Torn();
  }
}

interface Extent {
  /** 0: of the file, 1: of the box of data inside of the description */
  from: number;
  at: number;
  length: number;
}

/** Types of items by id. */
function typesOf(body: Uint8Array): Map<number, string> {
  const reader = new Reader(body);
  const version = reader.uint(4) >>> 24;
  const count = reader.uint(version === 0 ? 2 : 4);
  if (count > MOST_ITEMS) throw new Torn();
  const types = new Map<number, string>();
  for (let at = 0; at < count; at += 1) {
    const own = new Reader(reader.box().body);
    const form = own.uint(4) >>> 24;
    if (form < 2) throw new Torn();
    const id = own.uint(form === 2 ? 2 : 4);
    own.uint(2);
    types.set(id, own.text(4));
  }
  return types;
}

/** Where the data of items lie, by id. */
function extentsOf(body: Uint8Array): Map<number, Extent[]> {
  const reader = new Reader(body);
  const version = reader.uint(4) >>> 24;
  const sizes = reader.uint(2);
  const [offset, length, base] = [sizes >> 12, (sizes >> 8) & 15, (sizes >> 4) & 15];
  const index = version === 0 ? 0 : sizes & 15;
  const count = reader.uint(version < 2 ? 2 : 4);
  if (version > 2 || count > MOST_ITEMS) throw new Torn();
  const found = new Map<number, Extent[]>();
  let extents = 0;
  for (let item = 0; item < count; item += 1) {
    const id = reader.uint(version < 2 ? 2 : 4);
    const from = version === 0 ? 0 : reader.uint(2) & 15;
    // Data of another file is not part of this one.
    if (reader.uint(2) !== 0 || from > 1) throw new Torn();
    const begins = reader.uint(base);
    const own: Extent[] = [];
    const parts = reader.uint(2);
    if ((extents += parts) > MOST_EXTENTS) throw new Torn();
    for (let part = 0; part < parts; part += 1) {
      reader.uint(index);
      const at = begins + reader.uint(offset);
      own.push({ from, at, length: reader.uint(length) });
    }
    found.set(id, own);
  }
  return found;
}

/** The description of a file's items; null where there is none, or moving pictures are beside it. */
async function metaOf({ size, read }: RandomAccess): Promise<Uint8Array | null> {
  let meta: Uint8Array | null = null;
  for (let at = 0; at < size;) {
    const head = new Reader(await read(at, Math.min(16, size - at)));
    const short = head.uint(4);
    const type = head.text(4);
    const whole = short === 0 ? size - at : short === 1 ? head.uint(8) : short;
    if (whole < 8 || at + whole > size || type === 'moov' || type === 'moof') return null;
    if (type === 'meta') {
      if (meta || whole > LARGEST_META) return null;
      // What is read is only lent.
      meta = Uint8Array.from(await read(at + head.at, whole - head.at));
    }
    at += whole;
  }
  return meta;
}

async function takeExtent(
  { size, read }: RandomAccess,
  { from, at, length }: Extent,
  inside: Uint8Array,
  take: (bytes: Uint8Array) => void,
): Promise<void> {
  const end = from === 1 ? inside.length : size;
  // An extent of no length goes on to the end.
  const whole = length === 0 ? end - at : length;
  if (whole < 0 || at + whole > end) throw new Torn();
  if (from === 1) return take(inside.subarray(at, at + whole));
  for (let done = 0; done < whole; done += PIECE)
    take(await read(at + done, Math.min(PIECE, whole - done)));
}

const numbers = (...values: number[]): Uint8Array =>
  new Uint8Array(Uint32Array.from(values).buffer);

/**
 * @param take gets the pictures piece by piece
 * @returns false where the file is not whole, or its pictures cannot be told from what describes them
 */
export async function pickItems(
  source: RandomAccess,
  take: (bytes: Uint8Array) => void,
): Promise<boolean> {
  try {
    const meta = await metaOf(source);
    if (!meta) return false;
    const reader = new Reader(meta);
    reader.uint(4);
    const parts = new Map<string, Uint8Array>();
    for (const { type, body } of reader.boxes()) parts.set(type, body);
    const [infos, places, properties] = ['iinf', 'iloc', 'iprp'].map((type) => parts.get(type));
    if (!infos || !places) return false;
    const types = typesOf(infos);
    const extents = extentsOf(places);
    const pictures = [...types]
      .filter(([, type]) => !DESCRIBES.has(type))
      .sort(([a], [b]) => a - b);
    if (pictures.length === 0) return false;
    for (const [id, type] of pictures) {
      take(numbers(id));
      take(new TextEncoder().encode(type));
      for (const extent of extents.get(id) ?? [])
        await takeExtent(source, extent, parts.get('idat') ?? new Uint8Array(0), take);
    }
    for (const part of [properties, parts.get('pitm')]) if (part) take(part);
    // What hangs together with what; who describes whom may change.
    const references = new Reader(parts.get('iref') ?? new Uint8Array(4));
    references.uint(4);
    for (const { type, body } of references.boxes())
      if (type !== 'cdsc') {
        take(new TextEncoder().encode(type));
        take(body);
      }
    return true;
  } catch (error) {
    if (error instanceof Torn || error instanceof RangeError) return false;
    throw error;
  }
}
