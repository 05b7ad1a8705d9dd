<script lang="ts">
  import { counted, formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayWrong } from '../common/notices.svelte';
  import Zoom from './Zoom.svelte';

  interface Props {
    id: string;
    picture: string;
    alt: string;
    pages: number;
    /** Its text can be searched. */
    hasText: boolean;
  }
  interface Hit {
    page: number;
    line: string;
    count: number;
  }
  const { id, picture, alt, pages, hasText }: Props = $props();
  /** Hits there is room for; the others are told. */
  const SHOWN = 12;
  let own = $state({ id: '', page: 1 });
  const page = $derived(own.id === id ? own.page : 1);
  let zoom = $state<Zoom>();
  let sought = $state('');
  let hits = $state<Hit[] | null>(null);
  $effect(() => {
    void id;
    hits = null;
    sought = '';
  });

  export function turn(by: number): void {
    own = { id, page: Math.min(pages, Math.max(1, page + by)) };
  }
  const goTo = (wished: number): void => {
    own = { id, page: Math.min(pages, Math.max(1, Math.round(wished) || 1)) };
  };
  async function find(): Promise<void> {
    if (!sought.trim()) return void (hits = null);
    const asked = { id, sought };
    try {
      const found = await api.get(`/api/items/${id}/text`, { find: sought });
      // Another document, or other words, by now.
      if (asked.id !== id || asked.sought !== sought) return;
      hits = found;
      if (hits[0]) goTo(hits[0].page);
    } catch (error) {
      sayWrong(error);
    }
  }
  export const fit = (): void => zoom?.fit();
  export const fill = (): void => zoom?.fill();
  export const actual = (times = 1): void => zoom?.actual(times);
  export const by = (factor: number): void => zoom?.by(factor);
  export const isAtHome = (): boolean => zoom?.isAtHome() ?? true;
</script>

<div class="pages">
  <div class="sheet" data-page={page}>
    <Zoom
      bind:this={zoom}
      {id}
      picture={page === 1 ? picture : `/api/items/${id}/pages/${page}`}
      width={0}
      alt="{alt}, page {page}"
      deep={page === 1 && pages === 1}
    />
  </div>
  <div class="leaf">
    <button type="button" class="link" disabled={page === 1} onclick={() => turn(-1)}
      ><kbd>PgUp</kbd> Page back</button
    >
    <label
      >page <input
        class="mono"
        type="number"
        min="1"
        max={pages}
        value={page}
        onchange={(event) => goTo(Number(event.currentTarget.value))}
      />
      of {formatCount(pages)}</label
    >
    <button type="button" class="link" disabled={page === pages} onclick={() => turn(1)}
      >Page on <kbd>PgDn</kbd></button
    >
    {#if hasText}
      <form
        onsubmit={(event) => {
          event.preventDefault();
          void find();
        }}
      >
        <input aria-label="Find in its text" placeholder="find in its text" bind:value={sought} />
      </form>
      {#if hits}
        <span class="pencil" role="status"
          >{hits.length ? `on ${counted(hits.length, 'page')}` : 'Nowhere in its text.'}</span
        >
        {#each hits.slice(0, SHOWN) as hit (hit.page)}
          <button
            type="button"
            class="link mono"
            title={hit.line}
            aria-current={hit.page === page}
            onclick={() => goTo(hit.page)}>{hit.page}</button
          >
        {/each}
        {#if hits.length > SHOWN}<span class="pencil"
            >and {formatCount(hits.length - SHOWN)} more</span
          >{/if}
      {/if}
    {/if}
  </div>
</div>

<style>
  .pages {
    position: absolute;
    inset: 0;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
  }
  .sheet {
    position: relative;
    min-height: 0;
  }
  .leaf {
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 5px 18px;
    background: var(--card);
    border-top: 1px solid var(--rule);
    white-space: nowrap;
    overflow: hidden;
  }
  input[type='number'] {
    min-height: 26px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    width: 64px;
    padding: 2px 6px;
  }
  button[aria-current='true'] {
    border-color: var(--ink);
  }
</style>
