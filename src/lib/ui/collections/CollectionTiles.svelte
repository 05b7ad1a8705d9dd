<script lang="ts">
  import {
    draggable,
    dropTargetForElements,
  } from '@atlaskit/pragmatic-drag-and-drop/element/adapter';
  import type { Tile } from '#core/catalogue/tile';
  import { formatDuration } from '#core/text/quantities';

  interface Props {
    tiles: Tile[];
    editable: boolean;
    /** Put items before another one; null: at the end. */
    onmove: (ids: string[], before: string | null) => void;
    onremove: (ids: string[]) => void;
    onopen: (tile: Tile) => void;
  }
  const { tiles, editable, onmove, onremove, onopen }: Props = $props();
  let over = $state<string | null>(null);
  let list = $state<HTMLElement>();

  function drag(node: HTMLElement, id: string) {
    if (!editable) return {};
    const stops = [
      draggable({ element: node, getInitialData: () => ({ id }) }),
      dropTargetForElements({
        element: node,
        onDragEnter: () => (over = id),
        onDragLeave: () => (over = null),
        onDrop: ({ source }) => {
          over = null;
          const moved = String(source.data['id']);
          if (moved !== id) onmove([moved], id);
        },
      }),
    ];
    return { destroy: () => stops.forEach((stop) => stop()) };
  }

  function keys(event: KeyboardEvent, index: number): void {
    const tile = tiles[index]!;
    const go = (to: number): void => list?.querySelectorAll<HTMLElement>('li')[to]?.focus();
    if (event.key === 'Enter') onopen(tile);
    else if (event.key === 'Delete' && editable) onremove([tile.id]);
    else if (event.altKey && event.key === 'ArrowLeft' && editable && index > 0)
      onmove([tile.id], tiles[index - 1]!.id);
    else if (event.altKey && event.key === 'ArrowRight' && editable && index < tiles.length - 1)
      onmove([tile.id], tiles[index + 2]?.id ?? null);
    else if (event.key === 'ArrowRight') go(index + 1);
    else if (event.key === 'ArrowLeft') go(index - 1);
    else return;
    event.preventDefault();
  }
</script>

<ul bind:this={list}>
  {#each tiles as tile, index (tile.id)}
    <!-- Each place in the order is one stop of the keyboard. -->
    <!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
    <li
      use:drag={tile.id}
      class:over={over === tile.id}
      tabindex="0"
      aria-label="{index + 1}: {tile.title || tile.name}"
      onkeydown={(event) => keys(event, index)}
      ondblclick={() => onopen(tile)}
    >
      <div class="picture">
        {#if tile.pictureState === 'ready'}<img
            src="/api/pictures/{tile.picture}/small"
            alt=""
            loading="lazy"
            draggable="false"
          />{:else}<p>{tile.noPicture ?? 'on its way'}</p>{/if}
        {#if tile.duration}<span class="badge">{formatDuration(tile.duration)}</span>{/if}
      </div>
      <p class="strip">
        <span class="mono pencil">{index + 1}</span>
        <span class="title">{tile.title || tile.name}</span>
        {#if editable}<button
            type="button"
            aria-label="Take {tile.name} out"
            onclick={() => onremove([tile.id])}>×</button
          >{/if}
      </p>
    </li>
  {/each}
</ul>

<style>
  ul {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
    gap: 12px;
    margin-top: 12px;
  }
  li {
    border: 1px solid var(--rule);
    background: var(--card);
    cursor: grab;
  }
  li.over {
    box-shadow: -3px 0 0 var(--verdigris);
  }
  .picture {
    position: relative;
    aspect-ratio: 3 / 2;
    background: var(--well);
    overflow: hidden;
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: contain;
  }
  .picture p {
    display: grid;
    place-content: center;
    height: 100%;
    padding: 8px;
    color: var(--pencil);
    font-size: 11.5px;
    text-align: center;
  }
  .badge {
    position: absolute;
    top: 5px;
    right: 5px;
    padding: 0 5px;
    background: rgb(29 35 32 / 0.86);
    color: #fdfcf9;
    font: 11.5px var(--mono);
  }
  .strip {
    display: flex;
    gap: 8px;
    align-items: baseline;
    padding: 5px 8px;
  }
  .title {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  button {
    border: 0;
    padding: 0 3px;
    background: none;
    color: var(--pencil);
  }
  button:hover {
    color: var(--wax);
  }
</style>
