import { shared } from './arrays';
import { NONE, type Follows } from './counting';
import type { Lists } from './packed';

/** What {@link Implied} is saved as. */
export interface ImpliedPlain {
  above: Uint32Array;
  joins: Uint32Array;
}

/** Lists are worth shortening where at most so much of them is left. */
const WORTH = 0.8;
/** Of what is told by fewer lists than these, too much that they have in common is chance. */
const ENOUGH = 4;
const NO_CODES = new Uint32Array(0);

/**
 * Who has a term has its broader ones: a list is told by what the rest of it follows from, which is half as much to
 * count. What follows is learnt from the lists themselves: above a code lies one that every list with it has. Where the
 * ways up of two codes of a list meet, a code of its own tells so: from there on they would count twice.
 */
export class Implied {
  readonly #rising: Uint32Array;
  #joined = shared(Uint32Array, 0);
  #below: Lists | null = null;
  /** Codes looked at, by the turn in which they were. */
  readonly #seen: Uint32Array;
  #turn = 0;
  readonly #joins: number[];
  readonly #joinOf = new Map<number, number>();

  /** @param above for each code the one above it, or `NONE` */
  private constructor(
    readonly above: Uint32Array,
    joins: Iterable<number>,
  ) {
    this.#seen = new Uint32Array(above.length);
    this.#joins = [...joins];
    this.#joins.forEach((code, at) => this.#joinOf.set(code, at));
    const depth = new Uint32Array(above.length);
    for (let code = 0; code < above.length; code += 1)
      for (let at = above[code]!; at !== NONE; at = above[at]!) depth[code]! += 1;
    const rising = Uint32Array.from(above.keys())
      .filter((code) => above[code] !== NONE)
      .sort((a, b) => depth[b]! - depth[a]!);
    this.#rising = shared(Uint32Array, rising.length);
    this.#rising.set(rising);
  }

  /** Codes of lists told shorter are below this. */
  get size(): number {
    return this.above.length + this.#joins.length;
  }

  /** What whoever counts lists told shorter needs to know. */
  get follows(): Follows {
    if (this.#joined.length < this.#joins.length) {
      this.#joined = shared(Uint32Array, this.#joins.length);
      this.#joined.set(this.#joins);
    }
    return { above: this.above, rising: this.#rising, joins: this.#joined };
  }

  /** What follows from what in some lists. @param size codes are below this */
  static of({ offsets, codes }: Lists, size: number): Implied {
    const often = new Uint32Array(size);
    for (let at = 0; at < codes.length; at += 1) often[codes[at]!]! += 1;
    // In this order whatever lies above a code comes after it.
    const isAfter = (a: number, b: number): boolean =>
      often[a]! > often[b]! || (often[a] === often[b] && a > b);
    const common = new Array<number[] | undefined>(size);
    const seenAt = new Uint32Array(size);
    for (let row = 0; row + 1 < offsets.length; row += 1) {
      const [from, to] = [offsets[row]!, offsets[row + 1]!];
      for (let at = from; at < to; at += 1) seenAt[codes[at]!] = row + 1;
      for (let at = from; at < to; at += 1) {
        const code = codes[at]!;
        if (often[code]! < ENOUGH) continue;
        const before = common[code];
        if (before === undefined) {
          const own: number[] = [];
          for (let i = from; i < to; i += 1) if (isAfter(codes[i]!, code)) own.push(codes[i]!);
          common[code] = own;
          continue;
        }
        // Most have found what is common to all soon.
        let still = 0;
        while (still < before.length && seenAt[before[still]!] === row + 1) still += 1;
        if (still < before.length)
          common[code] = before.filter((other) => seenAt[other] === row + 1);
      }
    }
    const above = shared(Uint32Array, size).fill(NONE);
    common.forEach((all, code) => {
      const next = all?.reduce((least, other) => (isAfter(least, other) ? other : least), all[0]!);
      if (next !== undefined) above[code] = next;
    });
    return new Implied(above, []);
  }

  static from({ above, joins }: ImpliedPlain): Implied {
    return new Implied(above, joins);
  }
  toPlain(): ImpliedPlain {
    return { above: this.above, joins: Uint32Array.from(this.#joins) };
  }

  #join(code: number): number {
    let at = this.#joinOf.get(code);
    if (at === undefined) {
      at = this.#joins.push(code) - 1;
      this.#joinOf.set(code, at);
    }
    return this.above.length + at;
  }

  /** A list told shorter; null where it lacks what should follow from it, or holds a code nobody knew. */
  short(list: ArrayLike<number>): number[] | null {
    const { above } = this;
    this.#turn += 2;
    const [follows, isMet] = [this.#turn, this.#turn + 1];
    const seen = this.#seen;
    for (let i = 0; i < list.length; i += 1) {
      if (list[i]! >= above.length) return null;
      for (let at = above[list[i]!]!; at !== NONE; at = above[at]!) seen[at] = follows;
    }
    const found: number[] = [];
    for (let i = 0; i < list.length; i += 1) if (seen[list[i]!] !== follows) found.push(list[i]!);
    const kept = found.length;
    let met = 0;
    for (let i = 0; i < kept; i += 1) {
      let at = found[i]!;
      for (; at !== NONE && seen[at] !== isMet; at = above[at]!) {
        seen[at] = isMet;
        met += 1;
      }
      if (at !== NONE) found.push(this.#join(at));
    }
    return met === list.length ? found : null;
  }

  /** All codes of a list told shorter, in no order. */
  whole(list: ArrayLike<number>): Uint32Array {
    if (list.length === 0) return NO_CODES;
    const all: number[] = [];
    for (let i = 0; i < list.length; i += 1)
      if (list[i]! < this.above.length)
        for (let at = list[i]!; at !== NONE && !all.includes(at); at = this.above[at]!)
          all.push(at);
    return Uint32Array.from(all);
  }

  /** Some codes and all from which they follow. */
  withBelow(codes: Iterable<number>): number[] {
    this.#below ??= turned(this.above);
    const { offsets, codes: below } = this.#below;
    const found = new Set(codes);
    for (const code of found)
      if (code < this.above.length)
        for (let at = offsets[code]!; at < offsets[code + 1]!; at += 1) found.add(below[at]!);
    return [...found];
  }
}

/** Codes by the one above them. */
function turned(above: Uint32Array): Lists {
  const offsets = new Uint32Array(above.length + 1);
  for (const code of above) if (code !== NONE) offsets[code + 1]! += 1;
  for (let code = 0; code < above.length; code += 1) offsets[code + 1]! += offsets[code]!;
  const next = offsets.slice();
  const codes = new Uint32Array(offsets[above.length]!);
  above.forEach((code, below) => {
    if (code !== NONE) codes[next[code]!++] = below;
  });
  return { offsets, codes };
}

/** Lists told shorter, where that is worth it. */
export function shortened(lists: Lists, size: number): (Lists & { implied: Implied }) | null {
  const implied = Implied.of(lists, size);
  const { offsets, codes } = lists;
  const short = new Uint32Array(codes.length * WORTH);
  const ends = new Uint32Array(offsets.length);
  let end = 0;
  for (let row = 0; row + 1 < offsets.length; row += 1) {
    const own = implied.short(codes.subarray(offsets[row], offsets[row + 1]))!;
    if (end + own.length > short.length) return null;
    for (const code of own) short[end++] = code;
    ends[row + 1] = end;
  }
  return { offsets: ends, codes: short.subarray(0, end), implied };
}
