import { BARS, bins } from '../choices/shown';
import { grown, resized, shared } from './arrays';
import { CodeColumn } from './codeColumn';
import { isIn } from './bits';
import type { Sums } from './counting';
import type { ItemSet } from './itemSet';
import { NOTHING } from './sums';

/**
 * A number for each item, all of them different; not a number where unknown. Each has a step, of some thousand that rise
 * with them: how many lie in a step is counted as the codes of any field are.
 */
export class NumberColumn {
  values: Float64Array;
  /** Numbers between which steps lie, ascending. */
  #edges: Float64Array = new Float64Array(0);
  /** How many edges are not above an item's number. */
  steps = new CodeColumn<number>();

  constructor(values: Float64Array = shared(Float64Array, 0)) {
    this.values = values;
    this.prepare();
  }

  set(row: number, value: number | null): void {
    if (row >= this.values.length) {
      const from = this.values.length;
      this.values = resized(this.values, grown(from, row + 1)).fill(NaN, from);
    }
    this.values[row] = value ?? NaN;
    this.steps.set(row, value === null ? null : this.#stepOf(value));
  }
  #stepOf(value: number): number {
    let [low, high] = [0, this.#edges.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#edges[middle]! <= value) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Lay steps so that about as many items lie in each. */
  prepare(): void {
    const { values } = this;
    const some: number[] = [];
    const stride = Math.max(1, Math.floor(values.length / MOST_ASKED));
    for (let row = 0; row < values.length; row += stride)
      if (values[row] === values[row]) some.push(values[row]!);
    const sorted = Float64Array.from(some).sort();
    const apart = Math.max(1, Math.floor(sorted.length / MOST_STEPS));
    this.#edges = Float64Array.from(new Set(sorted.filter((_, at) => at % apart === 0)));
    this.steps = new CodeColumn<number>();
    for (let row = 0; row < values.length; row += 1)
      if (values[row] === values[row]) this.steps.set(row, this.#stepOf(values[row]!));
  }

  /**
   * How the numbers of some items are spread over bars, from how many lie in each step: the numbers themselves are
   * looked at only in steps at both ends and where bars meet.
   */
  spread({ codes, counts, lacking }: Sums, some: ItemSet): Sums {
    const edges = this.#edges;
    const told = new Uint32Array(edges.length + 1);
    let [least, most] = [Infinity, -Infinity];
    for (let at = 0; at < codes.length; at += 1) {
      const step = this.steps.value(codes[at]!);
      if (step === null || counts[at] === 0) continue;
      told[step] = counts[at]!;
      if (step < least) least = step;
      if (step > most) most = step;
    }
    const span = { from: Infinity, to: -Infinity };
    if (least > most) return { ...NOTHING, lacking, span };
    const ends = this.#numbersIn(least === most ? [least] : [least, most], told, some);
    for (let at = 0; at < ends.length; at += 1) {
      if (ends[at]! < span.from) span.from = ends[at]!;
      if (ends[at]! > span.to) span.to = ends[at]!;
    }
    const binOf = bins(span.from, span.to);
    const bars = new Uint32Array(BARS);
    const met: number[] = [];
    let bar = least < most ? binOf(edges[least]!) : 0;
    for (let step = least + 1; step < most; step += 1) {
      const next = binOf(edges[step]!);
      // What lies between two edges whole belongs to one bar.
      if (next === bar) bars[bar]! += told[step]!;
      else if (told[step]! > 0) met.push(step);
      bar = next;
    }
    for (const numbers of [ends, this.#numbersIn(met, told, some)])
      for (let at = 0; at < numbers.length; at += 1) bars[binOf(numbers[at]!)]! += 1;
    return { codes: Uint32Array.from(bars.keys()), counts: bars, lacking, span };
  }

  /** The numbers of some items that lie in some steps. @param told how many lie in each */
  #numbersIn(steps: readonly number[], told: Uint32Array, some: ItemSet): Float64Array {
    const { values } = this;
    const found = new Float64Array(steps.reduce((sum, step) => sum + told[step]!, 0));
    let count = 0;
    const asked = steps.map((step) => this.steps.codeOf(step));
    if (some.few) {
      const isAsked = new Set(asked);
      for (let at = 0; at < some.few.length; at += 1) {
        const row = some.few[at]!;
        if (isAsked.has(this.steps.codeAt(row))) found[count++] = values[row]!;
      }
    } else {
      const { bits } = some;
      this.steps.each(asked, (row) => {
        if (isIn(bits, row)) found[count++] = values[row]!;
      });
    }
    return found;
  }
}

/** Two numbers for each item, not a number where unknown: ends of a time in ms, or a position. */
export class PairColumn {
  first: Float64Array = shared(Float64Array, 0);
  /** The same array as long as both numbers are the same of every item. */
  second = this.first;

  /** @returns whether it is another than before */
  set(row: number, first: number | null, second: number | null): boolean {
    const [from, to] = [first ?? NaN, second ?? NaN];
    if (Object.is(this.first[row], from) && Object.is(this.second[row], to)) return false;
    const isOne = this.second === this.first;
    if (row >= this.first.length) {
      const size = grown(this.first.length, row + 1);
      const was = this.first.length;
      this.first = resized(this.first, size).fill(NaN, was);
      this.second = isOne ? this.first : resized(this.second, size).fill(NaN, was);
    }
    if (isOne && !Object.is(from, to)) this.second = resized(this.first, this.first.length);
    this.first[row] = from;
    this.second[row] = to;
    return true;
  }
}

/** Steps of numbers, and numbers that are looked at to lay them. */
const MOST_STEPS = 4096;
const MOST_ASKED = 1 << 16;
