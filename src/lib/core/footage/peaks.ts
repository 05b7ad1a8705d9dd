/** Highest and lowest sample of each stretch of sound, for drawing it. */
export class Peaks {
  readonly #high: Float32Array;
  readonly #low: Float32Array;
  #at = 0;

  /** @param stretches how many to draw @param samples how many will come, about */
  constructor(
    readonly stretches: number,
    readonly samples: number,
  ) {
    this.#high = new Float32Array(stretches);
    this.#low = new Float32Array(stretches);
  }

  /** @param samples −1 … 1 */
  add(samples: Float32Array): void {
    const each = Math.max(1, this.samples / this.stretches);
    for (let at = 0; at < samples.length; at += 1, this.#at += 1) {
      const stretch = Math.min(this.stretches - 1, Math.floor(this.#at / each));
      const sample = samples[at]!;
      if (sample > this.#high[stretch]!) this.#high[stretch] = sample;
      if (sample < this.#low[stretch]!) this.#low[stretch] = sample;
    }
  }

  /** Pairs of low and high in 8 bits with sign, one after the other. */
  bytes(): Int8Array {
    const bytes = new Int8Array(this.stretches * 2);
    for (let at = 0; at < this.stretches; at += 1) {
      bytes[at * 2] = Math.max(-127, Math.round(this.#low[at]! * 127));
      bytes[at * 2 + 1] = Math.min(127, Math.round(this.#high[at]! * 127));
    }
    return bytes;
  }
}
