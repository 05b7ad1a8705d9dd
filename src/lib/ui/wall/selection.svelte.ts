import { SvelteSet } from 'svelte/reactivity';
import type { Picked } from '#core/query/picked';

/**
 * What is chosen on a wall or in a register: ids, so that it outlives a new order; or everything a query finds but
 * some, so that a million need not be held here.
 */
export class Selection {
  readonly ids = new SvelteSet<string>();
  /** The query all of which is chosen, without the ids; null where the ids are chosen. */
  #all = $state<{ q: string; total: number } | null>(null);
  /** Index from which a range is drawn. */
  anchor = -1;
  /** Rises with every choice: what was asked for before another was made comes too late. */
  #turn = 0;

  get size(): number {
    return this.#all ? Math.max(0, this.#all.total - this.ids.size) : this.ids.size;
  }

  /** What verbs are given. */
  get picked(): Picked {
    return this.#all ? { q: this.#all.q, except: [...this.ids] } : [...this.ids];
  }

  has(id: string): boolean {
    return this.ids.has(id) !== (this.#all !== null);
  }

  clear(): void {
    this.#turn += 1;
    this.#all = null;
    this.ids.clear();
  }

  only(id: string, index: number): void {
    this.clear();
    this.ids.add(id);
    this.anchor = index;
  }

  toggle(id: string, index: number): void {
    this.#turn += 1;
    if (!this.ids.delete(id)) this.ids.add(id);
    this.anchor = index;
  }

  /** Everything a query finds. */
  everything(q: string, total: number): void {
    this.clear();
    this.#all = { q, total };
  }

  /** A range, once its ids are known, unless something else was chosen meanwhile. @param from where it began */
  async range(from: number, ids: Promise<string[]>): Promise<void> {
    const mine = (this.#turn += 1);
    const found = await ids;
    if (mine !== this.#turn) return;
    this.clear();
    for (const id of found) this.ids.add(id);
    this.anchor = from;
  }
}
