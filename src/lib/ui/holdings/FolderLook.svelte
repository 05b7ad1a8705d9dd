<script lang="ts">
  import type { FolderNode, Tile, Wall } from '#core/catalogue/tile';
  import { counted, formatBytes } from '#core/text/quantities';
  import { api } from '../common/api';
  import { moment } from '../wall/dates';

  interface Props {
    /** Null for all holdings. */
    folder: FolderNode | null;
    /** Items of all holdings. */
    total: number;
    isPinned: boolean;
    canRemove: boolean;
    canManage: boolean;
    onlook: () => void;
    onpin: () => void;
    onremove: () => void;
  }
  const { folder, total, isPinned, canRemove, canManage, onlook, onpin, onremove }: Props =
    $props();
  let look = $state<{ wall: Wall; tiles: Tile[] } | null>(null);
  const id = $derived(folder?.id ?? null);

  $effect(() => {
    const asked = id;
    if (!asked) return void (look = null);
    // Who walks on by keys is not kept.
    const soon = setTimeout(() => {
      const q = `in #${asked}`;
      void Promise.all([
        api.get<Wall>('/api/catalogue/wall', { q }),
        api.get<Tile[]>('/api/catalogue/tiles', { q, limit: 6 }),
      ])
        .then(([wall, tiles]) => {
          if (asked === id) look = { wall, tiles };
        })
        .catch(() => (look = null));
    }, 120);
    return () => clearTimeout(soon);
  });
  const without = $derived(look ? look.tiles.filter(({ noPicture }) => noPicture) : []);
  const day = (text: string | null): string => moment(text).split(',')[0]!;
</script>

<div class="look">
  {#if folder}
    <h2>{folder.name}</h2>
    <p class="pencil">
      {counted(folder.count, 'item')}{look ? `, ${formatBytes(look.wall.bytes)}` : ''}, {counted(
        folder.folders,
        'folder',
      )}
    </p>
    <p class="pencil">
      {folder.from ? `${day(folder.from)} to ${day(folder.to)}` : 'no dates'}
    </p>
    {#if look}
      <div class="pictures">
        {#each look.tiles as tile (tile.id)}
          {#if tile.pictureState === 'ready'}<img
              src="/api/pictures/{tile.picture}/small"
              alt={tile.title || tile.name}
            />
          {:else}<span class="blank" title={tile.noPicture ?? 'its picture is being made'}
              >{tile.name}</span
            >{/if}
        {/each}
      </div>
      {#if without.length === look.tiles.length && without.length > 0}<p class="caution">
          No pictures: {without[0]!.noPicture}
        </p>{/if}
      {#if folder.count === 0}<p class="pencil">Nothing was brought in from here.</p>{/if}
    {/if}
    <p class="verbs">
      <button class="word" type="button" onclick={onlook}>Look there</button>
      <button class="word" type="button" onclick={onpin}>{isPinned ? 'Unpin' : 'Pin'}</button>
      {#if canRemove}<button class="word" type="button" onclick={onremove}>Remove it</button>{/if}
    </p>
  {:else}
    <h2>All holdings</h2>
    <p class="pencil">{counted(total, 'item')}</p>
    <p class="verbs">
      <button class="word" type="button" onclick={onlook}>Look at all</button>
      {#if canManage}<a class="link" href="/places">Places</a>{/if}
    </p>
  {/if}
</div>

<style>
  .look {
    flex: 0 0 280px;
    padding: 8px 16px;
    overflow: auto;
  }
  h2 {
    font: 500 20px/1.25 var(--book);
  }
  .pictures {
    display: grid;
    grid-template-columns: repeat(3, 1fr);
    gap: 5px;
    margin: 10px 0;
  }
  .pictures img,
  .blank {
    width: 100%;
    height: 52px;
    object-fit: cover;
    background: var(--well);
  }
  .blank {
    overflow: hidden;
    font: 10px/1.2 var(--mono);
    color: var(--pencil);
  }
  .word {
    border: 0;
    padding: 2px;
    background: none;
    color: var(--verdigris);
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  .verbs {
    display: flex;
    gap: 14px;
  }
</style>
