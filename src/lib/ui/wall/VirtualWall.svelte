<script lang="ts">
  import type { Snippet } from 'svelte';
  import { justify, neighbour, rowsBetween, type WallRow } from '#core/wall/justify';

  interface Props {
    /** Width ÷ height of every picture, in hundredths. */
    aspects: number[];
    groups: { count: number }[];
    rowHeight: number;
    label: string;
    multi?: boolean;
    heading: Snippet<[group: number]>;
    tile: Snippet<[index: number, width: number, height: number]>;
    /** Index the keyboard stands on, −1 for none. */
    focus?: number;
    tileId: (index: number) => string;
    onvisible?: (from: number, to: number) => void;
    onkeys?: (event: KeyboardEvent) => void;
    onmove?: (from: number, to: number, event: KeyboardEvent) => void;
  }
  let {
    aspects,
    groups,
    rowHeight,
    label,
    multi = true,
    heading,
    tile,
    focus = $bindable(-1),
    tileId,
    onvisible,
    onkeys,
    onmove,
  }: Props = $props();

  const GAP = 8;
  const HEADING = 34;
  const LABEL = 28;
  const AHEAD = 600;

  let scroller = $state<HTMLElement>();
  let list = $state<HTMLElement>();
  let width = $state(700);
  let height = $state(700);
  let top = $state(0);

  const layout = $derived(
    justify(
      aspects.map((aspect) => aspect / 100),
      groups,
      { width: Math.max(200, width - 26), rowHeight, gap: GAP, heading: HEADING, label: LABEL },
    ),
  );
  const seen = $derived(rowsBetween(layout.rows, top - AHEAD, top + height + AHEAD, LABEL));
  const rows = $derived(layout.rows.slice(seen[0], seen[1]));
  const headings = $derived(
    layout.headings.filter((mark) => mark.top > top - AHEAD && mark.top < top + height + AHEAD),
  );

  $effect(() => {
    if (rows.length > 0) onvisible?.(rows[0]!.from, rows.at(-1)!.to);
  });

  const indexes = (row: WallRow): number[] =>
    Array.from({ length: row.to - row.from }, (_, step) => row.from + step);

  /** Bring a tile into sight. */
  export function show(index: number): void {
    const row = layout.rows[layout.rowOf[index]!];
    if (!row || !scroller) return;
    if (row.top - HEADING < scroller.scrollTop) scroller.scrollTop = row.top - HEADING;
    else if (row.top + row.height + LABEL > scroller.scrollTop + height)
      scroller.scrollTop = row.top + row.height + LABEL + GAP - height;
  }

  export function take(): void {
    list?.focus({ preventScroll: true });
  }

  function keys(event: KeyboardEvent): void {
    const last = aspects.length - 1;
    if (last < 0) return;
    const at = focus < 0 ? -1 : focus;
    const pageRows = Math.max(1, Math.floor(height / (rowHeight + LABEL + GAP)));
    const far = (direction: 1 | -1): number => {
      let index = Math.max(0, at);
      for (let step = 0; step < pageRows; step += 1) index = neighbour(layout, index, direction);
      return index;
    };
    const moves: Record<string, () => number> = {
      ArrowRight: () => Math.min(last, at + 1),
      ArrowLeft: () => Math.max(0, at - 1),
      ArrowDown: () => (at < 0 ? 0 : neighbour(layout, at, 1)),
      ArrowUp: () => (at < 0 ? 0 : neighbour(layout, at, -1)),
      Home: () => 0,
      End: () => last,
      PageDown: () => far(1),
      PageUp: () => far(-1),
    };
    const move = moves[event.key];
    if (!move || event.altKey) {
      onkeys?.(event);
      return;
    }
    event.preventDefault();
    const next = move();
    const before = focus;
    focus = next;
    show(next);
    onmove?.(before, next, event);
  }
</script>

<div
  bind:this={scroller}
  bind:clientWidth={width}
  bind:clientHeight={height}
  class="scroller"
  onscroll={() => (top = scroller!.scrollTop)}
>
  <div class="plane" style="height:{layout.height + 60}px">
    {#each headings as mark (mark.group)}
      <div class="heading" style="top:{mark.top}px">{@render heading(mark.group)}</div>
    {/each}
    <div
      bind:this={list}
      class="list"
      class:marked={focus >= 0}
      role="listbox"
      aria-label={label}
      aria-multiselectable={multi}
      aria-activedescendant={focus >= 0 ? tileId(focus) : undefined}
      tabindex="0"
      onkeydown={keys}
    >
      {#each rows as row (row.from)}
        {#each indexes(row) as index (index)}
          <div
            class="place"
            style="top:{row.top}px;left:{layout.left[index]}px;width:{layout.width[
              index
            ]}px;height:{row.height + LABEL}px"
            role="presentation"
          >
            {@render tile(index, layout.width[index]!, row.height)}
          </div>
        {/each}
      {/each}
    </div>
  </div>
</div>

<style>
  .scroller {
    position: relative;
    height: 100%;
    overflow-y: scroll;
    padding: 4px 13px 0;
    background: var(--well);
    overscroll-behavior: contain;
  }
  .list {
    position: absolute;
    inset: 0;
  }
  /* The marked tile shows where the keyboard is. */
  .list.marked {
    outline: none;
  }
  .plane {
    position: relative;
  }
  .place {
    position: absolute;
  }
  .heading {
    z-index: 1;
    position: absolute;
    left: 0;
    right: 0;
    height: 34px;
    display: flex;
    align-items: baseline;
    gap: 10px;
    padding: 9px 2px 0;
    white-space: nowrap;
    overflow: hidden;
  }
</style>
