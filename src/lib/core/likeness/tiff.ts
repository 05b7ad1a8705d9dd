/**
 * The pictures of a TIFF (TIFF 6.0; BigTIFF) without what describes them: of every image in the file the tags that say how its
 * samples are to be read, and its strips or tiles. Where they lie does not count: a program that rewrites the
 * file moves them.
 */
export interface RandomAccess {
  size: number;
  /** Bytes from a place on; fewer at the end of the file. The view may be used again by the next call. */
  read: (at: number, length: number) => Promise<Uint8Array>;
}

/** Tags that change what is shown; 274 (orientation) describes. */
const SHOWN = new Set([
  ...[254, 255, 256, 257, 258, 259, 262, 263, 266, 277, 278, 280, 281, 284, 290, 291, 292, 293],
  ...[301, 317, 318, 319, 320, 322, 323, 332, 333, 334, 336, 338, 339, 340, 341, 347, 512, 515],
  ...[519, 520, 521, 529, 530, 531, 532, 34675],
]);
/** Offsets → lengths of the data of an image. */
const DATA = [
  [273, 279],
  [324, 325],
  [513, 514],
] as const;
const SUB_IFDS = 330;
const BYTES_OF = [0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4, 0, 0, 8, 8, 8];
const MOST_IMAGES = 10_000;
const MOST_ENTRIES = 4096;
const LONGEST_VALUE = 64 << 20;
const PIECE = 1 << 20;

interface Entry {
  type: number;
  count: number;
  /** Its bytes as they lie in the file. */
  bytes: Uint8Array;
}

class Broken extends Error {}

class TiffReader {
  readonly #file: RandomAccess;
  readonly #little: boolean;
  readonly #big: boolean;
  constructor(file: RandomAccess, little: boolean, big: boolean) {
    this.#file = file;
    this.#little = little;
    this.#big = big;
  }

  async bytes(at: number, length: number): Promise<Uint8Array> {
    if (at < 0 || length < 0 || at + length > this.#file.size || length > LONGEST_VALUE)
      throw new Broken();
    const read = await this.#file.read(at, length);
    if (read.length < length) throw new Broken();
    // A copy: what is lent is used again, and pieces of some kinds of bytes stay views.
    return new Uint8Array(read);
  }
  number(bytes: Uint8Array, at: number, size: number): number {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    if (size === 1) return view.getUint8(at);
    if (size === 2) return view.getUint16(at, this.#little);
    if (size === 4) return view.getUint32(at, this.#little);
    return Number(view.getBigUint64(at, this.#little));
  }
  numbers({ type, count, bytes }: Entry): number[] {
    const size = BYTES_OF[type]!;
    return Array.from({ length: count }, (_, at) => this.number(bytes, at * size, size));
  }
  first = (head: Uint8Array): number =>
    this.#big ? this.number(head, 8, 8) : this.number(head, 4, 4);

  /** Entries of a directory by tag, and where the next one lies. */
  async directory(at: number): Promise<{ entries: Map<number, Entry>; next: number }> {
    const [counted, each, wide] = this.#big ? [8, 20, 8] : [2, 12, 4];
    const count = this.number(await this.bytes(at, counted), 0, counted);
    if (count === 0 || count > MOST_ENTRIES) throw new Broken();
    const table = await this.bytes(at + counted, count * each + wide);
    const entries = new Map<number, Entry>();
    for (let index = 0; index < count; index += 1) {
      const from = index * each;
      const type = this.number(table, from + 2, 2);
      const amount = this.number(table, from + 4, wide);
      const length = (BYTES_OF[type] ?? 0) * amount;
      const own = from + 4 + wide;
      const bytes =
        length <= wide
          ? table.slice(own, own + length)
          : await this.bytes(this.number(table, own, wide), length);
      if (length > 0) entries.set(this.number(table, from, 2), { type, count: amount, bytes });
    }
    return { entries, next: this.number(table, count * each, wide) };
  }

  async *data(entries: Map<number, Entry>): AsyncGenerator<Uint8Array> {
    for (const [where, howMany] of DATA) {
      const [offsets, lengths] = [entries.get(where), entries.get(howMany)];
      if (!offsets || !lengths) continue;
      const places = this.numbers(offsets);
      const sizes = this.numbers(lengths);
      if (places.length !== sizes.length) throw new Broken();
      for (let at = 0; at < places.length; at += 1)
        for (let done = 0; done < sizes[at]!; done += PIECE)
          yield await this.bytes(places[at]! + done, Math.min(PIECE, sizes[at]! - done));
    }
  }
}

async function readerOf(file: RandomAccess): Promise<{ reader: TiffReader; first: number }> {
  const head = new Uint8Array(await file.read(0, 16));
  const order = String.fromCharCode(head[0] ?? 0, head[1] ?? 0);
  if (head.length < 8 || (order !== 'II' && order !== 'MM')) throw new Broken();
  const little = order === 'II';
  const version = new DataView(head.buffer).getUint16(2, little);
  if (version !== 42 && version !== 43) throw new Broken();
  const reader = new TiffReader(file, little, version === 43);
  return { reader, first: reader.first(head) };
}

/**
 * Pick the essence out of a TIFF.
 * @param take gets it piece by piece; nothing of it counts unless this returns true
 * @returns whether it is whole, and holds a picture
 */
export async function pickTiff(
  file: RandomAccess,
  take: (bytes: Uint8Array) => void,
): Promise<boolean> {
  try {
    const { reader, first } = await readerOf(file);
    const waiting = [first];
    const seen = new Set<number>();
    let taken = 0;
    for (let at = waiting.shift(); at !== undefined; at = waiting.shift()) {
      if (at === 0) continue;
      if (seen.has(at) || seen.size > MOST_IMAGES) return false;
      seen.add(at);
      const { entries, next } = await reader.directory(at);
      for (const [tag, { type, bytes }] of [...entries].sort(([a], [b]) => a - b))
        if (SHOWN.has(tag)) {
          take(new Uint8Array([tag >> 8, tag & 255, type]));
          take(bytes);
        }
      for await (const bytes of reader.data(entries)) {
        // Strips may name one stretch again and again.
        if ((taken += bytes.length) > 4 * file.size) return false;
        take(bytes);
      }
      const below = entries.get(SUB_IFDS);
      if (below) waiting.push(...reader.numbers(below));
      waiting.push(next);
    }
    return taken > 0;
  } catch (error) {
    if (error instanceof Broken || error instanceof RangeError) return false;
    throw error;
  }
}
