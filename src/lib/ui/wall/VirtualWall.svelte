<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import { SvelteMap } from 'svelte/reactivity';
  import { blocksOf, guessHeight, lastAtMost, layBlock, topsOf } from '#core/wall/blocks';
  import {
    neighbour,
    rowsBetween,
    tileAspect,
    type WallLayout,
    type WallRow,
  } from '#core/wall/justify';
  import { Tall } from '../common/tall.svelte';

  interface Props {
    groups: { count: number; wide?: number }[];
    /** Width ÷ height of every picture, in hundredths; or how a stretch of them is fetched. */
    aspects?: number[];
    stretch?: (from: number, count: number) => Promise<number[]>;
    /** Changes when what was fetched is true no more. */
    version?: string;
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
    groups,
    aspects,
    stretch,
    version = '',
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

  let list = $state<HTMLElement>();
  let width = $state(700);
  let height = $state(700);
  const plane: Tall = new Tall(
    () => tall,
    () => height,
  );
  const top = $derived(plane.top);

  const options = $derived({
    width: Math.max(200, width - 26),
    rowHeight,
    gap: GAP,
    heading: HEADING,
    label: LABEL,
  });
  const total = $derived(groups.reduce((sum, { count }) => sum + count, 0));
  const blocks = $derived.by(() => {
    let at = 0;
    const known = aspects;
    return blocksOf(
      groups.map(({ count, wide }) => {
        if (wide !== undefined || !known) return { count, wide: wide ?? count * 1.5 };
        let sum = 0;
        for (const end = at + count; at < end; at += 1) sum += tileAspect((known[at] ?? 150) / 100);
        return { count, wide: sum };
      }),
    );
  });
  /** Proportions as far as they were fetched, by block; older ones serve until newer are there. */
  const fetched = new SvelteMap<string, number[]>();
  const nameOf = (at: number): string => `${blocks[at]!.from}:${blocks[at]!.count}`;
  let asked: Record<string, boolean> = {};
  $effect(() => {
    void version;
    untrack(() => fetched.clear());
  });
  $effect(() => {
    const names = new Set(blocks.map((_, at) => nameOf(at)));
    untrack(() => {
      asked = {};
      for (const name of [...fetched.keys()]) if (!names.has(name)) fetched.delete(name);
    });
  });
  const aspectsOf = (at: number): number[] | undefined => {
    const { from, count } = blocks[at]!;
    return aspects ? aspects.slice(from, from + count) : fetched.get(nameOf(at));
  };
  /** Rows of blocks once they were seen; anew when the wall's width or the pictures' size changes. */
  const layouts = $derived.by(() => {
    void options;
    void blocks;
    // Filled as rows are looked at: nobody waits for it to change.

    return new Map<number, { made: WallLayout; of: number[] | undefined }>();
  });
  function layoutOf(at: number): WallLayout | null {
    const own = aspectsOf(at);
    if (!own) return null;
    const known = layouts.get(at);
    if (known && (aspects || known.of === own)) return known.made;
    const made = layBlock(
      blocks[at]!,
      own.map((aspect) => aspect / 100),
      options,
    );
    layouts.set(at, { made, of: own });
    return made;
  }
  const tops = $derived.by(() => {
    void fetched.size;
    return topsOf(blocks.map((block, at) => layoutOf(at)?.height ?? guessHeight(block, options)));
  });
  const tall = $derived(tops[blocks.length]! + 60);
  const firstSeen = $derived(Math.max(0, lastAtMost(tops, top - AHEAD, blocks.length)));
  const seen = $derived.by(() => {
    const found: number[] = [];
    for (let at = firstSeen; at < blocks.length && tops[at]! < top + height + AHEAD; at += 1)
      found.push(at);
    return found;
  });

  interface Placed {
    row: WallRow;
    layout: WallLayout;
    /** Index of the block's first item, and px from the top of the page. */
    base: number;
    y: number;
  }
  const rows = $derived.by((): Placed[] =>
    seen.flatMap((at) => {
      const layout = layoutOf(at);
      if (!layout) return [];
      const above = tops[at]!;
      const [from, to] = rowsBetween(
        layout.rows,
        top - AHEAD - above,
        top + height + AHEAD - above,
        LABEL,
      );
      return layout.rows.slice(from, to).map((row) => ({
        row,
        layout,
        base: blocks[at]!.from,
        y: above + row.top - top + plane.scroll,
      }));
    }),
  );
  const headings = $derived(
    seen
      .filter((at) => blocks[at]!.isFirst)
      .map((at) => ({ group: blocks[at]!.group, y: tops[at]! - top + plane.scroll })),
  );

  $effect(() => {
    for (const at of seen) untrack(() => void want(at));
  });
  $effect(() => {
    const [first, last] = [rows[0], rows.at(-1)];
    if (first && last) onvisible?.(first.base + first.row.from, last.base + last.row.to);
  });

  /** Fetch a block's proportions; what is seen stays where it is when those above turn out taller or lower. */
  async function want(at: number): Promise<void> {
    const block = blocks[at];
    if (!stretch || !block) return;
    const name = nameOf(at);
    if (asked[name]) return;
    asked[name] = true;
    const whose = asked;
    try {
      const found = await stretch(block.from, block.count);
      if (whose !== asked) return;
      const anchor = firstSeen;
      const before = top - tops[anchor]!;
      fetched.set(name, found);
      if (at < anchor) plane.go(tops[anchor]! + before);
    } catch {
      whose[name] = false;
    }
  }

  const indexes = ({ row }: Placed): number[] =>
    Array.from({ length: row.to - row.from }, (_, step) => row.from + step);

  const blockOf = (index: number): number => {
    let low = 0;
    let high = blocks.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (blocks[middle]!.from <= index) low = middle;
      else high = middle - 1;
    }
    return low;
  };

  /** Bring a tile into sight. */
  export function show(index: number): void {
    if (index < 0 || index >= total) return;
    const at = blockOf(index);
    const layout = layoutOf(at);
    if (!layout) {
      if (top < tops[at]! || top > tops[at + 1]!) plane.go(tops[at]!);
      void want(at).then(() => layoutOf(at) && show(index));
      return;
    }
    const row = layout.rows[layout.rowOf[index - blocks[at]!.from]!]!;
    const y = tops[at]! + row.top;
    if (y - HEADING < top) plane.go(y - HEADING);
    else if (y + row.height + LABEL > top + height) plane.go(y + row.height + LABEL + GAP - height);
  }

  export function take(): void {
    list?.focus({ preventScroll: true });
  }

  /** The item above or below, in the next block where this one ends. */
  function beside(index: number, direction: 1 | -1): number {
    const at = blockOf(index);
    const layout = layoutOf(at);
    const base = blocks[at]!.from;
    if (!layout) return Math.max(0, Math.min(total - 1, index + direction));
    const next = neighbour(layout, index - base, direction);
    if (next !== index - base) return base + next;
    const other = layoutOf(Math.max(0, Math.min(blocks.length - 1, at + direction)));
    if (!other || at + direction < 0 || at + direction >= blocks.length) return index;
    const row = direction > 0 ? other.rows[0]! : other.rows.at(-1)!;
    const middle = layout.left[index - base]! + layout.width[index - base]! / 2;
    let best = row.from;
    for (let one = row.from; one < row.to; one += 1) {
      const distance = (i: number): number =>
        Math.abs(other.left[i]! + other.width[i]! / 2 - middle);
      if (distance(one) < distance(best)) best = one;
    }
    return blocks[at + direction]!.from + best;
  }

  function keys(event: KeyboardEvent): void {
    const last = total - 1;
    if (last < 0) return;
    const at = focus < 0 ? -1 : focus;
    const pageRows = Math.max(1, Math.floor(height / (rowHeight + LABEL + GAP)));
    const far = (direction: 1 | -1): number => {
      let index = Math.max(0, at);
      for (let step = 0; step < pageRows; step += 1) index = beside(index, direction);
      return index;
    };
    const moves: Record<string, () => number> = {
      ArrowRight: () => Math.min(last, at + 1),
      ArrowLeft: () => Math.max(0, at - 1),
      ArrowDown: () => (at < 0 ? 0 : beside(at, 1)),
      ArrowUp: () => (at < 0 ? 0 : beside(at, -1)),
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

<div use:plane.scroller bind:clientWidth={width} bind:clientHeight={height} class="scroller">
  <div class="plane" style="height:{plane.page.page}px">
    {#each headings as mark (mark.group)}
      <div class="heading" style="top:{mark.y}px">{@render heading(mark.group)}</div>
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
      {#each rows as placed (placed.base + placed.row.from)}
        {#each indexes(placed) as at (placed.base + at)}
          <div
            class="place"
            style="top:{placed.y}px;left:{placed.layout.left[at]}px;width:{placed.layout.width[
              at
            ]}px;height:{placed.row.height + LABEL}px"
            role="presentation"
          >
            {@render tile(placed.base + at, placed.layout.width[at]!, placed.row.height)}
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
  .heading > :global(.pencil) {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
