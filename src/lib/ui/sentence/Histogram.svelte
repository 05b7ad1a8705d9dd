<script lang="ts">
  import { brushX, scaleLinear, select, type D3BrushEvent } from 'd3';

  interface Props {
    counts: number[];
    /** Value of the left and of the right edge. */
    from: number;
    to: number;
    chosen?: [number, number] | null;
    label: string;
    height?: number;
    onbrush: (from: number, to: number) => void;
  }
  const { counts, from, to, chosen = null, label, height = 72, onbrush }: Props = $props();
  let width = $state(300);
  let over = $state<SVGGElement>();
  const x = $derived(scaleLinear([from, to === from ? from + 1 : to], [0, width]));
  const y = $derived(scaleLinear([0, Math.max(1, ...counts)], [0, height - 2]));
  const step = $derived(width / counts.length);

  $effect(() => {
    if (!over) return;
    const brush = brushX<unknown>()
      .extent([
        [0, 0],
        [width, height],
      ])
      .on('end', (event: D3BrushEvent<unknown>) => {
        if (!event.sourceEvent || !event.selection) return;
        const [left, right] = event.selection as [number, number];
        onbrush(x.invert(left), x.invert(right));
      });
    const group = select<SVGGElement, unknown>(over);
    group.call(brush);
    if (chosen) group.call(brush.move, [x(Math.max(from, chosen[0])), x(Math.min(to, chosen[1]))]);
  });
</script>

<div class="histogram" bind:clientWidth={width}>
  <svg {width} {height} role="img" aria-label={label}>
    {#each counts as count, at (at)}
      <rect
        x={at * step}
        width={Math.max(1, step - 1)}
        y={height - (count > 0 ? Math.max(1, y(count)) : 0)}
        height={count > 0 ? Math.max(1, y(count)) : 0}
      />
    {/each}
    <line x1="0" x2={width} y1={height - 0.5} y2={height - 0.5} />
    <g bind:this={over}></g>
  </svg>
</div>

<style>
  .histogram {
    width: 100%;
  }
  svg {
    display: block;
  }
  rect {
    fill: #9cb8b1;
  }
  line {
    stroke: var(--ink);
  }
  .histogram :global(.selection) {
    fill: var(--verdigris);
    fill-opacity: 0.25;
    stroke: var(--verdigris);
  }
</style>
