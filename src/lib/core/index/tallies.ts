import { fieldsThatCan } from '../fields/registry';
import type { CodeColumn } from './codeColumn';
import type { Count, Sums } from './counting';
import type { ItemSet } from './itemSet';
import { Profiles, type Profile } from './profiles';
import { alike, NOTHING, type Whole } from './sums';
import type { Kept, ShelfIndex } from './shelfIndex';

/** What of a field is told by codes: its values, or the steps of its times or numbers. */
export function codesOf(kept: Kept): CodeColumn | undefined {
  if (kept.as === 'code') return kept.column;
  if (kept.as === 'number') return kept.column.steps;
  return kept.as === 'pair' ? kept.steps : undefined;
}

/** What is to be counted, and what of each field that says. */
export interface Plan {
  counts: readonly Count[];
  /** @param counted of each count its sums */
  read: (counted: readonly Sums[]) => Map<string, Sums>;
}

/** What is counted of the fields of an index. */
export class Tallies {
  readonly #profiles: Profiles;
  /** What profiles told of sets that are looked at now. */
  readonly #told = new WeakMap<ItemSet, Map<Profile, ReadonlyMap<CodeColumn, Sums>>>();

  constructor(readonly index: ShelfIndex) {
    this.#profiles = new Profiles(index);
  }

  /** Make ready what counts many fields at once. */
  prepare(): void {
    this.#profiles.make(
      fieldsThatCan('count').flatMap(({ key }) => codesOf(this.index.kept(key)) ?? []),
    );
  }

  /** Make them anew where items say too much by now that is new. */
  settle(): void {
    if (this.#profiles.isSpoilt) this.prepare();
  }

  /** What is counted to tell fields of some items: always the same, for profiles are asked once. */
  plan(some: ItemSet, keys: readonly string[]): Plan {
    const counts: Count[] = [];
    const places = new Map<Profile, number>();
    const { count } = some;
    const told = this.#told.get(some) ?? new Map<Profile, ReadonlyMap<CodeColumn, Sums>>();
    this.#told.set(some, told);
    const readers = keys.map((key): ((counted: readonly Sums[]) => Sums) => {
      const kept = this.index.kept(key);
      if (kept.as === 'many') {
        const { column } = kept;
        const counting = column.counting();
        if (!counting) return () => ({ ...NOTHING, lacking: count });
        const at = counts.push(counting) - 1;
        return (counted) => column.told(counted[at]!, some.has);
      }
      const column = codesOf(kept);
      if (!column) throw new TypeError(`“${key}” has no codes`);
      const same = column.same(this.index.total);
      if (same >= 0) return () => alike(same, count);
      const profile = this.#profiles.of(column, count);
      if (!profile) {
        const at = counts.push(column.counting()) - 1;
        return (counted) => counted[at]!;
      }
      if (!told.has(profile) && !places.has(profile))
        places.set(profile, counts.push(profile.counting()) - 1);
      return () => told.get(profile)!.get(column)!;
    });
    return {
      counts,
      read: (counted) => {
        for (const [profile, at] of places) told.set(profile, profile.parted(counted[at]!));
        return new Map(keys.map((key, at) => [key, readers[at]!(counted)]));
      },
    };
  }

  /** Sums over everything; null where none are kept. */
  whole(key: string): Whole | null {
    const kept = this.index.kept(key);
    const { total } = this.index;
    if (kept.as === 'many') return kept.column.whole(total);
    const codes = codesOf(kept);
    if (!codes) return null;
    const sums = codes.whole(total);
    return { sums, lacking: sums[0]! };
  }
}
