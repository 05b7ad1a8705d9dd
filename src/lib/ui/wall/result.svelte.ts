import { isOnTiles, type Result as Shown } from '#core/wire/result';
import { dependsOn, isAboutAny, type ItemsMessage, type LiveMessage } from '#core/live/messages';
import { formatQuery } from '#core/query/grammar';
import type { Query } from '#core/query/tree';
import { api } from '../common/api';
import { calmly } from '../common/live';
import { TileStore } from './tiles.svelte';

/** ms between two answers that are asked for because others work. */
const CALM_MS = 1200;
/** ms; an index that says nothing so long is away, and the database counts. */
const LATE_MS = 3000;

/** What was found, as it is now: it follows what others change, and asks for no more than what is shown. */
export class FoundResult {
  readonly text: string;
  readonly store: TileStore;
  #shown = $state.raw<Shown>() as Shown;
  /** Rises when values changed that a table may show. */
  values = $state(0);
  /** Items whose change may change the result, not yet counted by the index. */
  #due = new Set<string>();
  #isMuchDue = false;
  #late: ReturnType<typeof setTimeout> | null = null;

  constructor(
    readonly query: Query,
    shown: Shown,
  ) {
    this.text = formatQuery(query);
    this.store = new TileStore(this.text);
    this.take(shown);
  }

  get wall(): Shown['wall'] {
    return this.#shown.wall;
  }
  get shelf(): Shown['shelf'] {
    return this.#shown.shelf;
  }

  take(shown: Shown): void {
    this.#shown = shown;
    this.store.put(shown.from, shown.tiles);
  }

  /** Ask for all that is shown anew, in one answer. */
  async refresh(): Promise<void> {
    this.#due.clear();
    this.#isMuchDue = false;
    if (this.#late) clearTimeout(this.#late);
    this.#late = null;
    const [from, to] = this.store.forget();
    this.take(await api.get<Shown>('/api/catalogue/result', { q: this.text, from, to }));
    this.values += 1;
  }
  readonly #soon = calmly(() => void this.refresh().catch(() => undefined), CALM_MS);

  hear(message: LiveMessage): void {
    if (message.about === 'again') this.#soon();
    else if (message.about === 'collections' && dependsOn(this.query, ['collection'])) this.#soon();
    else if (message.about === 'counted' && this.#isDue(message.ids)) this.#soon();
    else if (message.about === 'items') this.#changed(message);
  }

  #isDue(ids: string[]): boolean {
    if (this.#isMuchDue) return true;
    return this.#due.size > 0 && isAboutAny({ ids }, this.#due);
  }

  #changed({ ids, fields }: ItemsMessage): void {
    if (dependsOn(this.query, fields)) {
      for (const id of ids) this.#due.add(id);
      this.#isMuchDue ||= ids.length === 0;
      this.#late ??= setTimeout(() => this.#soon(), LATE_MS);
      return;
    }
    if (isOnTiles(fields)) void this.store.again(ids).catch(() => undefined);
    if (isAboutAny({ ids }, this.store.ids())) this.values += 1;
  }
}
