import { random } from './random';

/** Smooth noise over the plane, 0…1, and sums of its octaves. */
export interface Noise {
  at: (x: number, y: number) => number;
  /** Fractal sum of octaves, 0…1. */
  fractal: (x: number, y: number, octaves: number) => number;
}

const SIZE = 256;
const MASK = SIZE - 1;

export function noise(seed: number): Noise {
  const { next } = random(seed);
  const lattice = Float32Array.from({ length: SIZE * SIZE }, next);
  const at = (x: number, y: number): number => {
    const column = Math.floor(x);
    const row = Math.floor(y);
    const u = x - column;
    const v = y - row;
    const su = u * u * (3 - 2 * u);
    const sv = v * v * (3 - 2 * v);
    const x0 = column & MASK;
    const x1 = (column + 1) & MASK;
    const y0 = (row & MASK) * SIZE;
    const y1 = ((row + 1) & MASK) * SIZE;
    const top = lattice[y0 + x0]! * (1 - su) + lattice[y0 + x1]! * su;
    const bottom = lattice[y1 + x0]! * (1 - su) + lattice[y1 + x1]! * su;
    return top * (1 - sv) + bottom * sv;
  };
  const fractal = (x: number, y: number, octaves: number): number => {
    let sum = 0;
    let weight = 0.5;
    let scale = 1;
    let total = 0;
    for (let octave = 0; octave < octaves; octave += 1) {
      sum += weight * at(x * scale + octave * 37.1, y * scale + octave * 17.7);
      total += weight;
      weight *= 0.5;
      scale *= 2.03;
    }
    return sum / total;
  };
  return { at, fractal };
}
