<script lang="ts">
  import type { Snippet } from 'svelte';
  import { Tall } from './tall.svelte';

  interface Props {
    count: number;
    /** px of one row */
    rowHeight: number;
    /** px the rows are wide at least; beyond what is seen they are scrolled to the side. */
    wide?: number;
    /** Nothing in its rows takes the focus: it is scrolled by keys itself. */
    plain?: boolean;
    row: Snippet<[index: number]>;
    onvisible?: (from: number, to: number) => void;
    /** px to the side, whenever that changes. */
    onside?: (left: number) => void;
  }
  const { count, rowHeight, wide = 0, plain = false, row, onvisible, onside }: Props = $props();
  let scroller = $state<HTMLElement>();
  let height = $state(400);
  const plane: Tall = new Tall(
    () => count * rowHeight,
    () => height,
  );
  const AHEAD = 10;
  const from = $derived(Math.max(0, Math.floor(plane.top / rowHeight) - AHEAD));
  const to = $derived(Math.min(count, Math.ceil((plane.top + height) / rowHeight) + AHEAD));
  const shown = $derived(Array.from({ length: Math.max(0, to - from) }, (_, step) => from + step));
  /** px of the page above the first row that is drawn. */
  const above = $derived(from * rowHeight - plane.top + plane.scroll);

  $effect(() => onvisible?.(from, to));

  export function show(index: number): void {
    if (index * rowHeight < plane.top) plane.go(index * rowHeight);
    else if ((index + 1) * rowHeight > plane.top + height)
      plane.go((index + 1) * rowHeight - height);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  bind:this={scroller}
  bind:clientHeight={height}
  use:plane.scroller
  class="rows"
  role={plain ? 'rowgroup' : 'presentation'}
  tabindex={plain ? 0 : undefined}
  onscroll={() => onside?.(scroller!.scrollLeft)}
>
  <div class="page" style="height:{plane.page.page}px;min-width:{wide}px" role="presentation">
    <div style="transform:translateY({above}px)" role="presentation">
      {#each shown as index (index)}{@render row(index)}{/each}
    </div>
  </div>
</div>

<style>
  .rows {
    height: 100%;
    overflow: auto;
    scrollbar-gutter: stable;
  }
  .page {
    overflow: clip;
  }
</style>
