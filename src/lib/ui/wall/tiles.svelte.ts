import type { Tile } from '#core/catalogue/tile';
import { api } from '../common/api';
import { Paged } from './paged.svelte';

/** Tiles of one result. */
export class TileStore extends Paged<Tile> {
  constructor(readonly query: string) {
    super((offset, limit) => api.get<Tile[]>('/api/catalogue/tiles', { q: query, offset, limit }));
  }

  *ids(): Generator<string> {
    for (const { id } of this.held.values()) yield id;
  }

  /** Items changed: their tiles are fetched anew, as far as they are held. @param ids none: many */
  async again(ids: readonly string[]): Promise<void> {
    if (ids.length === 0) return this.refresh();
    const told = new Set(ids);
    const at = new Map(
      [...this.held].flatMap(([index, { id }]) => (told.has(id) ? [[id, index]] : [])),
    );
    if (at.size === 0) return;
    for (const tile of await api.get<Tile[]>('/api/catalogue/tiles', {
      ids: [...at.keys()].join(),
    })) {
      const index = at.get(tile.id)!;
      if (this.held.get(index)?.id === tile.id) this.held.set(index, tile);
    }
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
