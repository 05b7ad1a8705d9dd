<script lang="ts">
  import {
    geoMercator,
    geoPath,
    select,
    zoom,
    zoomIdentity,
    type D3ZoomEvent,
    type ZoomBehavior,
  } from 'd3';
  import type { Topology, GeometryCollection } from 'topojson-specification';
  import { feature } from 'topojson-client';
  import type { Box, Cluster } from '#core/atlas/clusters';
  import { formatQuery } from '#core/query/grammar';
  import { has, isCondition, not, replaced, type Condition, type Query } from '#core/query/tree';
  import type { SpotEntry } from '#core/lists/entries';
  import { formatPosition, kilometres, positionAt } from '#core/geo/position';
  import { counted, formatCount } from '#core/text/quantities';
  import Segments from '../common/Segments.svelte';
  import { api } from '../common/api';
  import { takes } from '../wall/carry';
  import { layLabels, scaleBar } from '#core/atlas/labels';
  import MapShapes from './MapShapes.svelte';
  import { ringsOf } from './rings';

  interface Props {
    query: Query;
    version: unknown;
    onask: (query: Query) => void;
    /** Items were dropped here, or what is chosen is put here: `54.3207, 10.1349`. */
    onput?: ((position: string, item: string | null) => void) | undefined;
    /** How many are chosen. */
    chosen?: number;
    /** A place is kept here. */
    onkeep?: ((position: string) => void) | undefined;
  }
  const { query, version, onask, onput, chosen = 0, onkeep }: Props = $props();
  let spots = $state.raw<SpotEntry[]>([]);
  $effect(() => {
    void version;
    api
      .get('/api/lists/spots')
      .then((found) => (spots = found))
      .catch(() => undefined);
  });
  let canvas = $state<HTMLCanvasElement>();
  let box = $state<HTMLElement>();
  let width = $state(900);
  let height = $state(380);
  let clusters = $state.raw<Cluster[]>([]);
  let lacking = $state(0);
  let wrong = $state('');
  /** The first look is at everything, wherever it is. */
  let hasLooked = $state(false);
  type Draws = 'look' | 'box' | 'circle' | 'put' | 'keep';
  let draws = $state<Draws>('look');
  const ways = $derived<{ value: Draws; words: string }[]>([
    { value: 'look', words: 'move' },
    { value: 'box', words: 'draw a box' },
    { value: 'circle', words: 'draw a circle' },
    ...(onput && chosen > 0
      ? [{ value: 'put' as const, words: `put ${counted(chosen, 'item')} here` }]
      : []),
    ...(onkeep ? [{ value: 'keep' as const, words: 'keep a place' }] : []),
  ]);
  $effect(() => {
    if (!ways.some(({ value }) => value === draws)) draws = 'look';
  });
  let drawn = $state<{ x: number; y: number; toX: number; toY: number } | null>(null);
  let view = $state.raw(zoomIdentity);
  type Land = ReturnType<typeof feature>;
  let land = $state.raw<Land | null>(null);
  let fine = $state.raw<Land | null>(null);

  const at = $derived(
    query.where.findIndex(
      (node) => isCondition(node) && node.field === 'position' && node.test !== 'has' && !node.not,
    ),
  );
  const whole = $derived(at >= 0 ? replaced(query, at, null) : query);
  /** The whole world at no zoom. */
  const projection = $derived(
    geoMercator()
      .scale((width / (2 * Math.PI)) * view.k)
      .translate([(width / 2) * view.k + view.x, (height / 2) * view.k + view.y]),
  );

  /** Round the equator. */
  const EARTH_M = 40_075_017;
  /** From here on coasts alone no longer tell what one looks at. */
  const NEAR = 6;
  type Atlas = Topology<{ land: GeometryCollection }>;
  const shapes = (loaded: unknown): Land => {
    const { default: world } = loaded as { default: Atlas };
    return feature(world, world.objects.land);
  };
  $effect(() => {
    void import('world-atlas/land-110m.json').then((loaded) => (land = shapes(loaded)));
  });
  $effect(() => {
    if (view.k > 6 && !fine)
      void import('world-atlas/land-50m.json').then((loaded) => (fine = shapes(loaded)));
  });

  let behaviour: ZoomBehavior<HTMLElement, unknown> | undefined;
  $effect(() => {
    if (!box) return;
    behaviour = zoom<HTMLElement, unknown>()
      .scaleExtent([1, 200_000])
      .filter((event: Event) => draws === 'look' && !(event as MouseEvent).button)
      .on('zoom', (event: D3ZoomEvent<HTMLElement, unknown>) => (view = event.transform));
    select(box).call(behaviour);
  });

  const CELL_PX = 46;
  const WORLD = { south: -90, west: -180, north: 90, east: 180 };
  const bounds = $derived.by(() => {
    if (!hasLooked) return WORLD;
    const corner = (x: number, y: number): [number, number] => projection.invert!([x, y]) ?? [0, 0];
    const [west, north] = corner(0, 0);
    const [east, south] = corner(width, height);
    const clamp = (value: number, limit: number): number =>
      Math.max(-limit, Math.min(limit, value));
    const isWorld = width * view.k <= width * 1.02;
    return {
      south: clamp(Math.min(south, north), 90),
      north: clamp(Math.max(south, north), 90),
      west: isWorld ? -180 : clamp(west, 180),
      east: isWorld ? 180 : clamp(east, 180),
    };
  });
  $effect(() => {
    void version;
    const wish = {
      q: formatQuery(whole),
      ...bounds,
      cell: Math.min(60, (CELL_PX / (width * view.k)) * 360),
    };
    const soon = setTimeout(() => {
      void ask(wish);
    }, 80);
    return () => clearTimeout(soon);
  });

  let latest: unknown;
  /** Marks at once, their names as soon as they are looked up. */
  async function ask(wish: Box & { q: string; cell: number }): Promise<void> {
    latest = wish;
    try {
      for (const named of ['no', 'yes'] as const) {
        const found = await api.get('/api/catalogue/positions', { ...wish, named });
        if (latest !== wish) return;
        ({ clusters, lacking } = found);
        wrong = '';
      }
    } catch (error) {
      wrong = (error as Error).message;
    }
  }

  /** The first look shows where there is anything. */
  $effect(() => {
    if (hasLooked || clusters.length === 0 || !box || !behaviour) return;
    hasLooked = true;
    const south = Math.min(...clusters.map((one) => one.south));
    const north = Math.max(...clusters.map((one) => one.north));
    const west = Math.min(...clusters.map((one) => one.west));
    const east = Math.max(...clusters.map((one) => one.east));
    fit(south, west, north, east);
  });
  function fit(south: number, west: number, north: number, east: number): void {
    if (!box || !behaviour) return;
    const plain = geoMercator()
      .scale(width / (2 * Math.PI))
      .translate([width / 2, height / 2]);
    const [x0, y0] = plain([west, north])!;
    const [x1, y1] = plain([east, south])!;
    const k = Math.min(60_000, 0.7 / Math.max((x1 - x0) / width, (y1 - y0) / height, 0.00002));
    const to = zoomIdentity
      .translate(width / 2 - (k * (x0 + x1)) / 2, height / 2 - (k * (y0 + y1)) / 2)
      .scale(k);
    select(box).call((one) => behaviour!.transform(one as never, to));
  }

  $effect(() => {
    const context = canvas?.getContext('2d');
    if (!context || !canvas) return;
    const scale = window.devicePixelRatio || 1;
    canvas.width = width * scale;
    canvas.height = height * scale;
    context.setTransform(scale, 0, 0, scale, 0, 0);
    const style = getComputedStyle(canvas);
    context.fillStyle = style.getPropertyValue('--well');
    context.fillRect(0, 0, width, height);
    const shape = view.k > 6 && fine ? fine : land;
    if (shape) {
      context.beginPath();
      geoPath(projection, context)(shape as never);
      context.fillStyle = style.getPropertyValue('--paper');
      context.fill();
      context.strokeStyle = style.getPropertyValue('--rule');
      context.stroke();
    }
  });

  const radius = (count: number): number => Math.min(26, 7 + Math.log2(count + 1) * 2.2);
  const marks = $derived.by(() => {
    const named: Record<string, boolean> = {};
    return clusters.flatMap((cluster) => {
      const point = projection([cluster.longitude, cluster.latitude]);
      if (!point) return [];
      // A name stands once, at its fullest mark.
      const name = cluster.place && !named[cluster.place] ? cluster.place : '';
      if (name) named[name] = true;
      return [{ cluster, name, x: point[0], y: point[1], r: radius(cluster.count) }];
    });
  });
  /** Kept places that are seen, as circles; their names and those of marks share the room that is left. */
  const rings = $derived(ringsOf(spots, projection, width, height));
  const labels = $derived(
    layLabels(
      [
        ...marks.flatMap(({ name, x, y, r }) =>
          name ? [{ text: name, kind: 'place' as const, x, y, r }] : [],
        ),
        ...rings.map(({ name, x, y, r }) => ({ text: name, kind: 'own' as const, x, y, r })),
      ],
      marks,
    ),
  );
  /** Metres of a px in the middle. */
  const metres = $derived(
    (EARTH_M * Math.cos(((bounds.south + bounds.north) / 2) * (Math.PI / 180))) / (width * view.k),
  );
  const bar = $derived(scaleBar(metres));
  const condition = $derived(query.where[at] as Condition | undefined);
  const restricted = $derived(
    condition
      ? {
          kind: condition.test === 'box' ? ('box' as const) : ('circle' as const),
          numbers: condition.values.map(Number),
        }
      : null,
  );

  const round = (value: number, digits = 5): number => Number(value.toFixed(digits));
  function pointOf({ x, y }: { x: number; y: number }): { x: number; y: number } {
    const { left, top } = box!.getBoundingClientRect();
    return { x: x - left, y: y - top };
  }
  /** What stands at a point of the map, as text. */
  function positionOf({ x, y }: { x: number; y: number }): string {
    const [longitude, latitude] = projection.invert!([x, y]) ?? [0, 0];
    const found = positionAt(latitude, ((((longitude + 180) % 360) + 360) % 360) - 180);
    return found ? formatPosition(found) : '';
  }
  function point(event: PointerEvent): { x: number; y: number } {
    return pointOf({ x: event.clientX, y: event.clientY });
  }
  /** Put what is chosen, or keep a place, where one points. */
  function place(at: { x: number; y: number }): void {
    const position = positionOf(at);
    if (position === '') return;
    if (draws === 'put') onput?.(position, null);
    else onkeep?.(position);
    draws = 'look';
  }
  function begin(event: PointerEvent): void {
    if (draws === 'look') return;
    if (draws === 'put' || draws === 'keep') return place(point(event));
    event.preventDefault();
    box!.setPointerCapture(event.pointerId);
    const { x, y } = point(event);
    drawn = { x, y, toX: x, toY: y };
  }
  function go(event: PointerEvent): void {
    if (!drawn) return;
    const { x, y } = point(event);
    drawn = { ...drawn, toX: x, toY: y };
  }
  function end(): void {
    if (!drawn) return;
    const { x, y, toX, toY } = drawn;
    drawn = null;
    if (Math.hypot(toX - x, toY - y) < 4) return;
    const invert = (px: number, py: number): [number, number] => projection.invert!([px, py])!;
    if (draws === 'box') {
      const [west, north] = invert(Math.min(x, toX), Math.min(y, toY));
      const [east, south] = invert(Math.max(x, toX), Math.max(y, toY));
      restrict('box', [round(south), round(west), round(north), round(east)]);
    } else {
      const [longitude, latitude] = invert(x, y);
      const [edgeLongitude, edgeLatitude] = invert(toX, toY);
      const km = kilometres(latitude, longitude, edgeLatitude, edgeLongitude);
      restrict('near', [
        round(latitude),
        round(longitude),
        Math.max(0.01, round(km, km < 5 ? 2 : 1)),
      ]);
    }
    draws = 'look';
  }
  const restrict = (test: 'box' | 'near', values: number[]): void =>
    onask(replaced(query, at, { field: 'position', test, values }));

  /** A mark of many splits as one comes nearer; where it cannot, it restricts. */
  function press({ cluster }: { cluster: Cluster }): void {
    const { south, west, north, east, count } = cluster;
    if (count > 1 && (north - south > 0.0002 || east - west > 0.0002))
      return fit(south, west, north, east);
    restrict('near', [round(cluster.latitude), round(cluster.longitude), 0.1]);
  }
  function closer(by: number): void {
    if (box && behaviour) select(box).call((one) => behaviour!.scaleBy(one as never, by));
  }
  function keys(event: KeyboardEvent): void {
    const pan: Record<string, [number, number]> = {
      ArrowLeft: [80, 0],
      ArrowRight: [-80, 0],
      ArrowUp: [0, 80],
      ArrowDown: [0, -80],
    };
    const step = pan[event.key];
    if (step && box && behaviour)
      select(box).call((one) =>
        behaviour!.translateBy(one as never, step[0] / view.k, step[1] / view.k),
      );
    else if (event.key === '+' || event.key === '=') closer(1.6);
    else if (event.key === '-') closer(1 / 1.6);
    else if (event.key === 'Enter' && (draws === 'put' || draws === 'keep'))
      place({ x: width / 2, y: height / 2 });
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<section class="atlas" aria-label="Atlas">
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <div
    bind:this={box}
    bind:clientWidth={width}
    bind:clientHeight={height}
    class="map"
    class:draws={draws !== 'look'}
    role="application"
    aria-label="Map; arrows move it, plus and minus come nearer and go away, Tab walks the marks, Enter puts or keeps in its middle where that is chosen"
    tabindex="0"
    onkeydown={keys}
    onpointerdown={begin}
    onpointermove={go}
    onpointerup={end}
    use:takes={onput && ((item, at) => onput(positionOf(pointOf(at)), item))}
  >
    <canvas bind:this={canvas} style="width:{width}px;height:{height}px"></canvas>
    <MapShapes
      {projection}
      {width}
      {height}
      drawn={drawn && (draws === 'box' || draws === 'circle') ? { kind: draws, ...drawn } : null}
      {restricted}
      {rings}
      aims={draws === 'put' || draws === 'keep'}
    />
    {#each marks as mark (`${mark.cluster.latitude} ${mark.cluster.longitude}`)}
      {#if mark.x > -30 && mark.x < width + 30 && mark.y > -30 && mark.y < height + 30}
        <button
          class="mark"
          type="button"
          style="left:{mark.x - mark.r}px;top:{mark.y - mark.r}px;width:{mark.r *
            2}px;height:{mark.r * 2}px"
          aria-label="{formatCount(mark.cluster.count)} {mark.cluster.place
            ? `near ${mark.cluster.place}`
            : 'here'}"
          title={mark.cluster.place ?? ''}
          onclick={() => press(mark)}
          >{mark.cluster.count > 1 ? formatCount(mark.cluster.count) : ''}</button
        >
      {/if}
    {/each}
    {#each labels as { text, kind, left, top } (`${kind} ${text}`)}
      <span class="place {kind}" style="left:{left}px;top:{top}px" aria-hidden="true">{text}</span>
    {/each}
  </div>
  <div class="tools">
    <Segments
      label="What dragging does"
      options={ways}
      value={draws}
      onchange={(way) => (draws = way)}
    />
    <div class="group">
      <button type="button" aria-label="Nearer" onclick={() => closer(2)}>+</button>
      <button type="button" aria-label="Farther" onclick={() => closer(0.5)}>−</button>
    </div>
    {#if at >= 0}<button class="word" type="button" onclick={() => onask(whole)}>everywhere</button
      >{/if}
    <button
      class="word"
      type="button"
      onclick={() => onask({ ...whole, where: [...whole.where, not(has('position'))] })}
      >{formatCount(lacking)} without a position</button
    >
  </div>
  {#if wrong}<p class="wrong says" role="alert">{wrong}</p>{/if}
  {#if view.k > NEAR}<p class="key" aria-label="What the map shows">
      <span class="land">land</span><span class="water">water</span>{#if rings.length}<span
          class="ring">own places</span
        >{/if}{#if bar}<span class="bar" style="width:{bar.px}px">{bar.words}</span>{/if}
    </p>{/if}
  <p class="credit">Land: Natural Earth. Names: GeoNames, CC BY 4.0.</p>
</section>

<style>
  .atlas {
    position: relative;
    height: 46vh;
    min-height: 260px;
    border-bottom: 1px solid var(--ink);
    overflow: hidden;
  }
  .map {
    position: absolute;
    inset: 0;
    cursor: grab;
    touch-action: none;
  }
  .map:global(.over) {
    outline: 2px solid var(--verdigris);
    outline-offset: -2px;
  }
  .map.draws {
    cursor: crosshair;
  }
  canvas {
    position: absolute;
    left: 0;
    top: 0;
  }
  .mark {
    position: absolute;
    display: grid;
    place-items: center;
    border: 1.5px solid var(--card);
    border-radius: 50%;
    padding: 0;
    background: var(--verdigris);
    color: var(--on-act);
    font: 600 11px var(--plain);
  }
  .draws .mark {
    pointer-events: none;
  }
  .place {
    position: absolute;
    pointer-events: none;
    color: var(--ink);
    font: italic 13px var(--book);
    text-shadow:
      0 0 3px var(--card),
      0 0 3px var(--card);
    white-space: nowrap;
  }
  .place.own {
    color: var(--ochre);
  }
  .key {
    position: absolute;
    left: 14px;
    bottom: 8px;
    display: flex;
    gap: 12px;
    align-items: center;
    padding: 3px 8px;
    border-radius: 3px;
    background: var(--card);
    color: var(--pencil);
    font-size: 11.5px;
    pointer-events: none;
  }
  .key span:not(.bar)::before {
    display: inline-block;
    width: 12px;
    height: 10px;
    margin-right: 5px;
    border: 1px solid var(--rule);
    background: var(--paper);
    content: '';
    vertical-align: -1px;
  }
  .key span.water::before {
    background: var(--well);
  }
  .key span.ring::before {
    width: 10px;
    border-color: var(--ochre);
    border-radius: 50%;
  }
  .key .bar {
    border: solid var(--pencil);
    border-width: 0 1px 1px;
    text-align: center;
  }
  .tools {
    position: absolute;
    left: 14px;
    top: 10px;
    display: flex;
    gap: 10px;
    align-items: center;
  }
  .group {
    display: flex;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--card);
    overflow: hidden;
  }
  .group button {
    border: 0;
    padding: 5px 10px;
    background: none;
  }
  .word {
    border: 1px solid var(--rule);
    border-radius: 4px;
    padding: 5px 10px;
    background: var(--card);
    color: var(--verdigris);
  }
  .credit {
    position: absolute;
    right: 8px;
    bottom: 4px;
    color: var(--pencil);
    font-size: 11.5px;
  }
  .says {
    position: absolute;
    left: 14px;
    bottom: 8px;
  }
</style>
