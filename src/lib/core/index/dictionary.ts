import { bytesOfText, Texts, type PlainTexts } from './texts';

/**
 * Names of codes: words, persons, ids. Once prepared, those there are found by halving their order, which takes no
 * memory but the order's; names that come later are looked up by themselves.
 */
export class Dictionary {
  readonly #names: Texts;
  /** Codes of the first names, in the order of those. */
  #sorted: Uint32Array;
  readonly #later = new Map<string, number>();
  /** Names that were asked for lately: most items say what many say. */
  readonly #lately = new Map<string, number>();
  /** And those that were told. */
  readonly #told = new Map<number, string>();

  constructor(names: readonly string[] | Texts = [], sorted?: Uint32Array) {
    this.#names = names instanceof Texts ? names : Texts.of(names);
    this.#sorted = sorted ?? new Uint32Array(0);
    this.prepare();
  }
  get size(): number {
    return this.#names.length;
  }
  name(code: number): string {
    const lately = this.#told.get(code);
    if (lately !== undefined) return lately;
    const name = this.#names.at(code);
    if (this.#told.size >= MOST_LATELY) this.#told.clear();
    this.#told.set(code, name);
    return name;
  }
  code(name: string): number {
    const known = this.codeOf(name);
    if (known !== undefined) return known;
    const code = this.#names.push(name);
    this.#later.set(name, code);
    return code;
  }
  codeOf(name: string): number | undefined {
    const lately = this.#lately.get(name);
    if (lately !== undefined) return lately;
    const code = this.#search(name);
    if (code === undefined) return undefined;
    if (this.#lately.size >= MOST_LATELY) this.#lately.clear();
    this.#lately.set(name, code);
    return code;
  }
  #search(name: string): number | undefined {
    const bytes = bytesOfText(name);
    const code = this.#sorted[this.#place(bytes)];
    return code !== undefined && this.#names.compare(code, bytes) === 0
      ? code
      : this.#later.get(name);
  }
  /** Put all names in order. */
  prepare(): void {
    if (this.#names.length === this.#sorted.length) return;
    this.#sorted = this.#names.sorted();
    this.#later.clear();
  }

  /** Where the first name stands that is not less. */
  #place(wished: Uint8Array): number {
    const sorted = this.#sorted;
    let low = 0;
    let high = sorted.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (this.#names.compare(sorted[middle]!, wished) < 0) low = middle + 1;
      else high = middle;
    }
    return low;
  }

  /** Codes of all names that begin so. */
  beginning(prefix: string): number[] {
    if (this.#later.size > MOST_UNSORTED) this.prepare();
    const bytes = bytesOfText(prefix);
    const names = this.#names;
    const sorted = this.#sorted;
    const found: number[] = [];
    for (let at = this.#place(bytes); at < sorted.length; at += 1) {
      if (!names.begins(sorted[at]!, bytes)) break;
      found.push(sorted[at]!);
    }
    // Names that came since stand at the end: few enough to be looked through.
    for (let code = sorted.length; code < names.length; code += 1)
      if (names.begins(code, bytes)) found.push(code);
    return found;
  }
  /** Codes of all names a test holds for. */
  which(holds: (name: string) => boolean): number[] {
    const found: number[] = [];
    for (let code = 0; code < this.#names.length; code += 1)
      if (holds(this.#names.at(code))) found.push(code);
    return found;
  }

  static from({ names, sorted }: { names: PlainTexts; sorted: Uint32Array }): Dictionary {
    return new Dictionary(Texts.from(names), sorted);
  }
  toPlain(): { names: PlainTexts; sorted: Uint32Array } {
    this.prepare();
    return { names: this.#names.toPlain(), sorted: this.#sorted };
  }
}

/** Codes of names never change: what was found once holds. */
const MOST_LATELY = 20_000;
/** Names that are looked through one by one before all are sorted anew. */
const MOST_UNSORTED = 2000;
