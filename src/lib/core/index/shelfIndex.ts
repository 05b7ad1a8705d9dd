import type { Field } from '../fields/field';
import { ALL_FIELDS, can } from '../fields/registry';
import type { ByType } from '../fields/types';
import { stepNames } from '../timeline/bins';
import { CodeColumn } from './codeColumn';
import { ManyColumn } from './manyColumn';
import { NumberColumn, PairColumn } from './numberColumns';
import { Dictionary } from './dictionary';
import { IdTable } from './ids';
import { PostingColumn } from './postings';

/** How a field is kept in the index; its type tells. */
export type KeptColumn =
  | { as: 'code'; column: CodeColumn }
  | { as: 'number'; column: NumberColumn }
  /** Times also say their step: the finest by which they are counted. */
  | { as: 'pair'; column: PairColumn; steps?: CodeColumn<string> }
  | { as: 'many'; column: ManyColumn; names: Dictionary }
  | { as: 'words'; column: PostingColumn; names: Dictionary };

/** What is told of one item. */
export interface Row {
  /** Small integer of the item, from 1. */
  ord: number;
  id: string;
  numberKey: number;
  /** Small integer of the clip it is a span of; none, and it is no span. */
  clip?: number;
  /** Width ÷ height of its tile, in hundredths. */
  aspect: number;
  /** First day known, else what is known of it, for headings: `2026-09-12`, `2026-09`, empty. */
  day: string;
  /** Of each field, in the order of the registry. Times in ms, positions [latitude, longitude]. */
  values: readonly unknown[];
}

/** Values by the keys of their fields, in the order of the registry. */
export const inOrder = (values: Record<string, unknown>): unknown[] =>
  ALL_FIELDS.map(({ key }) => values[key]);

const [monthOf, yearOf] = [stepNames('month'), stepNames('year')];
/** The finest step a time lies in whole: its month, its year, or empty where it is known less exactly. */
function stepOf(from: number, to: number | null): string {
  if (to === null) return '';
  const month = monthOf(from);
  if (month === monthOf(to)) return month;
  const year = yearOf(from);
  return year === yearOf(to) ? year : '';
}

export type Keeping = 'code' | 'plain' | 'said' | 'number' | 'pair' | 'many' | 'words';

/** How a field is kept: texts nobody counts say only whether they are there. */
export function keepingOf(field: Field): Keeping {
  // Numbers of the catalogue order by their key; one of them is found by the database.
  if (field.key === 'number') return 'said';
  return KEEPINGS[field.type](field);
}

const coded = ({ many }: Field): Keeping => (many ? 'many' : 'code');
const text = (field: Field): Keeping => {
  if (field.many || can(field, 'count') || can(field, 'group')) return coded(field);
  return can(field, 'sort') ? 'plain' : 'said';
};
const KEEPINGS: ByType<(field: Field) => Keeping> = {
  text,
  'long-text': text,
  names: coded,
  number: (field) => (!field.many && field.unit === 'bytes' ? 'number' : coded(field)),
  enum: coded,
  'yes-no': coded,
  date: () => 'pair',
  ref: coded,
  folder: coded,
  position: () => 'pair',
  languages: () => 'said',
  colour: coded,
  words: () => 'words',
};

const SAID = new Set(ALL_FIELDS.flatMap((field) => (keepingOf(field) === 'said' ? field.key : [])));

/** Fields of which an item has several values. */
const isListed = (kept: KeptColumn): kept is Extract<KeptColumn, { as: 'many' | 'words' }> =>
  kept.as === 'many' || kept.as === 'words';

/** Who has one of its values has the broader ones too. */
const isTree = ({ of }: Field): boolean => of === 'term';

function emptyOf(field: Field): KeptColumn {
  const keeping = keepingOf(field);
  if (keeping === 'pair') {
    const steps = field.type === 'date' ? { steps: new CodeColumn<string>() } : {};
    return { as: 'pair', column: new PairColumn(), ...steps };
  }
  if (keeping === 'many')
    return { as: 'many', column: new ManyColumn(isTree(field)), names: new Dictionary() };
  if (keeping === 'words')
    return { as: 'words', column: new PostingColumn(), names: new Dictionary() };
  if (keeping === 'number') return { as: 'number', column: new NumberColumn() };
  return { as: 'code', column: new CodeColumn(keeping === 'plain') };
}

/** The index: every item of the archive in columns. */
export class ShelfIndex {
  /** One more than the largest small integer. */
  size = 0;
  /** 1 where an item is there. */
  alive = new Uint8Array(0);
  ids = new Uint8Array(0);
  numberKeys = new Float64Array(0);
  aspects = new Uint16Array(0);
  /** Rows of the clips that spans are of. */
  clips = new Uint32Array(0);
  days = new CodeColumn<string>();
  readonly fields = new Map<string, KeptColumn>();
  readonly #rowOf = new IdTable((row) => this.ids.subarray(row * 16, row * 16 + 16));
  /** Rises with every change; answers of one version agree. */
  version = 1;
  total = 0;
  /** Items that changed since an order was last brought up to date; who keeps orders empties it. */
  readonly onchange = new Set<(row: number) => void>();

  constructor() {
    for (const field of ALL_FIELDS) this.fields.set(field.key, emptyOf(field));
  }

  kept(key: string): KeptColumn {
    return this.fields.get(key)!;
  }

  rowOf(id: string): number | undefined {
    return this.#rowOf.get(bytesOfId(id));
  }

  #grow(row: number): void {
    this.size = Math.max(this.size, row + 1);
    if (row < this.alive.length) return;
    const size = Math.max(row + 1, Math.ceil(this.alive.length * 1.25), 1024);
    const copy = <T extends Uint8Array | Uint16Array | Uint32Array | Float64Array>(
      from: T,
      into: T,
    ): T => {
      into.set(from as never);
      return into;
    };
    this.alive = copy(this.alive, new Uint8Array(size));
    this.ids = copy(this.ids, new Uint8Array(size * 16));
    this.numberKeys = copy(this.numberKeys, new Float64Array(size));
    this.aspects = copy(this.aspects, new Uint16Array(size));
    this.clips = copy(this.clips, new Uint32Array(size));
  }

  /** Take an item in, or what changed of it. */
  put(row: Row): void {
    const { ord } = row;
    this.#grow(ord);
    if (!this.alive[ord]) this.total += 1;
    this.alive[ord] = 1;
    this.ids.set(bytesOfId(row.id), ord * 16);
    this.#rowOf.add(ord);
    this.numberKeys[ord] = row.numberKey;
    this.aspects[ord] = row.aspect;
    this.clips[ord] = row.clip ?? 0;
    this.days.set(ord, row.day);
    for (let at = 0; at < ALL_FIELDS.length; at += 1)
      this.#set(ALL_FIELDS[at]!, ord, row.values[at]);
    this.#changed(ord);
  }

  #set(field: Field, ord: number, value: unknown): void {
    const kept = this.kept(field.key);
    if (value === undefined && isListed(kept)) return;
    if (kept.as === 'pair') {
      const [first, second] = (value ?? [null, null]) as [number | null, number | null];
      const isOther = kept.column.set(ord, first, second);
      if (isOther) kept.steps?.set(ord, first === null ? null : stepOf(first, second));
    } else if (isListed(kept)) this.setMany(field.key, ord, (value ?? []) as string[]);
    else if (kept.as === 'number') kept.column.set(ord, (value as number | null) ?? null);
    else if (SAID.has(field.key)) kept.column.set(ord, value ? 'said' : null);
    else if (field.type === 'yes-no') kept.column.set(ord, value ? 'yes' : null);
    else
      kept.column.set(
        ord,
        value === '' || value === undefined ? null : (value as string | number | null),
      );
  }

  /** Names of a field that has many. */
  setMany(key: string, ord: number, names: readonly string[]): void {
    const kept = this.kept(key);
    if (!isListed(kept)) throw new TypeError(`“${key}” has one value`);
    kept.column.set(ord, [...new Set(names.map((name) => kept.names.code(name)))]);
  }

  /** What one field says of an item, and nothing else. */
  setOne(key: string, ord: number, value: string | null): void {
    const kept = this.kept(key);
    if (kept.as !== 'code' || !this.alive[ord] || kept.column.get(ord) === value) return;
    kept.column.set(ord, value);
    this.#changed(ord);
  }

  /** An item that is there no more. */
  drop(id: string): void {
    const ord = this.rowOf(id);
    if (ord === undefined || !this.alive[ord]) return;
    this.alive[ord] = 0;
    this.total -= 1;
    // What is there no more says nothing: sums over everything stay true.
    for (const field of ALL_FIELDS)
      if (isListed(this.kept(field.key))) this.setMany(field.key, ord, []);
      else this.#set(field, ord, null);
    this.#changed(ord);
  }

  #changed(row: number): void {
    this.version += 1;
    for (const tell of this.onchange) tell(row);
  }
  /** Something changed that is no item: a name, a tree. */
  touch(): void {
    this.version += 1;
  }

  /** Make ready what is made when first asked for, before anybody waits for it. */
  prepare(): void {
    for (const kept of this.fields.values()) {
      if (kept.as === 'number') kept.column.prepare();
      if (!isListed(kept)) continue;
      if (kept.as === 'many') kept.column.prepare();
      kept.names.prepare();
    }
  }

  settle(atLeast?: number): void {
    for (const kept of this.fields.values()) if (isListed(kept)) kept.column.settle(atLeast);
  }

  idOf(row: number): string {
    return readId(this.ids, row);
  }

  toPlain(): Record<string, unknown> {
    return {
      size: this.size,
      alive: this.alive,
      ids: this.ids,
      numberKeys: this.numberKeys,
      aspects: this.aspects,
      clips: this.clips,
      total: this.total,
      days: this.days.toPlain(),
    };
  }
  /** Restore what was saved: the frame, then each field. */
  static from(frame: Record<string, unknown>, fields: ReadonlyMap<string, unknown>): ShelfIndex {
    const index = new ShelfIndex();
    Object.assign(index, { ...frame, days: CodeColumn.from(frame['days'] as never) });
    for (const field of ALL_FIELDS) {
      const saved = fields.get(field.key) as { as: KeptColumn['as'] } & Record<string, unknown>;
      if (saved.as === 'code')
        index.fields.set(field.key, { as: 'code', column: CodeColumn.from(saved as never) });
      else if (saved.as === 'number') {
        const column = new NumberColumn(saved['values'] as Float64Array);
        index.fields.set(field.key, { as: 'number', column });
      } else if (saved.as === 'pair') {
        const column = new PairColumn();
        Object.assign(column, {
          first: saved['first'],
          second: saved['second'] ?? saved['first'],
        });
        const steps = saved['steps']
          ? { steps: CodeColumn.from<string>(saved['steps'] as never) }
          : {};
        index.fields.set(field.key, { as: 'pair', column, ...steps });
      } else {
        const names = Dictionary.from(saved['names'] as never);
        index.fields.set(
          field.key,
          saved.as === 'words'
            ? { as: 'words', column: PostingColumn.from(saved as never), names }
            : { as: 'many', column: ManyColumn.from(saved as never, isTree(field)), names },
        );
      }
    }
    for (let row = 1; row < index.size; row += 1) if (index.alive[row]) index.#rowOf.add(row);
    return index;
  }
  /** One field for saving. */
  plainField(key: string): Record<string, unknown> {
    const kept = this.kept(key);
    if (kept.as === 'code') return { as: 'code', ...kept.column.toPlain() };
    if (kept.as === 'number') return { as: 'number', values: kept.column.values };
    if (kept.as === 'pair') {
      const { first, second } = kept.column;
      return {
        as: 'pair',
        first,
        second: second === first ? null : second,
        steps: kept.steps?.toPlain(),
      };
    }
    return { as: kept.as, ...kept.column.toPlain(), names: kept.names.toPlain() };
  }
}

function bytesOfId(id: string): Uint8Array {
  const hex = id.replaceAll('-', '');
  const bytes = new Uint8Array(16);
  for (let at = 0; at < 16; at += 1) bytes[at] = parseInt(hex.slice(at * 2, at * 2 + 2), 16);
  return bytes;
}

const HEX = Array.from({ length: 256 }, (_, byte) => byte.toString(16).padStart(2, '0'));
function readId(ids: Uint8Array, row: number): string {
  let text = '';
  for (let at = 0; at < 16; at += 1) {
    if (at === 4 || at === 6 || at === 8 || at === 10) text += '-';
    text += HEX[ids[row * 16 + at]!];
  }
  return text;
}
