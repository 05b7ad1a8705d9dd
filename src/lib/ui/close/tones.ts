import type { Histogram } from '#core/pixels/measure';

export interface Tones {
  histogram: Histogram;
  /** Parts that are lost in black and in white, 0 … 1. */
  black: number;
  white: number;
  /** Where, as a picture that is clear elsewhere. */
  lost: Blob;
}

let worker: Worker | null = null;
let next = 0;
const waiting = new Map<number, (tones: Tones | null) => void>();

/** How bright the pixels of a picture are, counted beside the page. Null where it cannot be read. */
export function tonesOf(picture: string): Promise<Tones | null> {
  worker ??= new Worker(new URL('./tones.worker.ts', import.meta.url), { type: 'module' });
  worker.onmessage = ({ data }: MessageEvent<{ id: number; tones: Tones | null }>) => {
    waiting.get(data.id)?.(data.tones);
    waiting.delete(data.id);
  };
  return new Promise((resolve) => {
    next += 1;
    waiting.set(next, resolve);
    worker!.postMessage({ id: next, picture: new URL(picture, location.href).href });
  });
}
