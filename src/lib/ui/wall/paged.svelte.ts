import { SvelteMap } from 'svelte/reactivity';

const PAGE = 100;
/** Kept at most; what is farthest from what is seen goes first. */
const MOST_KEPT = 6000;

/** A long list of which only what is near sight is held, fetched in pages as it comes there. */
export class Paged<T> {
  readonly held = new SvelteMap<number, T>();
  #asked: Record<number, boolean> = {};
  #visible: [number, number] = [0, 0];

  constructor(readonly fetch: (offset: number, limit: number) => Promise<T[]>) {}

  at(index: number): T | undefined {
    return this.held.get(index);
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
      await this.#take(page).catch(() => (this.#asked[page] = false));
    }
  }

  async #take(page: number): Promise<void> {
    const found = await this.fetch(page * PAGE, PAGE);
    found.forEach((one, step) => this.held.set(page * PAGE + step, one));
    if (this.held.size > MOST_KEPT) this.#forget();
  }

  #forget(): void {
    const [from, to] = this.#visible;
    for (const index of [...this.held.keys()])
      if (index < from - MOST_KEPT / 4 || index > to + MOST_KEPT / 4) {
        this.held.delete(index);
        this.#asked[Math.floor(index / PAGE)] = false;
      }
  }

  /** Take in what was fetched elsewhere. */
  put(from: number, found: readonly T[]): void {
    found.forEach((one, step) => this.held.set(from + step, one));
  }

  /** All of it may be another one: it is asked for when it comes into sight. @returns the pages that are in sight */
  forget(): [number, number] {
    this.#asked = {};
    const [from, to] = this.#visible;
    return [Math.floor(from / PAGE) * PAGE, Math.ceil(Math.max(to, 1) / PAGE) * PAGE];
  }

  /** These pages were fetched elsewhere. */
  taken(from: number, to: number): void {
    for (let page = from / PAGE; page < to / PAGE; page += 1) this.#asked[page] = true;
  }

  /** Something changed: what is in sight is fetched again, the rest when it comes into sight. */
  async refresh(): Promise<void> {
    this.#asked = {};
    await this.want(...this.#visible);
  }
}
