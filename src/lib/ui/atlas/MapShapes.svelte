<script lang="ts">
  import type { GeoProjection } from 'd3';
  import { pixelsOf, type Ring } from './rings';

  /** What lies over the land: what is restricted to, what is being drawn, and kept places with their radius. */
  export interface Drawn {
    kind: 'box' | 'circle';
    x: number;
    y: number;
    toX: number;
    toY: number;
  }
  interface Props {
    projection: GeoProjection;
    width: number;
    height: number;
    drawn: Drawn | null;
    /** South, west, north, east; or latitude, longitude, km. */
    restricted: { kind: 'box' | 'circle'; numbers: number[] } | null;
    rings: readonly Ring[];
    /** The middle is aimed at. */
    aims: boolean;
  }
  const { projection, width, height, drawn, restricted, rings, aims }: Props = $props();

  const shape = $derived.by(() => {
    if (!restricted) return null;
    if (restricted.kind === 'box') {
      const [south, west, north, east] = restricted.numbers as [number, number, number, number];
      const [x, y] = projection([west, north])!;
      const [toX, toY] = projection([east, south])!;
      return {
        kind: 'box' as const,
        x,
        y,
        width: Math.max(0, toX - x),
        height: Math.max(0, toY - y),
      };
    }
    const [latitude, longitude, km] = restricted.numbers as [number, number, number];
    const [x, y] = projection([longitude, latitude])!;
    return { kind: 'circle' as const, x, y, r: pixelsOf(projection, latitude, longitude, km) };
  });
</script>

<svg {width} {height} aria-hidden="true">
  {#each rings as { x, y, r, name } (name)}
    <circle class="spot" cx={x} cy={y} {r} />
  {/each}
  {#if shape?.kind === 'box'}<rect
      class="restricted"
      x={shape.x}
      y={shape.y}
      width={shape.width}
      height={shape.height}
    />
  {:else if shape}<circle class="restricted" cx={shape.x} cy={shape.y} r={shape.r} />{/if}
  {#if drawn?.kind === 'box'}<rect
      class="drawn"
      x={Math.min(drawn.x, drawn.toX)}
      y={Math.min(drawn.y, drawn.toY)}
      width={Math.abs(drawn.toX - drawn.x)}
      height={Math.abs(drawn.toY - drawn.y)}
    />
  {:else if drawn}<circle
      class="drawn"
      cx={drawn.x}
      cy={drawn.y}
      r={Math.hypot(drawn.toX - drawn.x, drawn.toY - drawn.y)}
    />{/if}
  {#if aims}<path
      class="aim"
      d="M{width / 2 - 12} {height / 2}h24M{width / 2} {height / 2 - 12}v24"
    />{/if}
</svg>

<style>
  svg {
    position: absolute;
    left: 0;
    top: 0;
    pointer-events: none;
  }
  .restricted,
  .drawn {
    fill: var(--verdigris);
    fill-opacity: 0.12;
    stroke: var(--verdigris);
    stroke-width: 1.5;
  }
  .drawn {
    stroke-dasharray: 4 3;
  }
  .spot {
    fill: var(--ochre);
    fill-opacity: 0.12;
    stroke: var(--ochre);
    stroke-width: 1.2;
  }
  .aim {
    stroke: var(--ink);
    stroke-width: 1.5;
  }
</style>
