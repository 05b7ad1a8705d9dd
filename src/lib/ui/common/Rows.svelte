<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    count: number;
    /** px of one row */
    rowHeight: number;
    row: Snippet<[index: number]>;
    onvisible?: (from: number, to: number) => void;
  }
  const { count, rowHeight, row, onvisible }: Props = $props();
  let scroller = $state<HTMLElement>();
  let height = $state(400);
  let top = $state(0);
  const AHEAD = 10;
  const from = $derived(Math.max(0, Math.floor(top / rowHeight) - AHEAD));
  const to = $derived(Math.min(count, Math.ceil((top + height) / rowHeight) + AHEAD));

  const shown = $derived(Array.from({ length: Math.max(0, to - from) }, (_, step) => from + step));

  $effect(() => onvisible?.(from, to));

  export function show(index: number): void {
    if (!scroller) return;
    if (index * rowHeight < scroller.scrollTop) scroller.scrollTop = index * rowHeight;
    else if ((index + 1) * rowHeight > scroller.scrollTop + height)
      scroller.scrollTop = (index + 1) * rowHeight - height;
  }
</script>

<div
  bind:this={scroller}
  bind:clientHeight={height}
  class="rows"
  role="presentation"
  onscroll={() => (top = scroller!.scrollTop)}
>
  <div style="height:{count * rowHeight}px;padding-top:{from * rowHeight}px" role="presentation">
    {#each shown as index (index)}{@render row(index)}{/each}
  </div>
</div>

<style>
  .rows {
    height: 100%;
    overflow: auto;
    scrollbar-gutter: stable;
  }
</style>
