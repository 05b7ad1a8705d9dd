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
    /** Folders may be made, renamed, moved, their items filed and discarded. */
    canChange: boolean;
    /** It is asked for a name: of a new folder below, or of this one. */
    naming: 'new' | 'this' | null;
    onlook: () => void;
    onpin: () => void;
    onremove: () => void;
    onnaming: (what: 'new' | 'this' | null) => void;
    onnamed: (what: 'new' | 'this', name: string) => void;
    onfile: () => void;
    ondiscard: () => void;
  }
  const {
    folder,
    total,
    isPinned,
    canRemove,
    canManage,
    canChange,
    naming,
    onlook,
    onpin,
    onremove,
    onnaming,
    onnamed,
    onfile,
    ondiscard,
  }: Props = $props();
  let name = $state('');
  $effect(() => void (name = naming === 'this' ? (folder?.name ?? '') : ''));
  let look = $state<{ wall: Wall; tiles: Tile[] } | null>(null);
  const id = $derived(folder?.id ?? null);

  $effect(() => {
    const asked = id;
    if (!asked) return void (look = null);
    // Who walks on by keys is not kept.
    const soon = setTimeout(() => {
      const q = `in #${asked}`;
      void Promise.all([
        api.get('/api/catalogue/wall', { q }),
        api.get('/api/catalogue/tiles', { q, limit: 6 }),
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
    {#if canChange}
      {#if naming}
        <form
          onsubmit={(event) => {
            event.preventDefault();
            if (name.trim()) onnamed(naming, name.trim());
          }}
        >
          <!-- svelte-ignore a11y_autofocus -->
          <input
            class="field mono"
            bind:value={name}
            aria-label={naming === 'new' ? 'Name of the new folder' : 'New name of the folder'}
            autofocus
          />
          <button class="button" type="submit">{naming === 'new' ? 'Make it' : 'Rename'}</button>
          <button class="word" type="button" onclick={() => onnaming(null)}>leave it</button>
        </form>
      {:else}
        <p class="verbs">
          <button class="word" type="button" onclick={() => onnaming('new')}>New folder</button>
          {#if folder.parentId !== null}<button
              class="word"
              type="button"
              onclick={() => onnaming('this')}>Rename</button
            >{/if}
          {#if folder.count > 0}
            <button class="word" type="button" onclick={onfile}>File its items</button>
            <button class="word" type="button" onclick={ondiscard}>Discard them</button>
          {/if}
        </p>
      {/if}
    {/if}
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
    min-height: 24px;
    border: 0;
    padding: 2px;
    background: none;
    color: var(--verdigris);
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  .verbs {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
  }
  form {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    align-items: center;
    margin-top: 6px;
  }
  form .field {
    flex: 1 1 100%;
    padding: 3px 6px;
  }
</style>
