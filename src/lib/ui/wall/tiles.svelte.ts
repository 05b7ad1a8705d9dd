import type { Tile } from '#core/catalogue/tile';
import { api } from '../common/api';
import { Paged } from './paged.svelte';

/** Tiles of one result. */
export class TileStore extends Paged<Tile> {
  constructor(readonly query: string) {
    super((offset, limit) => api.get<Tile[]>('/api/catalogue/tiles', { q: query, offset, limit }));
  }

  /** Ids from one place to another, both included, in the order of the result. */
  range(one: number, other: number): Promise<string[]> {
    const [from, to] = [Math.min(one, other), Math.max(one, other)];
    return api.get<string[]>('/api/catalogue/ids', { q: this.query, from, to: to + 1 });
  }

  /** Width ÷ height of a stretch, in hundredths. */
  readonly stretch = (from: number, count: number): Promise<number[]> =>
    api.get<number[]>('/api/catalogue/stretch', { q: this.query, from, count });
}
