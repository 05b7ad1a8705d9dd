<script lang="ts">
  import { untrack } from 'svelte';
  import type { Film } from '#core/footage/film';
  import {
    frameWords,
    lanesOf,
    moved,
    trimmed,
    type Counting,
    type Stretch,
  } from '#core/footage/span';
  import { MARK_SIGNS } from '#core/footage/marks';
  import { frameAt } from '#core/footage/frames';
  import {
    panned,
    rulerStep,
    showing,
    snapped,
    whole,
    zoomed,
    type View,
  } from '#core/footage/view';
  import type { ShownSpan } from '#core/wire/spans';
  import { drawWave, peaksOf, penOf } from '../film/wave';

  /** The clip over its length: ruler, frames, sound, spans and markers in lanes; zoomed to the single frame, and panned. */
  interface Props {
    id: string;
    film: Film | null;
    times: Float64Array | null;
    count: number;
    frame: number;
    counting: Counting;
    spans: readonly ShownSpan[];
    /** Spans that could be kept. */
    proposed: readonly Stretch[];
    /** Part of the length at which a frame is shown, 0 … 1. */
    partAt: (frame: number) => number;
    selected: string | null;
    /** Frames set as in and out. */
    setIn: number | null;
    setOut: number | null;
    mayChange: boolean;
    onseek: (frame: number) => void;
    onselect: (id: string) => void;
    onchange: (id: string, stretch: Stretch) => void;
  }
  const props: Props = $props();
  const { id, film, times, count, frame, counting, spans, selected, mayChange, partAt } =
    $derived(props);

  const STRIP = 40;
  const WAVE = 44;
  const LANE = 24;
  const REACH_PX = 7;
  const MOST_LANES = 8;
  let view = $state.raw<View>(whole(1));
  let wide = $state(0);
  let canvas = $state<HTMLCanvasElement>();
  let samples = $state.raw<Int8Array | null>(null);
  /** What is being moved or trimmed, as it would be. */
  let drag = $state.raw<{
    id: string;
    part: 'all' | 'from' | 'to';
    began: number;
    was: Stretch;
    is: Stretch;
  } | null>(null);

  $effect(() => {
    view = whole(count);
  });
  // What plays stays in sight.
  $effect(() => {
    const [now, all] = [frame, count];
    untrack(() => {
      if (!drag) view = showing(view, now, all);
    });
  });
  $effect(() => {
    samples = null;
    const wished = id;
    if (!film?.peaks) return;
    void peaksOf(wished).then((found) => {
      if (wished === id) samples = found;
    });
  });

  const perFrame = $derived(wide / (view.to - view.from));
  const x = (at: number): number => (at - view.from) * perFrame;
  const step = $derived(rulerStep(view.to - view.from, counting.rate, Math.max(2, wide / 110)));
  const ticks = $derived(
    Array.from(
      { length: Math.max(0, Math.floor(view.to / step) - Math.ceil(view.from / step) + 1) },
      (_, at) => (Math.ceil(view.from / step) + at) * step,
    ).filter((one) => one < count),
  );
  const shown = $derived(spans.map((one) => (drag?.id === one.id ? { ...one, ...drag.is } : one)));
  const bars = $derived(shown.filter(({ isMarker }) => !isMarker));
  const markers = $derived(shown.filter(({ isMarker }) => isMarker));
  const lanes = $derived(lanesOf(bars));
  const laneCount = $derived(Math.min(MOST_LANES, Math.max(1, ...lanes.map((one) => one + 1))));
  const scenes = $derived(
    (film?.scenes ?? []).map((at) => (times ? frameAt(times, at) : at * counting.rate)),
  );
  /** What one snaps to: cuts, markers, ends of spans, and where one is. */
  const edges = $derived([
    ...scenes,
    frame,
    ...spans.flatMap(({ id: own, from, to, isMarker }) =>
      own === drag?.id ? [] : isMarker ? [from] : [from, to],
    ),
  ]);
  const cells = $derived.by(() => {
    const strip = film?.strip;
    if (!strip || wide === 0) return [];
    const width = (STRIP * strip.width) / strip.height;
    return Array.from({ length: Math.ceil(wide / width) }, (_, at) => {
      const middle = view.from + ((at + 0.5) * width) / perFrame;
      const picture = Math.min(strip.count - 1, Math.floor(partAt(middle) * strip.count));
      return {
        left: at * width,
        width,
        column: picture % strip.columns,
        row: Math.floor(picture / strip.columns),
      };
    });
  });

  $effect(() => {
    const pen = penOf(canvas, wide, WAVE);
    if (!pen) return;
    const from = view.from;
    drawWave(pen, samples, { wide, height: WAVE, colour: '--pencil' }, (px) =>
      partAt(from + px / perFrame),
    );
    pen.fillStyle = getComputedStyle(pen.canvas).getPropertyValue('--slate');
    for (const scene of scenes) pen.fillRect(x(scene), 0, 1, WAVE);
  });

  let box = $state<HTMLElement>();
  const frameUnder = (event: PointerEvent | WheelEvent): number =>
    view.from + (event.clientX - box!.getBoundingClientRect().left) / perFrame;

  export function zoom(factor: number, at = frame): void {
    view = zoomed(view, at, factor, count);
  }
  function wheel(event: WheelEvent): void {
    event.preventDefault();
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY))
      view = panned(view, (event.deltaX || event.deltaY) / Math.max(1, wide), count);
    else zoom(event.deltaY < 0 ? 1.25 : 0.8, frameUnder(event));
  }
  let seeks = false;
  const hold = (event: PointerEvent): void =>
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  function take(event: PointerEvent, span: ShownSpan, part: 'all' | 'from' | 'to'): void {
    event.stopPropagation();
    props.onselect(span.id);
    if (!mayChange) return;
    hold(event);
    const was = { from: span.from, to: span.to };
    drag = { id: span.id, part, began: frameUnder(event), was, is: was };
  }
  function pull(event: PointerEvent): void {
    if (!drag) return;
    const by = Math.round(frameUnder(event) - drag.began);
    const { was, part } = drag;
    const reach = REACH_PX / perFrame;
    if (part === 'all') {
      const from = snapped(was.from + by, edges, reach);
      drag = { ...drag, is: moved(was, Math.round(from) - was.from, count) };
    } else {
      const to = Math.round(snapped(was[part] + by, edges, reach));
      drag = { ...drag, is: trimmed(was, part, to, count) };
    }
  }
  function letGo(): void {
    if (drag && (drag.is.from !== drag.was.from || drag.is.to !== drag.was.to))
      props.onchange(drag.id, drag.is);
    drag = null;
  }
  /** Escape leaves it where it was. */
  export function giveUp(): boolean {
    const held = drag !== null;
    drag = null;
    return held;
  }
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="timeline"
  bind:this={box}
  bind:clientWidth={wide}
  onwheel={wheel}
  data-from={Math.round(view.from)}
  data-to={Math.round(view.to)}
>
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div
    class="through"
    onpointerdown={(event) => {
      seeks = true;
      hold(event);
      props.onseek(Math.floor(frameUnder(event)));
    }}
    onpointermove={(event) => seeks && props.onseek(Math.floor(frameUnder(event)))}
    onpointerup={() => (seeks = false)}
  >
    <div class="ruler mono">
      {#each ticks as tick (tick)}<span style:left="{x(tick)}px">{frameWords(counting, tick)}</span
        >{/each}
    </div>
    {#if film?.strip}
      {@const rows = Math.ceil(film.strip.count / film.strip.columns)}
      {@const { columns } = film.strip}
      <div class="strip" style:height="{STRIP}px">
        {#each cells as { left, width, column, row } (left)}
          <i
            style:left="{left}px"
            style:width="{width - 1}px"
            style:background-image="url(/api/items/{id}/strip)"
            style:background-size="{columns * 100}% {rows * 100}%"
            style:background-position="{columns > 1 ? (column / (columns - 1)) * 100 : 0}% {rows > 1
              ? (row / (rows - 1)) * 100
              : 0}%"
          ></i>
        {/each}
      </div>
    {/if}
    <canvas bind:this={canvas} style:width="{wide}px" style:height="{WAVE}px"></canvas>
  </div>
  {#if props.setIn !== null || props.setOut !== null}
    {@const from = props.setIn ?? frame}
    {@const to = (props.setOut ?? frame) + 1}
    <div
      class="set"
      style:left="{x(Math.min(from, to - 1))}px"
      style:width="{Math.max(2, Math.abs(to - from) * perFrame)}px"
    ></div>
  {/if}
  <div class="lanes" style:height="{(laneCount + 1) * LANE}px">
    {#each props.proposed as { from, to } (from)}
      <div
        class="proposed"
        style:left="{x(from)}px"
        style:width="{Math.max(3, (to - from) * perFrame)}px"
      ></div>
    {/each}
    {#each markers as marker (marker.id)}
      <button
        type="button"
        class="marker"
        class:selected={marker.id === selected}
        style:left="{x(marker.from)}px"
        style:--sign="var(--{marker.mark ? MARK_SIGNS[marker.mark].colour : 'slate'})"
        title={marker.title || 'Marker'}
        aria-label="Marker {marker.title}"
        tabindex="-1"
        onpointerdown={(event) => take(event, marker, 'all')}
        onpointermove={pull}
        onpointerup={letGo}
      ></button>
    {/each}
    {#each bars as span, at (span.id)}
      <div
        class="bar"
        class:selected={span.id === selected}
        data-span={span.number}
        style:left="{x(span.from)}px"
        style:width="{Math.max(3, (span.to - span.from) * perFrame)}px"
        style:top="{LANE * (1 + (lanes[at]! % MOST_LANES))}px"
        style:--sign="var(--{span.mark ? MARK_SIGNS[span.mark].colour : 'slate'})"
        onpointerdown={(event) => take(event, span, 'all')}
        onpointermove={pull}
        onpointerup={letGo}
      >
        <i
          onpointerdown={(event) => take(event, span, 'from')}
          onpointermove={pull}
          onpointerup={letGo}
        ></i>
        <span style:padding-left="{Math.max(2, 2 - x(span.from))}px">{span.title || 'no name'}</span
        >
        <i
          onpointerdown={(event) => take(event, span, 'to')}
          onpointermove={pull}
          onpointerup={letGo}
        ></i>
      </div>
    {/each}
  </div>
  <div class="here" style:left="{x(frame + 0.5)}px"></div>
</div>

<style>
  .proposed {
    position: absolute;
    top: 0;
    height: 5px;
    border: 1px dashed var(--verdigris);
    border-radius: 2px;
    background: var(--wash);
    pointer-events: none;
  }
  .timeline {
    position: relative;
    overflow: hidden;
    background: var(--card);
    border: 1px solid var(--rule);
    border-radius: 4px;
    touch-action: none;
    user-select: none;
  }
  .through {
    cursor: pointer;
  }
  .ruler {
    position: relative;
    height: 22px;
  }
  .ruler span {
    position: absolute;
    top: 2px;
    padding-left: 4px;
    border-left: 1px solid var(--rule);
    color: var(--pencil);
    white-space: nowrap;
    font-size: 11px;
  }
  .strip {
    position: relative;
  }
  .strip i {
    position: absolute;
    top: 0;
    bottom: 0;
  }
  canvas {
    display: block;
  }
  .lanes {
    position: relative;
  }
  .bar {
    position: absolute;
    display: flex;
    height: 20px;
    align-items: stretch;
    overflow: hidden;
    background: var(--sign);
    border-radius: 3px;
    color: var(--card);
    font-size: 12px;
    cursor: grab;
  }
  .bar span {
    flex: 1;
    min-width: 0;
    padding: 1px 2px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .bar i {
    flex: 0 0 5px;
    cursor: ew-resize;
  }
  .selected {
    outline: 2px solid var(--ink);
    outline-offset: 1px;
  }
  .marker {
    position: absolute;
    top: 5px;
    width: 12px;
    height: 12px;
    margin-left: -6px;
    padding: 0;
    transform: rotate(45deg);
    background: var(--sign);
    border: 0;
  }
  .set {
    position: absolute;
    top: 22px;
    bottom: 0;
    background: var(--verdigris);
    opacity: 0.18;
    pointer-events: none;
  }
  .here {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 2px;
    margin-left: -1px;
    background: var(--ink);
    pointer-events: none;
  }
</style>
