import { grown, resized } from './arrays';

/** How many items have each code, kept up while they change. */
export class Tally {
  #counts = new Uint32Array(16);
  /** Codes that any item has. */
  used = 0;

  /** @param codes each once */
  static from({ codes, counts }: { codes: Uint32Array; counts: Uint32Array }): Tally {
    const tally = new Tally();
    for (let at = codes.length - 1; at >= 0; at -= 1) {
      tally.add(codes[at]!);
      tally.#counts[codes[at]!] = counts[at]!;
    }
    return tally;
  }

  add(code: number): void {
    if (code >= this.#counts.length)
      this.#counts = resized(this.#counts, grown(this.#counts.length, code + 1));
    if (this.#counts[code] === 0) this.used += 1;
    this.#counts[code]! += 1;
  }
  take(code: number): void {
    this.#counts[code]! -= 1;
    if (this.#counts[code] === 0) this.used -= 1;
  }
  of(code: number): number {
    return this.#counts[code] ?? 0;
  }
  /** Counts of the first codes. */
  sums(codes: number): Uint32Array {
    const sums = new Uint32Array(codes);
    sums.set(this.#counts.subarray(0, codes));
    return sums;
  }
}
