<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import type { Tile } from '#core/catalogue/tile';
  import { formatBytes, formatDuration } from '#core/text/quantities';
  import { beside, type Box } from '#core/wall/beside';
  import { api } from '../common/api';

  interface Shown {
    technical: { colourSpace?: string; resolution?: number; frameRate?: number };
    record: { creditLine?: string; usageTerms?: string };
  }
  interface Strip {
    count: number;
    columns: number;
    width: number;
    height: number;
  }
  interface Props {
    tile: Tile;
    /** Id of the element it belongs to and must not cover. */
    of: string;
    onclose: () => void;
  }
  const { tile, of, onclose }: Props = $props();
  let shown = $state<Shown>();
  /** Frames of a clip, gone through by the pointer. */
  let strip = $state<Strip | null>(null);
  let frame = $state<number | null>(null);
  let box = $state<Box>();
  let peek = $state<HTMLElement>();
  /** px of frame and words around the picture */
  const FRAME = 60;

  function place(): void {
    const whole = peek?.parentElement?.getBoundingClientRect();
    const own = document.getElementById(of)?.getBoundingClientRect();
    if (!whole || !own) return void (box = undefined);
    const { width, height } = own;
    const within = { left: own.left - whole.left, top: own.top - whole.top, width, height };
    const aspect = tile.width && tile.height ? tile.width / tile.height : 1.5;
    box = beside(within, whole, aspect, FRAME);
  }
  $effect(() => {
    void [tile.id, of, peek];
    // The wall may just be scrolling what is peeked at into sight.
    const soon = requestAnimationFrame(place);
    return () => cancelAnimationFrame(soon);
  });

  $effect(() => {
    const { id } = tile;
    void api.get(`/api/items/${id}`).then((found) => {
      if (tile.id === id) shown = found;
    });
    strip = null;
    frame = null;
    if (tile.kind === 'footage')
      void api
        .get(`/api/items/${id}/film`)
        .then((film) => {
          if (tile.id === id) strip = film?.strip ?? null;
        })
        .catch(() => undefined);
  });
  function scrub(event: PointerEvent): void {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const part = (event.clientX - box.left) / Math.max(1, box.width);
    if (strip) frame = Math.min(strip.count - 1, Math.max(0, Math.floor(part * strip.count)));
  }
  const facts = $derived(
    [
      tile.width && tile.height ? `${tile.width} × ${tile.height} px` : null,
      shown?.technical.resolution ? `${shown.technical.resolution} px/in` : null,
      formatBytes(tile.size),
      shown?.technical.colourSpace ?? null,
      tile.duration ? formatDuration(tile.duration) : null,
      shown?.technical.frameRate ? `${shown.technical.frameRate} fps` : null,
      formatName(tile.format),
      shown && (shown.record.creditLine ? `credit ${shown.record.creditLine}` : 'no credit'),
      shown?.record.usageTerms || null,
    ].filter(Boolean),
  );
</script>

<svelte:window onresize={place} onscrollcapture={place} />

<div
  class="peek"
  role="dialog"
  aria-label="Peek at {tile.name}"
  bind:this={peek}
  style={box &&
    `left:${box.left}px;top:${box.top}px;width:${box.width}px;height:${box.height}px;right:auto;bottom:auto`}
>
  <button
    class="picture"
    type="button"
    onclick={onclose}
    aria-label="Close the peek"
    onpointermove={scrub}
    onpointerleave={() => (frame = null)}
  >
    {#if strip && frame !== null}
      {@const rows = Math.ceil(strip.count / strip.columns)}
      <span
        class="frame"
        data-frame={frame}
        style:aspect-ratio="{strip.width} / {strip.height}"
        style:background-image="url(/api/items/{tile.id}/strip)"
        style:background-size="{strip.columns * 100}% {rows * 100}%"
        style:background-position="{strip.columns > 1
          ? ((frame % strip.columns) / (strip.columns - 1)) * 100
          : 0}% {rows > 1 ? (Math.floor(frame / strip.columns) / (rows - 1)) * 100 : 0}%"
      ></span>
    {/if}
    {#if tile.pictureState === 'ready'}<img
        src="/api/pictures/{tile.picture}/large"
        alt={tile.title || tile.name}
      />
    {:else}<span>{tile.noPicture ?? 'The picture is on its way.'}</span>{/if}
  </button>
  <p><strong class="mono">{tile.name}</strong> <span class="pencil">{facts.join(' · ')}</span></p>
</div>

<style>
  .peek {
    position: absolute;
    inset: 20px;
    z-index: 20;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    border: 1px solid var(--ink);
    border-radius: 4px;
    background: var(--card);
    box-shadow: var(--shadow);
  }
  .frame {
    position: absolute;
    inset: 12px 12px auto;
    max-height: calc(100% - 60px);
    margin: auto;
  }
  .picture {
    position: relative;
    border: 0;
    padding: 12px;
    background: var(--well);
    min-height: 0;
    cursor: zoom-out;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  p {
    padding: 8px 14px;
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
    align-items: baseline;
    overflow-wrap: anywhere;
  }
</style>
