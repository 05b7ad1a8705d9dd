<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import type { Tile } from '#core/catalogue/tile';
  import { formatBytes } from '#core/text/quantities';
  import { api } from '../common/api';

  interface Shown {
    technical: { colourSpace?: string; resolution?: number };
  }
  interface Props {
    tile: Tile;
    onclose: () => void;
  }
  const { tile, onclose }: Props = $props();
  let shown = $state<Shown>();

  $effect(() => {
    const { id } = tile;
    void api.get<Shown>(`/api/items/${id}`).then((found) => {
      if (tile.id === id) shown = found;
    });
  });
  const facts = $derived(
    [
      tile.width && tile.height ? `${tile.width} × ${tile.height} px` : null,
      shown?.technical.resolution ? `${shown.technical.resolution} px/in` : null,
      formatBytes(tile.size),
      shown?.technical.colourSpace ?? null,
      formatName(tile.format),
    ].filter(Boolean),
  );
</script>

<div class="peek" role="dialog" aria-label="Peek at {tile.name}">
  <button class="picture" type="button" onclick={onclose} aria-label="Close the peek">
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
  .picture {
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
    gap: 16px;
    align-items: baseline;
  }
</style>
