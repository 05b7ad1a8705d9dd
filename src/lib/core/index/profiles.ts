import { resized, shared } from './arrays';
import type { CodeColumn } from './codeColumn';
import { put } from './sums';
import type { Count, Sums } from './counting';
import type { ShelfIndex } from './shelfIndex';

/** Different things one profile may tell at first; what does not fit begins another. */
const MOST_TOLD = 8192;
/** And with what items say since; codes have 16 bits. */
const MOST_TOLD_SINCE = 65_536;
/** Cells of the table in which pairs of codes are found. */
const MOST_CELLS = 1 << 22;

/** What some columns say together: a code for each of the different things that items say in them. */
export class Profile {
  readonly columns: CodeColumn[] = [];
  /** What each row says. */
  #codes: Uint16Array;
  /** For each column its code in each thing told. */
  #parts: Uint32Array[] = [];
  /** Things told, by the codes of all columns; made when the first item changes. */
  #known: Map<string, number> | null = null;
  told = 1;

  constructor(size: number) {
    this.#codes = shared(Uint16Array, size);
  }

  /** Take a column in, where what is told together stays little. @returns whether it was */
  join(column: CodeColumn): boolean {
    const kinds = column.size;
    if (this.told * kinds > MOST_CELLS) return false;
    const table = new Uint32Array(this.told * kinds);
    const before = this.#codes;
    const own = column.codes;
    const codes = shared(Uint16Array, before.length);
    const first: number[] = [];
    for (let row = 0; row < codes.length; row += 1) {
      const cell = before[row]! * kinds + (row < own.length ? own[row]! : 0);
      let thing = table[cell]!;
      if (thing === 0) {
        if (first.length === MOST_TOLD) return false;
        thing = table[cell] = first.push(cell);
      }
      codes[row] = thing - 1;
    }
    this.#parts = this.#parts.map((part) =>
      Uint32Array.from(first, (cell) => part[Math.floor(cell / kinds)]!),
    );
    this.#parts.push(Uint32Array.from(first, (cell) => cell % kinds));
    this.columns.push(column);
    this.#codes = codes;
    this.told = first.length;
    return true;
  }

  /** Take in what a row says now. @returns false where too much is told */
  update(row: number): boolean {
    if (row >= this.#codes.length) {
      const grown = resized(this.#codes, row * 1.25 + 1);
      this.#codes = grown.fill(this.#thing(this.columns.map(() => 0)), this.#codes.length);
    }
    const thing = this.#thing(this.columns.map(({ codes }) => codes[row] ?? 0));
    if (thing >= MOST_TOLD_SINCE) return false;
    this.#codes[row] = thing;
    return true;
  }
  #thing(codes: number[]): number {
    this.#known ??= new Map(
      Array.from({ length: this.told }, (_, thing) => [
        this.#parts.map((part) => part[thing]).join(),
        thing,
      ]),
    );
    const key = codes.join();
    const known = this.#known.get(key);
    if (known !== undefined) return known;
    if (this.told === this.#parts[0]!.length)
      this.#parts = this.#parts.map((part) => {
        const grown = new Uint32Array(this.told * 2);
        grown.set(part);
        return grown;
      });
    codes.forEach((code, at) => (this.#parts[at]![this.told] = code));
    this.#known.set(key, this.told);
    return this.told++;
  }

  /** What is counted to tell how often some items say each code of each column: {@link parted} tells it. */
  counting(): Count {
    return { how: 'codes', codes: this.#codes, size: this.told };
  }
  /** How often each code of each column is told, from what was counted. */
  parted({ codes: things, counts }: Sums): ReadonlyMap<CodeColumn, Sums> {
    return new Map(
      this.columns.map((column, at) => {
        const part = this.#parts[at]!;
        return [
          column,
          put(column.size, (sums) => {
            for (let i = 0; i < things.length; i += 1) sums[part[things[i]!]!]! += counts[i]!;
          }),
        ];
      }),
    );
  }
}

/**
 * Fields hang together: a camera has its maker, a file its format and kind, and most items say nothing in most fields.
 * In a dozen fields a million items say only some thousands of different things; how often each of these is said is
 * counted in one walk, and tells how often each value of each of the fields is.
 */
export class Profiles {
  readonly #of = new Map<CodeColumn, Profile>();
  #profiles: Profile[] = [];
  /** Whether some were given up since all were made. */
  isSpoilt = false;
  readonly #changed = new Set<number>();

  constructor(readonly index: ShelfIndex) {
    index.onchange.add((row) => {
      if (this.#profiles.length > 0) this.#changed.add(row);
    });
  }

  /** Put columns together, those of few values first. */
  make(columns: readonly CodeColumn[]): void {
    this.#changed.clear();
    this.isSpoilt = false;
    const profiles: Profile[] = [];
    const sorted = [...columns].sort((a, b) => a.size - b.size);
    for (const column of sorted) {
      if (profiles.some((profile) => profile.join(column))) continue;
      const own = new Profile(this.index.size);
      if (own.join(column)) profiles.push(own);
    }
    this.#keep(profiles.filter(({ columns: { length } }) => length > 1));
  }
  #keep(profiles: Profile[]): void {
    this.#profiles = profiles;
    this.#of.clear();
    for (const profile of profiles)
      for (const column of profile.columns) this.#of.set(column, profile);
  }

  /** Take in what changed. Profiles that tell too much by now are given up until all are made anew. */
  #follow(): void {
    if (this.#changed.size === 0) return;
    const rows = [...this.#changed];
    this.#changed.clear();
    const fitting = this.#profiles.filter((profile) => rows.every((row) => profile.update(row)));
    if (fitting.length === this.#profiles.length) return;
    this.isSpoilt = true;
    this.#keep(fitting);
  }

  /** The profile that tells of a column; none where so few items are better counted by themselves. */
  of(column: CodeColumn, items: number): Profile | undefined {
    this.#follow();
    const profile = this.#of.get(column);
    return profile && items >= profile.told ? profile : undefined;
  }
}
