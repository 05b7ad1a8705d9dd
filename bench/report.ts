import { cpus } from 'node:os';

/** One line of a bench: ours against the floor, both measured in the same run. */
export interface BenchLine {
  bench: string;
  /** Medians, in the unit. */
  ours: number;
  floor: number;
  ratio: number;
  unit: string;
  /** Pieces of work in one measure. */
  n: number;
  /** Alternating measures of each. */
  runs: number;
  machine: string;
}

export const machine = (): string => `${cpus().length} × ${cpus()[0]?.model.trim() ?? 'unknown'}`;

function median(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b);
  const upper = sorted[Math.floor(sorted.length / 2)]!;
  return sorted.length % 2 === 1 ? upper : (upper + sorted[sorted.length / 2 - 1]!) / 2;
}
const rounded = (value: number): number => Math.round(value * 1000) / 1000;

/** A piece of work; it may tell itself how many seconds it took. */
type Work = (run: number) => Promise<unknown>;

/**
 * Measure ours and the floor in turn, so that a noisy neighbour meets both, and report the medians.
 * The ratio is the median of each pair's own ratio.
 */
export async function measure(
  bench: string,
  n: number,
  runs: number,
  ours: Work,
  floor: Work,
): Promise<BenchLine> {
  const seconds = async (work: () => ReturnType<Work>): Promise<number> => {
    const began = performance.now();
    const told = await work();
    return typeof told === 'number' ? told : (performance.now() - began) / 1000;
  };
  const pairs: [number, number][] = [];
  for (let run = 0; run < runs; run += 1) {
    // Who begins changes from run to run: caches favour the second.
    if (run % 2 === 0) {
      const mine = await seconds(() => ours(run));
      pairs.push([mine, await seconds(() => floor(run))]);
    } else {
      const theirs = await seconds(() => floor(run));
      pairs.push([await seconds(() => ours(run)), theirs]);
    }
  }
  return {
    bench,
    ours: rounded(median(pairs.map(([mine]) => mine))),
    floor: rounded(median(pairs.map(([, theirs]) => theirs))),
    ratio: rounded(median(pairs.map(([mine, theirs]) => mine / theirs))),
    unit: 's',
    n,
    runs,
    machine: machine(),
  };
}
