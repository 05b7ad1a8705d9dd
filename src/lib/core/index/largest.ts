/** Codes there may be: a sum and its code make one number, by which they are put in order. */
const MOST_CODES = 2 ** 26;

/** Sums that are put in order, each with its code as one number. */
let keys = new Float64Array(0);

/**
 * The largest sums, the largest first, of equal ones the smaller code.
 * @param codes of the sums; null where each has its place as its code
 * @param from codes below are left out
 */
export function largest(
  codes: Uint32Array | null,
  counts: Uint32Array,
  from: number,
  most: number,
): { codes: Uint32Array; counts: Uint32Array } {
  // Some more are gathered than are wished for, and put in order only when there is no more room.
  const room = most * 4;
  if (keys.length < room) keys = new Float64Array(room);
  let gathered = 0;
  let least = 0;
  let fewest = 1;
  const settle = (): void => {
    keys.subarray(0, gathered).sort();
    const kept = Math.min(most, gathered);
    keys.copyWithin(0, gathered - kept, gathered);
    gathered = kept;
    if (kept < most) return;
    least = keys[0]!;
    fewest = Math.floor(least / MOST_CODES);
  };
  for (let at = 0; at < counts.length; at += 1) {
    const count = counts[at]!;
    if (count < fewest) continue;
    const code = codes === null ? at : codes[at]!;
    const key = count * MOST_CODES + (MOST_CODES - 1 - code);
    if (key <= least || code < from) continue;
    keys[gathered++] = key;
    if (gathered === room) settle();
  }
  settle();
  const found = { codes: new Uint32Array(gathered), counts: new Uint32Array(gathered) };
  for (let at = 0; at < gathered; at += 1) {
    const key = keys[gathered - 1 - at]!;
    const count = Math.floor(key / MOST_CODES);
    found.codes[at] = MOST_CODES - 1 - (key - count * MOST_CODES);
    found.counts[at] = count;
  }
  return found;
}
