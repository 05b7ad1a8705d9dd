import { untrack } from 'svelte';
import { valuesNeeded } from '#core/naming/fill';
import { choicesIn, parsePattern } from '#core/naming/grammar';
import { AS_GIVEN, MOST_MOVED, type CountingOrder } from '#core/naming/order';
import type { ClashRule, LineFilter } from '#core/naming/rename';
import type { ExtensionRule } from '#core/naming/names';
import type { NamingChoices } from '#core/naming/wish';
import type { Picked } from '#core/query/picked';
import { api } from '../common/api';
import { sayWrong } from '../common/notices.svelte';
import { Names } from './names';
import type { Counts, ShownName } from './names.worker';

/** Whoever types is not asked after at every letter. */
const PAUSE_MS = 120;
const AHEAD = 60;

/** What a pattern asks of the server: names and counts are reckoned here, what records say comes from there. */
function askedBy(pattern: string): string {
  const pieces = parsePattern(pattern);
  const words = choicesIn(pieces).flatMap(({ source }) =>
    source.of === 'word' && source.word === 'hash'
      ? ['hash']
      : source.of === 'date' && source.date === 'changed'
        ? ['changed']
        : source.of === 'counter' && source.named !== null
          ? [`of ${source.named}`]
          : [],
  );
  return JSON.stringify([valuesNeeded(pieces), words]);
}

/** New names of chosen items while they are being found: what is wished, what it leads to, what of that is seen. */
export class Naming {
  pattern = $state('');
  clash = $state<ClashRule>('refuse');
  extension = $state<ExtensionRule>('keep');
  order = $state.raw<CountingOrder>(AS_GIVEN);
  filter = $state<LineFilter>('all');
  counts = $state.raw<Counts | null>(null);
  /** Rows that are seen, from a position on. */
  #rows = $state.raw<{ from: number; rows: ShownName[] }>({ from: 0, rows: [] });
  total = $state(0);
  wrong = $state('');
  isBusy = $state(false);
  readonly ready = $derived(
    !this.isBusy &&
      this.wrong === '' &&
      this.counts !== null &&
      this.counts.wrong === 0 &&
      this.counts.changed > 0,
  );
  /** Places other programs look in. */
  shared = $state.raw<string[]>([]);
  readonly #names = new Names();
  readonly #itemIds: Picked;
  #loaded: string | null = null;
  #now = 0;
  #seen: [number, number] = [0, AHEAD];
  #run = 0;

  constructor(itemIds: Picked, begin: Partial<NamingChoices>) {
    this.#itemIds = itemIds;
    this.take(begin);
    $effect(() => {
      const choices = this.choices;
      const timer = setTimeout(() => void this.#reckon(choices), PAUSE_MS);
      return () => clearTimeout(timer);
    });
    $effect(() => {
      void this.filter;
      if (untrack(() => this.counts) !== null) void untrack(() => this.#look());
    });
    $effect(() => () => this.#names.close());
  }

  /** Begin with what was kept. */
  take({ pattern, clash, extension }: Partial<NamingChoices>): void {
    if (pattern !== undefined) this.pattern = pattern;
    if (clash !== undefined) this.clash = clash;
    if (extension !== undefined) this.extension = extension;
  }

  get choices(): NamingChoices {
    const { pattern, clash, extension, order } = this;
    return { pattern, clash, extension, order };
  }

  async #reckon(choices: NamingChoices): Promise<void> {
    this.#run += 1;
    const run = this.#run;
    try {
      const asked = askedBy(choices.pattern);
      if (asked !== this.#loaded) {
        const material = await api.post('/api/rename/material', {
          itemIds: this.#itemIds,
          pattern: choices.pattern,
        });
        await this.#names.load(material);
        [this.#loaded, this.#now, this.shared] = [asked, material.now, material.shared];
      }
      const counts = await this.#names.plan(JSON.parse(JSON.stringify(choices)) as NamingChoices);
      if (run !== this.#run) return;
      [this.counts, this.wrong] = [counts, ''];
      if (this.filter !== 'all' && counts[this.filter] === 0) this.filter = 'all';
      await this.#look();
    } catch (error) {
      if (run !== this.#run) return;
      this.wrong = (error as Error).message;
      [this.counts, this.#rows, this.total] = [null, { from: 0, rows: [] }, 0];
    }
  }

  async #look(): Promise<void> {
    const [from, to] = this.#seen;
    const found = await this.#names.rows(this.filter, from, to);
    this.total = found.total;
    this.#rows = { from, rows: found.rows };
  }

  /** A row, where it was fetched. */
  row = (at: number): ShownName | undefined => this.#rows.rows[at - this.#rows.from];

  /** Which rows are seen now. */
  see(from: number, to: number): void {
    this.#seen = [Math.max(0, from - AHEAD), to + AHEAD];
    if (this.counts !== null) void this.#look();
  }

  /** Put an item before another, or at the end, in the order of counting. */
  move(id: string, before: string | null): void {
    if (id === before) return;
    const { moved } = this.order;
    if (moved.length >= MOST_MOVED) {
      this.wrong = `${MOST_MOVED} were moved by hand already; sort them first.`;
      return;
    }
    this.order = { ...this.order, moved: [...moved, { id, before }] };
  }

  /** Do what was shown. @returns the operation, or null where it was refused in words */
  async rename(): Promise<string | null> {
    this.isBusy = true;
    try {
      const { operation } = await api.post('/api/rename', {
        ...this.choices,
        itemIds: this.#itemIds,
        fingerprint: await this.#names.fingerprint(),
        now: this.#now,
      });
      return operation;
    } catch (error) {
      sayWrong(error);
      // What it was reckoned from may have changed: it is fetched anew, and shown as it is now.
      this.#loaded = null;
      await this.#reckon(this.choices);
      return null;
    } finally {
      this.isBusy = false;
    }
  }
}
