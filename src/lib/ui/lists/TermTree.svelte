<script lang="ts">
  import {
    draggable,
    dropTargetForElements,
  } from '@atlaskit/pragmatic-drag-and-drop/element/adapter';
  import { untrack } from 'svelte';
  import { formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayWrong } from '../common/notices.svelte';
  import Rows from '../common/Rows.svelte';
  import { act } from './act';

  /** The thesaurus as a tree that opens branch by branch; by letters as a list. */
  interface Listed {
    id: string;
    label: string;
    by: string | null;
    retired: boolean;
    narrower: number;
    items: number;
  }
  interface Branch {
    terms: Listed[];
    total: number;
  }
  interface Props {
    top: Branch;
    chosen: string | null;
    mayManage: boolean;
    onopen: (id: string) => unknown;
    onchanged: () => unknown;
  }
  const { top, chosen, mayManage, onopen, onchanged }: Props = $props();
  /** What lies under a term, by its id, as far as it was looked at. */
  let branches = $state.raw<Record<string, Branch>>({});
  /** Open terms by the way that leads to them: one may stand in several places. */
  let opened = $state.raw<readonly string[]>([]);
  let typed = $state('');
  let hits = $state.raw<Listed[] | null>(null);
  let at = $state(0);
  let rows = $state<ReturnType<typeof Rows>>();

  interface Line {
    term: Listed;
    depth: number;
    /** Ids from the top, parted by slashes. */
    way: string;
    /** Terms of its branch that are not told, after its last. */
    more?: number;
  }
  const lines = $derived.by((): Line[] => {
    if (hits) return hits.map((term) => ({ term, depth: 0, way: term.id }));
    const found: Line[] = [];
    const walk = ({ terms, total }: Branch, depth: number, above: string): void => {
      terms.forEach((term, index) => {
        const way = above ? `${above}/${term.id}` : term.id;
        const isLast = index === terms.length - 1;
        found.push({
          term,
          depth,
          way,
          ...(isLast && total > terms.length ? { more: total - terms.length } : {}),
        });
        const below = branches[term.id];
        if (opened.includes(way) && below) walk(below, depth + 1, way);
      });
    };
    walk(top, 0, '');
    return found;
  });
  const here = $derived(Math.min(at, Math.max(0, lines.length - 1)));

  async function read(id: string): Promise<void> {
    const branch = await api.get('/api/lists/terms', { under: id });
    branches = { ...branches, [id]: branch };
  }
  async function toggle({ term, way }: Line, wish?: boolean): Promise<void> {
    const isOpen = opened.includes(way);
    if (wish === isOpen || term.narrower === 0) return;
    try {
      if (!isOpen && !branches[term.id]) await read(term.id);
      opened = isOpen ? opened.filter((one) => one !== way) : [...opened, way];
    } catch (error) {
      sayWrong(error);
    }
  }
  /** Branches that were looked at are looked at again. */
  export async function again(): Promise<void> {
    const ids = [...new Set(opened.map((way) => way.split('/').at(-1)!))];
    const found = await Promise.all(
      ids.map(async (id) => [id, await api.get('/api/lists/terms', { under: id })] as const),
    ).catch(() => []);
    branches = Object.fromEntries(found);
    if (typed.trim()) await seek();
  }
  async function seek(): Promise<void> {
    const wish = typed.trim();
    if (wish === '') {
      hits = null;
      return;
    }
    const { terms } = await api
      .get('/api/lists/terms', { typed: wish })
      .catch(() => ({ terms: [] as Listed[] }));
    if (wish === typed.trim()) [hits, at] = [terms, 0];
  }

  function keys(event: KeyboardEvent): void {
    const line = lines[here];
    if (!line) return;
    const steps: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 };
    const step = steps[event.key];
    if (step) go(here + step);
    else if (event.key === 'Home') go(0);
    else if (event.key === 'End') go(lines.length - 1);
    else if (event.key === 'ArrowRight') void toggle(line, true);
    else if (event.key === 'ArrowLeft') {
      if (opened.includes(line.way)) void toggle(line, false);
      else go(lines.findIndex(({ way }) => way === line.way.split('/').slice(0, -1).join('/')));
    } else if (event.key === 'Enter') onopen(line.term.id);
    else return;
    event.preventDefault();
  }
  function go(next: number): void {
    if (next < 0 && here === 0) return;
    at = Math.min(lines.length - 1, Math.max(0, next));
    rows?.show(at);
  }

  /** Put a term under another; where it stands now it stays only where that is wished. */
  async function move(from: Line, to: Listed, alsoThere: boolean): Promise<void> {
    const { entry } = await api.get(`/api/lists/terms/${from.term.id}`);
    const above = from.way.split('/').at(-2);
    const broader = [
      ...entry.broader.filter((id) => alsoThere || id !== above),
      ...(entry.broader.includes(to.id) ? [] : [to.id]),
    ];
    await act(
      `“${entry.label}” stands under “${to.label}”`,
      () =>
        api.patch(`/api/lists/terms/${from.term.id}`, {
          entry: { ...entry, broader },
          seen: entry,
        }),
      onchanged,
    );
  }
  let over = $state<string | null>(null);
  function carried(element: HTMLElement, index: () => number): { destroy: () => void } {
    const line = (): Line => lines[index()]!;
    const ends = [
      draggable({
        element,
        canDrag: () => mayManage,
        getInitialData: () => ({ way: line().way }),
      }),
      dropTargetForElements({
        element,
        canDrop: ({ source }) =>
          mayManage && typeof source.data['way'] === 'string' && source.data['way'] !== line().way,
        onDragEnter: () => (over = line().way),
        onDragLeave: () => (over = null),
        onDrop: ({ source, location }) => {
          over = null;
          const from = lines.find(({ way }) => way === source.data['way']);
          const ctrl = location.current.input.ctrlKey || location.current.input.metaKey;
          if (from && from.term.id !== line().term.id)
            void move(from, line().term, ctrl).catch(sayWrong);
        },
      }),
    ];
    return { destroy: () => ends.forEach((end) => end()) };
  }

  $effect(() => {
    const id = chosen;
    untrack(() => {
      const index = lines.findIndex(({ term }) => term.id === id);
      if (index >= 0 && lines[here]?.term.id !== id) at = index;
    });
  });
</script>

<div class="tree">
  <input
    class="field"
    type="search"
    aria-label="Find a term"
    placeholder="find a term by any of its labels"
    bind:value={typed}
    oninput={() => void seek()}
    onkeydown={(event) => {
      if (event.key === 'Enter' && lines[0]) onopen(lines[0].term.id);
      else if (event.key === 'Escape') {
        typed = '';
        void seek();
      }
    }}
  />
  <div
    class="lines"
    role="tree"
    tabindex="0"
    aria-label="Thesaurus"
    aria-activedescendant={lines[here] ? `term-${here}` : undefined}
    onkeydown={keys}
  >
    <Rows bind:this={rows} count={lines.length} rowHeight={28}>
      {#snippet row(index)}
        {@const line = lines[index]!}
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <div
          id="term-{index}"
          class="line"
          class:at={index === here}
          class:over={over === line.way}
          class:retired={line.term.retired}
          role="treeitem"
          tabindex="-1"
          aria-level={line.depth + 1}
          aria-selected={line.term.id === chosen}
          aria-expanded={line.term.narrower > 0 && !hits ? opened.includes(line.way) : undefined}
          style:padding-left="{24 + line.depth * 18}px"
          use:carried={() => index}
          onclick={(event) => {
            at = index;
            if ((event.target as HTMLElement).closest('.turn')) void toggle(line);
            else onopen(line.term.id);
          }}
        >
          <span class="turn" aria-hidden="true"
            >{hits || line.term.narrower === 0 ? '' : opened.includes(line.way) ? '−' : '+'}</span
          >
          <span class="name"
            >{line.term.label}{#if line.term.by && line.term.by !== line.term.label}<span
                class="pencil">&nbsp;by “{line.term.by}”</span
              >{/if}{#if line.term.retired}<span class="pencil">&nbsp;retired</span
              >{/if}{#if line.more}<span class="caution"
                >&nbsp;and {formatCount(line.more)} more: find them by letters</span
              >{/if}</span
          >
          <span class="mono pencil">{formatCount(line.term.items)}</span>
        </div>
      {/snippet}
    </Rows>
    {#if lines.length === 0}<p class="none pencil">
        {hits ? `No term is called like “${typed.trim()}”.` : 'No terms yet.'}
      </p>{/if}
  </div>
</div>

<style>
  .tree {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr);
    min-height: 0;
  }
  .field {
    width: auto;
    margin: 12px 24px 8px;
  }
  .lines {
    position: relative;
    min-height: 0;
  }
  .lines:focus-visible {
    outline-offset: -2px;
  }
  .line {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) auto;
    gap: 4px;
    align-items: center;
    height: 28px;
    padding-right: 20px;
    cursor: default;
  }
  .line.at {
    background: color-mix(in srgb, var(--wash) 60%, transparent);
  }
  .line[aria-selected='true'] {
    background: var(--wash);
  }
  .line.over {
    outline: 2px solid var(--verdigris);
    outline-offset: -2px;
  }
  .turn {
    width: 18px;
    color: var(--pencil);
    font: 14px var(--mono);
    text-align: center;
  }
  .name {
    overflow: hidden;
    font: 14px var(--book);
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name .pencil,
  .name .caution {
    font: 13px var(--plain);
  }
  .retired .name {
    color: var(--pencil);
  }
  .none {
    position: absolute;
    inset: 8px 24px auto;
  }
</style>
