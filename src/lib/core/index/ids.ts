/** Ids (16 bytes each, in a row) → the row they stand in: open addressing over the ids themselves. */
export class IdTable {
  #rows = new Uint32Array(1 << 11);
  #count = 0;

  /** @param at the id of a row, as it stands in the index */
  constructor(readonly at: (row: number) => Uint8Array) {}

  #slot(id: Uint8Array): number {
    const mask = this.#rows.length - 1;
    // FNV-1a: ids of any making are spread.
    let hash = 0x811c9dc5;
    for (let at = 0; at < 16; at += 1) hash = Math.imul(hash ^ id[at]!, 0x01000193);
    let slot = (hash ^ (hash >>> 15)) & mask;
    for (;;) {
      const row = this.#rows[slot]!;
      if (row === 0 || isSameId(this.at(row), id)) return slot;
      slot = (slot + 1) & mask;
    }
  }
  get(id: Uint8Array): number | undefined {
    return this.#rows[this.#slot(id)] || undefined;
  }
  add(row: number): void {
    const slot = this.#slot(this.at(row));
    if (this.#rows[slot] === 0) this.#count += 1;
    this.#rows[slot] = row;
    if (this.#count * 2 < this.#rows.length) return;
    const old = this.#rows;
    this.#rows = new Uint32Array(old.length * 2);
    for (const one of old) if (one !== 0) this.#rows[this.#slot(this.at(one))] = one;
  }
}

function isSameId(a: Uint8Array, b: Uint8Array): boolean {
  for (let at = 15; at >= 0; at -= 1) if (a[at] !== b[at]) return false;
  return true;
}
