/**
 * A 64-bit perceptual hash: the signs of the 64 lowest frequencies (DCT-II) of a 32 × 32 grey picture that
 * change both across and down. Copies that were scaled, compressed or brightened differ in a few bits, other
 * pictures in about half of them; mirroring a picture only turns signs, so that it can be undone on the hash.
 */
export const HASH_EDGE = 32;
const LOW = 8;

/** A hash as two halves, high word first, so that distances need no big integers. */
export type Likeness = readonly [high: number, low: number];

const COSINES = Float64Array.from({ length: LOW * HASH_EDGE }, (_, at) => {
  const frequency = Math.floor(at / HASH_EDGE) + 1;
  const sample = at % HASH_EDGE;
  return Math.cos((Math.PI * (2 * sample + 1) * frequency) / (2 * HASH_EDGE));
});

/** The 8 × 8 lowest frequencies but the constant ones, by rows. */
function lowFrequencies(grey: ArrayLike<number>): Float64Array {
  const rows = new Float64Array(HASH_EDGE * LOW);
  for (let y = 0; y < HASH_EDGE; y += 1)
    for (let u = 0; u < LOW; u += 1) {
      let sum = 0;
      for (let x = 0; x < HASH_EDGE; x += 1)
        sum += grey[y * HASH_EDGE + x]! * COSINES[u * HASH_EDGE + x]!;
      rows[y * LOW + u] = sum;
    }
  const found = new Float64Array(LOW * LOW);
  for (let v = 0; v < LOW; v += 1)
    for (let u = 0; u < LOW; u += 1) {
      let sum = 0;
      for (let y = 0; y < HASH_EDGE; y += 1)
        sum += rows[y * LOW + u]! * COSINES[v * HASH_EDGE + y]!;
      found[v * LOW + u] = sum;
    }
  return found;
}

function hashOf(frequencies: Float64Array): Likeness {
  let high = 0;
  let low = 0;
  for (let at = 0; at < 32; at += 1) {
    high = (high << 1) | (frequencies[at]! > 0 ? 1 : 0);
    low = (low << 1) | (frequencies[at + 32]! > 0 ? 1 : 0);
  }
  return [high >>> 0, low >>> 0];
}

/** Below this spread of grey values (standard deviation, 0…255) a picture has nothing to be known by. */
const PLAIN = 3;

/**
 * Hash of a picture.
 * @param grey 32 × 32 grey values 0…255, by rows
 * @returns null for a picture without features: any two plain sheets would look alike
 */
export function likenessOf(grey: ArrayLike<number>): Likeness | null {
  return isPlain(grey) ? null : hashOf(lowFrequencies(grey));
}

function isPlain(grey: ArrayLike<number>): boolean {
  let sum = 0;
  let squares = 0;
  const count = HASH_EDGE * HASH_EDGE;
  for (let at = 0; at < count; at += 1) {
    sum += grey[at]!;
    squares += grey[at]! * grey[at]!;
  }
  const mean = sum / count;
  return squares / count - mean * mean < PLAIN * PLAIN;
}

/**
 * Hashes of a picture in all eight positions in which it may come back: turned and mirrored.
 * Turning a picture swaps its frequencies or their signs; nothing is drawn again.
 */
export function likenessesOf(grey: ArrayLike<number>): Likeness[] {
  if (isPlain(grey)) return [];
  const own = lowFrequencies(grey);
  const at = (v: number, u: number): number => own[v * LOW + u]!;
  // The cosine of an odd frequency is odd about the middle: a mirror turns its sign. Row 0 holds frequency 1.
  const sign = (index: number): number => (index % 2 === 0 ? -1 : 1);
  const turns: ((v: number, u: number) => number)[] = [];
  for (const swap of [false, true])
    for (const mirrorX of [false, true])
      for (const mirrorY of [false, true])
        turns.push(
          (v, u) =>
            (swap ? at(u, v) : at(v, u)) * (mirrorX ? sign(u) : 1) * (mirrorY ? sign(v) : 1),
        );
  return turns.map((turn) =>
    hashOf(
      Float64Array.from({ length: 64 }, (_, index) => turn(Math.floor(index / LOW), index % LOW)),
    ),
  );
}

function bits(value: number): number {
  let v = value - ((value >>> 1) & 0x55555555);
  v = (v & 0x33333333) + ((v >>> 2) & 0x33333333);
  return (((v + (v >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24;
}

/** How many of the 64 bits differ. */
export const distance = (a: Likeness, b: Likeness): number => bits(a[0] ^ b[0]) + bits(a[1] ^ b[1]);

/** At most this many bits apart, two pictures are lookalikes. */
export const ALIKE = 10;

/** As PostgreSQL keeps it: a signed 64-bit integer in decimal. */
export const toBigint = ([high, low]: Likeness): string =>
  BigInt.asIntN(64, (BigInt(high) << 32n) | BigInt(low)).toString();

export function fromBigint(text: string): Likeness {
  const value = BigInt.asUintN(64, BigInt(text));
  return [Number(value >> 32n), Number(value & 0xffffffffn)];
}

/** Many hashes side by side, searched by looking at each: a million take some milliseconds. */
export interface LikenessIndex {
  add: (likeness: Likeness, id: number) => void;
  /** Ids within a distance of any of the hashes, nearest first, each once. */
  near: (likenesses: Likeness[], most?: number) => { id: number; distance: number }[];
}

export function likenessIndex(): LikenessIndex {
  let highs = new Uint32Array(1024);
  let lows = new Uint32Array(1024);
  let ids = new Uint32Array(1024);
  let count = 0;
  const grow = (from: Uint32Array<ArrayBuffer>): Uint32Array<ArrayBuffer> => {
    const larger = new Uint32Array(from.length * 2);
    larger.set(from);
    return larger;
  };
  return {
    add([high, low], id) {
      if (count === ids.length) [highs, lows, ids] = [grow(highs), grow(lows), grow(ids)];
      highs[count] = high;
      lows[count] = low;
      ids[count] = id;
      count += 1;
    },
    near(likenesses, most = ALIKE) {
      const best = new Map<number, number>();
      for (const [high, low] of likenesses)
        for (let at = 0; at < count; at += 1) {
          const away = bits(highs[at]! ^ high) + bits(lows[at]! ^ low);
          if (away > most) continue;
          const id = ids[at]!;
          const known = best.get(id);
          if (known === undefined || away < known) best.set(id, away);
        }
      return [...best]
        .map(([id, away]) => ({ id, distance: away }))
        .sort((a, b) => a.distance - b.distance || a.id - b.id);
    },
  };
}
