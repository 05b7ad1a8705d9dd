/**
 * A second signature, for what the hash of the whole picture misses: copies that were cropped, and copies that were
 * made so much brighter that parts are burnt out. Two small grey pictures are laid over each other, their edges
 * moved until what both show agrees best, and the agreement is measured where they overlap.
 */
export const SIGNATURE_EDGE = 16;
/** Values of one. */
export const CELLS = SIGNATURE_EDGE * SIGNATURE_EDGE;

/** 16 × 16 grey values, by rows. */
export type Signature = Uint8Array;

/**
 * @param grey 32 × 32 grey values 0…255, by rows
 */
export function signatureOf(grey: ArrayLike<number>): Signature {
  const found = new Uint8Array(CELLS);
  const edge = SIGNATURE_EDGE * 2;
  for (let y = 0; y < SIGNATURE_EDGE; y += 1)
    for (let x = 0; x < SIGNATURE_EDGE; x += 1) {
      const at = 2 * y * edge + 2 * x;
      found[y * SIGNATURE_EDGE + x] =
        (grey[at]! + grey[at + 1]! + grey[at + edge]! + grey[at + edge + 1]! + 2) >> 2;
    }
  return found;
}

/** The signature in all eight positions in which a picture may come back, in the order of `likenessesOf`. */
export function turnedSignatures(signature: Signature): Signature[] {
  const last = SIGNATURE_EDGE - 1;
  const turned: Signature[] = [];
  for (const swap of [false, true])
    for (const mirrorX of [false, true])
      for (const mirrorY of [false, true])
        turned.push(
          signature.map((_, at) => {
            const x = at % SIGNATURE_EDGE;
            const y = Math.floor(at / SIGNATURE_EDGE);
            const across = mirrorX ? last - x : x;
            const down = mirrorY ? last - y : y;
            return signature[
              swap ? across * SIGNATURE_EDGE + down : down * SIGNATURE_EDGE + across
            ]!;
          }),
        );
  return turned;
}

/** Where one picture's left, right, top and bottom edges lie in the other, in shares of the other's edges. */
type Edges = [left: number, right: number, top: number, bottom: number];

const WHOLE: Edges = [0, 1, 0, 1];
/** The most that may be cut off, or be more, at one edge. */
const MOST_CUT = 0.14;
/** Steps by which edges are moved, and samples along each edge of the overlap: coarse first. */
const SEARCH = [
  { step: 0.06, grid: 7 },
  { step: 0.03, grid: 7 },
  { step: 0.015, grid: 14 },
];
const FINEST = 14;

function sampled(signature: Signature, x: number, y: number): number {
  const u = Math.min(SIGNATURE_EDGE - 1.001, Math.max(0, x * SIGNATURE_EDGE - 0.5));
  const v = Math.min(SIGNATURE_EDGE - 1.001, Math.max(0, y * SIGNATURE_EDGE - 0.5));
  const column = Math.floor(u);
  const row = Math.floor(v);
  const at = row * SIGNATURE_EDGE + column;
  const across = u - column;
  const down = v - row;
  const top = signature[at]! * (1 - across) + signature[at + 1]! * across;
  const bottom =
    signature[at + SIGNATURE_EDGE]! * (1 - across) + signature[at + SIGNATURE_EDGE + 1]! * across;
  return top * (1 - down) + bottom * down;
}

/** Correlation of grey values where b, laid on a by its edges, covers it; −1…1. */
function correlation(
  a: Signature,
  b: Signature,
  [left, right, top, bottom]: Edges,
  grid: number,
): number {
  const x0 = Math.max(0, left);
  const x1 = Math.min(1, right);
  const y0 = Math.max(0, top);
  const y1 = Math.min(1, bottom);
  let sumA = 0;
  let sumB = 0;
  let squaresA = 0;
  let squaresB = 0;
  let products = 0;
  for (let row = 0; row < grid; row += 1) {
    const y = y0 + ((row + 0.5) / grid) * (y1 - y0);
    for (let column = 0; column < grid; column += 1) {
      const x = x0 + ((column + 0.5) / grid) * (x1 - x0);
      const valueA = sampled(a, x, y);
      const valueB = sampled(b, (x - left) / (right - left), (y - top) / (bottom - top));
      sumA += valueA;
      sumB += valueB;
      squaresA += valueA * valueA;
      squaresB += valueB * valueB;
      products += valueA * valueB;
    }
  }
  const count = grid * grid;
  const spread = (squares: number, sum: number): number => squares / count - (sum / count) ** 2;
  const both = Math.sqrt(Math.max(0, spread(squaresA, sumA)) * Math.max(0, spread(squaresB, sumB)));
  return both < 1 ? 0 : (products / count - (sumA / count) * (sumB / count)) / both;
}

/** How well two pictures agree where they overlap once their edges are moved for the best, −1…1. */
export function agreement(a: Signature, b: Signature): number {
  let edges = WHOLE;
  for (const { step, grid } of SEARCH) {
    let best = correlation(a, b, edges, grid);
    for (let moved = true; moved;) {
      moved = false;
      for (let edge = 0; edge < 4; edge += 1)
        for (const by of [-step, step]) {
          const next: Edges = [...edges];
          next[edge]! += by;
          if (Math.abs(next[edge]! - WHOLE[edge]!) > MOST_CUT) continue;
          const found = correlation(a, b, next, grid);
          if (found <= best + 1e-4) continue;
          [edges, best, moved] = [next, found, true];
        }
    }
  }
  return correlation(a, b, edges, FINEST);
}

/** Mean and standard deviation of a signature's values. */
export function spreadOf(signature: Signature): { mean: number; deviation: number } {
  let sum = 0;
  let squares = 0;
  for (const value of signature) {
    sum += value;
    squares += value * value;
  }
  const mean = sum / CELLS;
  return { mean, deviation: Math.sqrt(Math.max(0, squares / CELLS - mean * mean)) };
}

/** Mean product of two signatures as they are, cell by cell; with means and deviations it gives their correlation. */
export function meanProduct(a: Signature, b: Signature): number {
  let products = 0;
  for (let at = 0; at < CELLS; at += 1) products += a[at]! * b[at]!;
  return products / CELLS;
}
