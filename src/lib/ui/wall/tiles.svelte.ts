import { SvelteMap } from 'svelte/reactivity';
import type { Tile } from '#core/catalogue/tile';
import { api } from '../common/api';

const PAGE = 100;
/** Tiles kept; those farthest from what is seen go first. */
const MOST_KEPT = 6000;

/** Tiles of one result, fetched in pages as they come into sight. */
export class TileStore {
  readonly tiles = new SvelteMap<number, Tile>();
  #asked: Record<number, boolean> = {};
  #visible: [number, number] = [0, 0];

  constructor(readonly query: string) {}

  at(index: number): Tile | undefined {
    return this.tiles.get(index);
  }

  /** Ids from one place to another, both included, in the order of the result. */
  range(one: number, other: number): Promise<string[]> {
    const [from, to] = [Math.min(one, other), Math.max(one, other)];
    return api.get<string[]>('/api/catalogue/ids', { q: this.query, from, to: to + 1 });
  }

  /** Width ÷ height of a stretch, in hundredths. */
  readonly stretch = (from: number, count: number): Promise<number[]> =>
    api.get<number[]>('/api/catalogue/stretch', { q: this.query, from, count });

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
    if (this.tiles.size > MOST_KEPT) this.#forget();
  }

  #forget(): void {
    const [from, to] = this.#visible;
    for (const index of [...this.tiles.keys()])
      if (index < from - MOST_KEPT / 4 || index > to + MOST_KEPT / 4) {
        this.tiles.delete(index);
        this.#asked[Math.floor(index / PAGE)] = false;
      }
  }

  /** Something changed: what is in sight is fetched again, the rest when it comes into sight. */
  async refresh(): Promise<void> {
    this.#asked = {};
    await this.want(...this.#visible);
  }
}
