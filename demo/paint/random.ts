/** Seeded randomness: the same seed paints the same picture on every machine. */
export interface Random {
  /** 0 ≤ x < 1 */
  next: () => number;
  between: (low: number, high: number) => number;
  int: (low: number, high: number) => number;
  pick: <T>(list: readonly T[]) => T;
  /** Normal distribution, mean 0, deviation 1. */
  normal: () => number;
}

/** mulberry32 */
export function random(seed: number): Random {
  let state = seed >>> 0;
  const next = (): number => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = state;
    mixed = Math.imul(mixed ^ (mixed >>> 15), mixed | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
  return {
    next,
    between: (low, high) => low + (high - low) * next(),
    int: (low, high) => Math.floor(low + (high - low + 1) * next()),
    pick: (list) => list[Math.floor(next() * list.length)]!,
    normal: () => Math.sqrt(-2 * Math.log(next() + 1e-12)) * Math.cos(2 * Math.PI * next()),
  };
}

/** A seed from text, so that scenes can be named. */
export function seedOf(text: string): number {
  let hash = 2_166_136_261;
  for (const character of text) hash = Math.imul(hash ^ character.charCodeAt(0), 16_777_619);
  return hash >>> 0;
}
