/** What silence counts as: the least that is told, dB below full scale. */
export const SILENT = 127;

/** How loud a sound is, step by step: the mean of each step, in dB below full scale. */
export class Levels {
  readonly #sums: Float64Array;
  readonly #each: number;
  #at = 0;

  /** @param seconds how long it is, about @param step seconds @param rate samples a second */
  constructor(seconds: number, step: number, rate: number) {
    this.#sums = new Float64Array(Math.max(1, Math.ceil(seconds / step)));
    this.#each = Math.max(1, Math.round(step * rate));
  }

  /** @param samples −1 … 1 */
  add(samples: Float32Array): void {
    for (let at = 0; at < samples.length; at += 1, this.#at += 1) {
      const step = Math.floor(this.#at / this.#each);
      if (step >= this.#sums.length) return;
      this.#sums[step]! += samples[at]! * samples[at]!;
    }
  }

  /** dB below full scale of each step, 0 … 127. */
  bytes(): Uint8Array {
    return Uint8Array.from(this.#sums, (sum) => {
      const mean = Math.sqrt(sum / this.#each);
      return mean <= 0 ? SILENT : Math.min(SILENT, Math.max(0, Math.round(-20 * Math.log10(mean))));
    });
  }
}
