import { fieldsThatCan } from '../fields/registry';
import type { CodeColumn } from './codeColumn';
import type { Count, Cut, Sums } from './counting';
import type { ItemSet } from './itemSet';
import { Profiles, type Profile } from './profiles';
import { alike, less, NOTHING, type Whole } from './sums';
import type { KeptColumn, ShelfIndex } from './shelfIndex';

/** What of a field is told by codes: its values, or the steps of its times or numbers. */
export function codesOf(kept: KeptColumn): CodeColumn | undefined {
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

/** What of the sums is wished for. */
export interface Wished {
  /** Of each field only so many of the largest, where that spares something. */
  most?: number | undefined;
  /** Of these fields what is left of it when what is counted is taken away. */
  wholes?: ReadonlyMap<string, Whole>;
}
/** Where more codes than these may be told, only the largest are, if no more are wished for. */
const MANY = 1024;

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
  plan(some: ItemSet, keys: readonly string[], { most, wholes }: Wished = {}): Plan {
    const counts: Count[] = [];
    const places = new Map<Profile, number>();
    const { count } = some;
    const told = this.#told.get(some) ?? new Map<Profile, ReadonlyMap<CodeColumn, Sums>>();
    this.#told.set(some, told);
    const rest = (key: string, sums: Sums): Sums => {
      const whole = wholes?.get(key);
      return whole ? less(whole, sums) : sums;
    };
    /** The largest are all that is told of one: what it is taken from is known to whoever counts. */
    const onlyLargest = (key: string, counting: Count, from: number): (typeof readers)[number] => {
      const whole = wholes?.get(key);
      const cut: Cut = whole ? { most: most!, from, whole: whole.sums } : { most: most!, from };
      const at = counts.push({ ...counting, cut }) - 1;
      return (counted) => {
        const { codes, counts: sums, lacking } = counted[at]!;
        return { codes, counts: sums, lacking: whole ? whole.lacking - lacking : lacking };
      };
    };
    const isCut = ({ size }: Count): boolean => most !== undefined && size > MANY;
    const readers = keys.map((key): ((counted: readonly Sums[]) => Sums) => {
      const kept = this.index.kept(key);
      if (kept.as === 'many') {
        const { column } = kept;
        const counting = column.counting();
        if (!counting) return () => rest(key, { ...NOTHING, lacking: count });
        if (isCut(counting) && column.isToldAsCounted) return onlyLargest(key, counting, 0);
        const at = counts.push(counting) - 1;
        return (counted) => rest(key, column.told(counted[at]!, some.has));
      }
      const column = codesOf(kept);
      if (!column) throw new TypeError(`“${key}” has no codes`);
      const same = column.same(this.index.total);
      if (same >= 0) return () => rest(key, alike(same, count));
      const profile = this.#profiles.of(column, count);
      if (!profile) {
        const counting = column.counting();
        if (isCut(counting) && kept.as !== 'number') return onlyLargest(key, counting, 1);
        const at = counts.push(counting) - 1;
        return (counted) => rest(key, counted[at]!);
      }
      if (!told.has(profile) && !places.has(profile))
        places.set(profile, counts.push(profile.counting()) - 1);
      return () => rest(key, told.get(profile)!.get(column)!);
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
