/** What an answer takes besides what it holds: its key and its place. */
const OWN = 100;

/** Answers of the present version of the index, the latest asked for first to stay. */
export class Latest<T> {
  readonly #all = new Map<string, T>();
  #version = 0;
  #size = 0;

  /** @param most sizes of all that is kept, in the unit of `sizeOf` */
  constructor(
    readonly sizeOf: (value: T) => number,
    readonly most: number,
  ) {}

  of(key: string, version: number, make: () => T): T {
    if (version !== this.#version) {
      this.#all.clear();
      this.#size = 0;
      this.#version = version;
    }
    const known = this.#all.get(key);
    if (known) this.#all.delete(key);
    const value = known ?? make();
    this.#all.set(key, value);
    if (!known) this.#size += this.sizeOf(value) + OWN;
    for (const [oldest, old] of this.#all) {
      if (this.#size <= this.most || oldest === key) break;
      this.#all.delete(oldest);
      this.#size -= this.sizeOf(old) + OWN;
    }
    return value;
  }
}
