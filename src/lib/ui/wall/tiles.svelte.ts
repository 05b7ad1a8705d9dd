import type { Tile } from '#core/catalogue/tile';
import { api } from '../common/api';
import { Paged } from './paged.svelte';

/** Tiles of one result. */
export class TileStore extends Paged<Tile> {
  constructor(readonly query: string) {
    super((offset, limit) => api.get('/api/catalogue/tiles', { q: query, offset, limit }));
  }

  *ids(): Generator<string> {
    for (const { id } of this.held.values()) yield id;
  }

  /** Items changed: their tiles are fetched anew, as far as they are held. @param ids none: many */
  async again(ids: readonly string[]): Promise<void> {
    if (ids.length === 0) return this.refresh();
    const held = [...this.held].filter(([, { id }]) => ids.includes(id));
    if (held.length === 0) return;
    const wished = held.map(([, { id }]) => id).join();
    const found = await api.get('/api/catalogue/tiles', { ids: wished });
    for (const [index, { id }] of held) {
      const tile = found.find((one) => one.id === id);
      if (tile && this.held.get(index)?.id === id) this.held.set(index, tile);
    }
  }

  /** Ids from one place to another, both included, in the order of the result. */
  range(one: number, other: number): Promise<string[]> {
    const [from, to] = [Math.min(one, other), Math.max(one, other)];
    return api.get('/api/catalogue/ids', { q: this.query, from, to: to + 1 });
  }

  /** Width ÷ height of a stretch, in hundredths. */
  readonly stretch = (from: number, count: number): Promise<number[]> =>
    api.get('/api/catalogue/stretch', { q: this.query, from, count });
}
