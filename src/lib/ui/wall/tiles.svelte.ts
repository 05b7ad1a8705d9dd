import { SvelteMap } from 'svelte/reactivity';
import type { Tile } from '#core/catalogue/tile';
import { api } from '../common/api';

const PAGE = 100;

/** Tiles of one result, fetched in pages as they come into sight. */
export class TileStore {
  readonly tiles = new SvelteMap<number, Tile>();
  #asked: Record<number, boolean> = {};
  #ids: Promise<string[]> | null = null;
  #visible: [number, number] = [0, 0];

  constructor(readonly query: string) {}

  at(index: number): Tile | undefined {
    return this.tiles.get(index);
  }

  /** All ids in order, for ranges and for everything. */
  ids(): Promise<string[]> {
    this.#ids ??= api.get<string[]>('/api/catalogue/ids', { q: this.query });
    return this.#ids;
  }

  async want(from: number, to: number): Promise<void> {
    this.#visible = [from, to];
    for (
      let page = Math.floor(from / PAGE);
      page <= Math.floor(Math.max(from, to - 1) / PAGE);
      page += 1
    ) {
      if (this.#asked[page]) continue;
      this.#asked[page] = true;
      await this.#fetch(page).catch(() => (this.#asked[page] = false));
    }
  }

  async #fetch(page: number): Promise<void> {
    const found = await api.get<Tile[]>('/api/catalogue/tiles', {
      q: this.query,
      offset: page * PAGE,
      limit: PAGE,
    });
    found.forEach((tile, step) => this.tiles.set(page * PAGE + step, tile));
  }

  /** Something changed: what is in sight is fetched again, the rest when it comes into sight. */
  async refresh(): Promise<void> {
    this.#ids = null;
    this.#asked = {};
    await this.want(...this.#visible);
  }
}
