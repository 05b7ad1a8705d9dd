<script lang="ts">
  import { formatBytes } from '#core/text/quantities';
  import type { Query } from '#core/query/tree';
  import type { Stage } from '#core/stages/stages';
  import Pips from '../common/Pips.svelte';
  import Rows from '../common/Rows.svelte';
  import StageMark from '../common/StageMark.svelte';
  import { moment } from './dates';
  import type { Selection } from './selection.svelte';
  import type { TileStore } from './tiles.svelte';

  interface Props {
    total: number;
    store: TileStore;
    selection: Selection;
    focus: number;
    order: Query['order'];
    stages: Stage[];
    onpick: (index: number, event: MouseEvent) => void;
    onopen: (index: number) => void;
    onorder: (by: string) => void;
    onkeys: (event: KeyboardEvent) => void;
    onmove: (from: number, to: number, event: KeyboardEvent) => void;
  }
  let {
    total,
    store,
    selection,
    focus = $bindable(-1),
    order,
    stages,
    onpick,
    onopen,
    onorder,
    onkeys,
    onmove,
  }: Props = $props();
  let rows = $state<Rows>();

  const COLUMNS: { label: string; by?: string }[] = [
    { label: '' },
    { label: 'Number', by: 'number' },
    { label: 'Name', by: 'name' },
    { label: 'Title', by: 'title' },
    { label: 'Taken', by: 'taken' },
    { label: 'Pips', by: 'rating' },
    { label: 'Stage' },
    { label: 'Credit' },
    { label: 'Folder' },
    { label: 'Size', by: 'bytes' },
  ];

  function keys(event: KeyboardEvent): void {
    const moves: Record<string, number> = {
      ArrowDown: 1,
      ArrowUp: -1,
      PageDown: 15,
      PageUp: -15,
      Home: -Infinity,
      End: Infinity,
    };
    const step = moves[event.key];
    if (step === undefined) return onkeys(event);
    event.preventDefault();
    const before = focus;
    focus = Math.max(0, Math.min(total - 1, focus + step));
    rows?.show(focus);
    onmove(before, focus, event);
  }

  const sorted = (by: string | undefined): 'ascending' | 'descending' | 'none' =>
    by !== order.by ? 'none' : order.down ? 'descending' : 'ascending';
</script>

<div
  class="register"
  role="grid"
  aria-label="Register"
  aria-rowcount={total + 1}
  aria-multiselectable="true"
  tabindex="0"
  onkeydown={keys}
>
  <div class="top" role="rowgroup">
    <div class="line head" role="row" aria-rowindex={1}>
      {#each COLUMNS as { label, by } (label)}
        <div
          role="columnheader"
          class:wide={label === 'Folder'}
          aria-sort={by ? sorted(by) : undefined}
        >
          {#if by}
            <button type="button" onclick={() => onorder(by)}
              >{label}{sorted(by) === 'none' ? '' : order.down ? ' ↓' : ' ↑'}</button
            >
          {:else if label === 'Stage'}<span class="unseen">Stage</span><span
              class="wide"
              aria-hidden="true">Stage</span
            >{:else if label}{label}{:else}<span class="unseen">Picture</span>{/if}
        </div>
      {/each}
    </div>
  </div>
  <div class="rest" role="rowgroup">
    <Rows
      bind:this={rows}
      count={total}
      rowHeight={40}
      onvisible={(from, to) => void store.want(from, to)}
    >
      {#snippet row(at)}
        {@const tile = store.at(at)}
        {@const stage = stages.find(({ id }) => id === tile?.stage)}
        <!-- svelte-ignore a11y_click_events_have_key_events -->
        <div
          class="line"
          class:selected={tile && selection.has(tile.id)}
          id="row-{at}"
          class:focused={at === focus}
          role="row"
          tabindex="-1"
          aria-rowindex={at + 2}
          aria-selected={tile ? selection.has(tile.id) : false}
          onclick={(event) => onpick(at, event)}
          ondblclick={() => onopen(at)}
        >
          <div role="gridcell" class="thumb">
            {#if tile?.pictureState === 'ready'}<img
                src="/api/pictures/{tile.picture}/small"
                alt=""
                loading="lazy"
              />{/if}
          </div>
          <div role="gridcell" class="mono pencil">{tile?.number ?? ''}</div>
          <div role="gridcell" class="mono" title={tile?.name}>{tile?.name ?? ''}</div>
          <div role="gridcell" class="book">{tile?.title ?? ''}</div>
          <div role="gridcell">{tile?.taken ? moment(tile.taken) : (tile?.takenEdtf ?? '')}</div>
          <div role="gridcell">
            {#if tile}<Pips rating={tile.rating} />{/if}
          </div>
          <div role="gridcell" class="stage">
            {#if stage}<StageMark {stage} /> <span class="wide">{stage.name}</span>{/if}
          </div>
          <div role="gridcell">
            {#if tile && !tile.credit}<span class="wrong">missing</span>{:else}{tile?.credit ??
                ''}{/if}
          </div>
          <div role="gridcell" class="pencil wide" title={tile?.folder}>
            {tile?.folder.split('/').at(-1) ?? ''}
          </div>
          <div role="gridcell" class="mono size">{tile ? formatBytes(tile.size) : ''}</div>
        </div>
      {/snippet}
    </Rows>
  </div>
</div>

<style>
  .register {
    display: grid;
    grid-template-rows: 32px minmax(0, 1fr);
    height: 100%;
    background: var(--card);
    outline-offset: -2px;
    container-type: inline-size;
    min-width: 0;
  }
  .top {
    overflow: hidden;
    scrollbar-gutter: stable;
  }
  .rest {
    min-height: 0;
  }
  .line {
    display: grid;
    grid-template-columns:
      48px 100px minmax(80px, 1.2fr) minmax(80px, 1.3fr)
      120px 46px 24px minmax(56px, 0.9fr) 58px;
    gap: 8px;
    align-items: center;
    height: 40px;
    padding: 0 12px;
    border-bottom: 1px solid var(--rule);
    user-select: none;
    cursor: default;
  }
  .wide {
    display: none;
  }
  @container (min-width: 960px) {
    .line {
      grid-template-columns:
        48px 104px minmax(110px, 1.3fr) minmax(90px, 1.2fr)
        124px 48px 118px minmax(70px, 1fr) minmax(60px, 0.8fr) 60px;
    }
    .wide {
      display: initial;
    }
  }
  .line > div {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .head {
    height: 32px;
    border-bottom: 1px solid var(--ink);
    color: var(--pencil);
    font-size: 11.5px;
    font-weight: 600;
  }
  .head button {
    border: 0;
    padding: 0;
    background: none;
    font-weight: 600;
  }
  .line.selected {
    background: var(--wash);
  }
  .line.focused {
    outline: 2px solid var(--ink);
    outline-offset: -2px;
  }
  .book {
    font: 14px var(--book);
  }
  .size {
    text-align: right;
  }
  img {
    display: block;
    width: 48px;
    height: 32px;
    object-fit: cover;
    background: var(--well);
  }
</style>
