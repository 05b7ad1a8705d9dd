<script lang="ts">
  import { brushX, scaleLinear, select, type D3BrushEvent } from 'd3';
  import { formatCount } from '#core/text/quantities';

  interface Bar {
    label: string;
    count: number;
  }
  interface Props {
    bars: Bar[];
    label: string;
    height?: number;
    /** First and last bar that are chosen. */
    chosen?: [number, number] | null;
    /** Labels under the chart: index of the bar, and text. */
    ticks?: { at: number; text: string }[];
    brushes?: boolean;
    onchoose: (from: number, to: number) => void;
  }
  const {
    bars,
    label,
    height = 110,
    chosen = null,
    ticks = [],
    brushes = false,
    onchoose,
  }: Props = $props();
  let width = $state(800);
  let over = $state<SVGGElement>();
  let at = $state(-1);
  const step = $derived(width / Math.max(1, bars.length));
  const y = $derived(
    scaleLinear([0, Math.max(1, ...bars.map(({ count }) => count))], [0, height - 4]),
  );
  const says = $derived.by(() => {
    const bar = bars[at];
    return bar ? `${bar.label}: ${formatCount(bar.count)}` : '';
  });
  const heightOf = (count: number): number => (count > 0 ? Math.max(1.5, y(count)) : 0);
  const isChosen = (index: number): boolean =>
    chosen !== null && index >= chosen[0] && index <= chosen[1];
  const barAt = (x: number): number => Math.max(0, Math.min(bars.length - 1, Math.floor(x / step)));

  $effect(() => {
    if (!over || !brushes || bars.length === 0) return;
    const [widthNow, stepNow, chosenNow] = [width, step, chosen];
    const brush = brushX<unknown>()
      .extent([
        [0, 0],
        [widthNow, height],
      ])
      .on('end', (event: D3BrushEvent<unknown>) => {
        if (!event.sourceEvent) return;
        if (event.selection) {
          const [left, right] = event.selection as [number, number];
          onchoose(barAt(left + 1), barAt(right - 1));
        }
      });
    const group = select<SVGGElement, unknown>(over);
    group.call(brush);
    group.call(
      brush.move,
      chosenNow ? [chosenNow[0] * stepNow, (chosenNow[1] + 1) * stepNow] : null,
    );
  });

  function keys(event: KeyboardEvent): void {
    if (event.key === 'ArrowRight') at = Math.min(bars.length - 1, at + 1);
    else if (event.key === 'ArrowLeft') at = Math.max(0, at - 1);
    else if (event.key === 'Home') at = 0;
    else if (event.key === 'End') at = bars.length - 1;
    else if (event.key === 'Enter' && at >= 0) onchoose(at, at);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div
  class="bars"
  bind:clientWidth={width}
  role="slider"
  aria-label={label}
  aria-valuemin={0}
  aria-valuemax={Math.max(0, bars.length - 1)}
  aria-valuenow={Math.max(0, at)}
  aria-valuetext={says || label}
  tabindex="0"
  onkeydown={keys}
>
  <svg {width} height={height + (ticks.length ? 18 : 0)} aria-hidden="true">
    {#each bars as bar, index (index)}
      <rect
        class="bar"
        class:chosen={isChosen(index)}
        class:at={index === at}
        x={index * step}
        width={Math.max(1, step - 1)}
        y={height - heightOf(bar.count)}
        height={heightOf(bar.count)}
      />
    {/each}
    <line x1="0" x2={width} y1={height - 0.5} y2={height - 0.5} />
    {#each ticks as tick (tick.at)}
      <line x1={tick.at * step + 0.5} x2={tick.at * step + 0.5} y1={height} y2={height + 5} />
      <text x={tick.at * step + 4} y={height + 14}>{tick.text}</text>
    {/each}
    {#if brushes}<g bind:this={over}></g>{/if}
    <!-- A press without a drag chooses the bar under it; what the pointer is over is told. -->
    {#each bars as bar, index (index)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <rect
        class="hit"
        class:through={brushes}
        x={index * step}
        width={step}
        y={brushes ? height - Math.max(8, heightOf(bar.count)) : 0}
        height={brushes ? Math.max(8, heightOf(bar.count)) : height}
        onclick={() => onchoose(index, index)}
        onpointerenter={() => (at = index)}
        ><title>{bar.label}: {formatCount(bar.count)}</title></rect
      >
    {/each}
  </svg>
  {#if says}<p class="mono says">{says}</p>{/if}
</div>

<style>
  .bars {
    position: relative;
    width: 100%;
  }
  svg {
    display: block;
  }
  .bar {
    fill: color-mix(in srgb, var(--verdigris) 42%, var(--card));
  }
  .bar.chosen,
  .bar.at {
    fill: var(--verdigris);
  }
  .hit {
    fill: transparent;
    cursor: pointer;
  }
  line {
    stroke: var(--ink);
  }
  text {
    fill: var(--pencil);
    font: 11px var(--mono);
  }
  .says {
    position: absolute;
    right: 0;
    top: -20px;
    color: var(--pencil);
  }
  .bars :global(.selection) {
    fill: var(--verdigris);
    fill-opacity: 0.12;
    stroke: var(--verdigris);
  }
</style>
