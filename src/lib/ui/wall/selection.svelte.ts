import { SvelteSet } from 'svelte/reactivity';

/** What is chosen on a wall or in a register; ids, so that it outlives a new order. */
export class Selection {
  readonly ids = new SvelteSet<string>();
  /** Index from which a range is drawn. */
  anchor = -1;

  get size(): number {
    return this.ids.size;
  }

  has(id: string): boolean {
    return this.ids.has(id);
  }

  clear(): void {
    this.ids.clear();
  }

  only(id: string, index: number): void {
    this.ids.clear();
    this.ids.add(id);
    this.anchor = index;
  }

  toggle(id: string, index: number): void {
    if (!this.ids.delete(id)) this.ids.add(id);
    this.anchor = index;
  }

  /** From the anchor to here, nothing else. */
  range(all: string[], to: number): void {
    const from = this.anchor < 0 ? to : this.anchor;
    this.set(all.slice(Math.min(from, to), Math.max(from, to) + 1));
  }

  set(ids: string[]): void {
    this.ids.clear();
    for (const id of ids) this.ids.add(id);
  }
}
