import { dependsOn, isAboutAny, type ItemsMessage, type LiveMessage } from '#core/live/messages';
import { formatQuery } from '#core/query/grammar';
import type { Query } from '#core/query/tree';
import { isOnTiles, type Result } from '#core/wire/result';
import { api } from '../common/api';
import { calmly, isExplained, uncounted } from '../common/live';
import { TileStore } from './tiles.svelte';

/** ms between two answers that are asked for because others work. */
const CALM_MS = 1200;
/** More are waited for as many. */
const MOST_DUE = 2000;
/** ms; an index that says nothing so long is away, and the database counts. */
const LATE_MS = 3000;
/** ms from the index counting a change to the word of what it was, where that comes later. */
const WORD_MS = 500;

/** What was found, as it is now: it follows what others change, and asks for no more than what is shown. */
export class FoundResult {
  readonly text: string;
  readonly store: TileStore;
  #shown = $state.raw<Result>() as Result;
  /** Rises when values changed that a table may show. */
  values = $state(0);
  /** Items whose change may change the result, not yet counted by the index. */
  #due: string[] = [];
  #isMuchDue = false;
  /** What changed may stand elsewhere in the order. */
  #moves = false;
  #late: ReturnType<typeof setTimeout> | null = null;

  constructor(
    readonly query: Query,
    shown: Result,
  ) {
    this.text = formatQuery(query);
    this.store = new TileStore(this.text);
    this.#shown = shown;
    this.store.put(shown.from, shown.tiles);
    // What changed just before it was asked for may not be counted in it.
    for (const { ids, fields } of uncounted()) this.#mayChange(ids, fields);
  }

  get wall(): Result['wall'] {
    return this.#shown.wall;
  }
  get shelf(): Result['shelf'] {
    return this.#shown.shelf;
  }

  /** Take in a newer answer. Where nothing moved the wall stays as it hangs. */
  take(shown: Result, moved = true): void {
    const before = this.#shown.wall.groups;
    const hangs = !moved && JSON.stringify(before) === JSON.stringify(shown.wall.groups);
    this.#shown = hangs ? { ...shown, wall: { ...shown.wall, groups: before } } : shown;
    this.store.put(shown.from, shown.tiles);
    this.values += 1;
  }

  #isOver = false;
  /** Another result is shown: nothing is asked for this one any more. */
  end(): void {
    this.#isOver = true;
    if (this.#late) clearTimeout(this.#late);
  }

  /** Ask for all that is shown anew, in one answer. */
  async refresh(): Promise<void> {
    if (this.#isOver) return;
    const moved = this.#moves;
    this.#due = [];
    [this.#isMuchDue, this.#moves] = [false, false];
    if (this.#late) clearTimeout(this.#late);
    this.#late = null;
    const [from, to] = this.store.forget();
    const shown = await api.get('/api/catalogue/result', { q: this.text, from, to });
    this.store.taken(from, to);
    this.take(shown, moved);
  }
  readonly #soon = calmly(() => void this.refresh().catch(() => undefined), CALM_MS);

  hear(message: LiveMessage): void {
    if (message.about === 'again') {
      this.#moves = true;
      this.#soon();
    } else if (message.about === 'collections') this.#mayChange([], ['collection']);
    else if (message.about === 'counted') this.#counted(message.ids);
    else if (message.about === 'items') this.#changed(message);
  }

  #counted(ids: string[]): void {
    const isDue = this.#isMuchDue || (this.#due.length > 0 && isAboutAny({ ids }, this.#due));
    if (isDue) this.#soon();
    // What changed without a word may be anything; the word may come a moment later.
    else if (!isExplained(ids)) setTimeout(() => isExplained(ids) || this.#soon(), WORD_MS);
  }

  /** @returns whether a change of these fields may change the result: then it is asked for once it is counted */
  #mayChange(ids: string[], fields: string[]): boolean {
    if (!dependsOn(this.query, fields)) return false;
    const { order, group } = this.query;
    this.#due.push(...ids);
    this.#isMuchDue ||= ids.length === 0 || this.#due.length > MOST_DUE;
    this.#moves ||= fields.length === 0 || fields.some((key) => [order.by, group].includes(key));
    this.#late ??= setTimeout(() => this.#soon(), LATE_MS);
    return true;
  }

  #changed({ ids, fields }: ItemsMessage): void {
    if (this.#mayChange(ids, fields)) return;
    if (isOnTiles(fields)) void this.store.again(ids).catch(() => undefined);
    if (isAboutAny({ ids }, this.store.ids())) this.values += 1;
  }
}
