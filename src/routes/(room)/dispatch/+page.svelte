<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import RoomDialog from '$lib/ui/rooms/RoomDialog.svelte';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let chosen = $state('');
  let opens = $state(false);
  let fresh = $state<{ id: string; link: string } | null>(null);
  const collection = $derived(data.collections.find(({ id }) => id === chosen));
  type Room = (typeof data.rooms)[number];
  const isOpen = (room: Room): boolean =>
    room.revokedAt === null && new Date(room.expiresAt).getTime() > Date.now();

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:rooms'), 800);
    return hear(({ about }) => {
      if (about === 'rooms' || about === 'again') soon();
    });
  });
  async function close(room: Room): Promise<void> {
    try {
      await api.delete(`/api/rooms/${room.id}`);
      sayDone(`“${room.title}” is closed; its link opens nothing any more.`);
      await freshen('mindful:rooms');
    } catch (error) {
      sayWrong(error);
    }
  }
  async function renew(room: Room): Promise<void> {
    try {
      const { token } = await api.post(`/api/rooms/${room.id}`);
      fresh = { id: room.id, link: `${location.origin}/r/${token}` };
    } catch (error) {
      sayWrong(error);
    }
  }
  const sizes = (room: Room): string =>
    room.sizes.map((size) => (size === 'original' ? 'originals' : '2048 px')).join(' and ') ||
    'nothing away';
</script>

<svelte:head><title>Dispatch · Mindful Archive</title></svelte:head>

<div class="page">
  <header>
    <div>
      <h1>Reading rooms</h1>
      <p class="pencil">
        A link for guests: they look, pick favourites and take away what you allow, until it expires
        or you close it.
      </p>
    </div>
    <form onsubmit={(event) => (event.preventDefault(), (opens = true))}>
      <select class="field" bind:value={chosen} aria-label="Collection to show">
        <option value="">choose a collection</option>
        {#each data.collections as one (one.id)}<option value={one.id}
            >{one.name} ({one.count})</option
          >{/each}
      </select>
      <button class="button act" type="submit" disabled={!chosen}>Open a room</button>
    </form>
  </header>
  <ul>
    {#each data.rooms as room (room.id)}
      <li class:shut={!isOpen(room)}>
        <div>
          <h2>{room.title}</h2>
          <p>
            <a href="/collections/{room.collectionId}">{room.collection}</a> · {counted(
              room.items,
              'item',
            )} · guests may take {sizes(room)}
          </p>
          <p class="pencil">
            {#if room.revokedAt}closed {instant(room.revokedAt)}{:else if isOpen(room)}open until {instant(
                room.expiresAt,
              )}{:else}expired {instant(room.expiresAt)}{/if}
            · {counted(room.visitors, 'visitor')}{room.lastVisit
              ? `, last ${instant(room.lastVisit)}`
              : ''} · {counted(room.downloads, 'download')}
          </p>
          {#if fresh?.id === room.id}
            <p class="fresh">
              The new link, shown only now: <input
                class="field mono"
                readonly
                value={fresh.link}
                aria-label="New link"
                onfocus={(event) => event.currentTarget.select()}
              />
            </p>
          {/if}
        </div>
        <div class="acts">
          <a class="button" href="/dispatch/{room.id}">{counted(room.picks, 'pick')}</a>
          {#if isOpen(room)}
            <button class="button" type="button" onclick={() => void renew(room)}>New link</button>
            <button class="button" type="button" onclick={() => void close(room)}>Close it</button>
          {/if}
        </div>
      </li>
    {:else}<li class="none">No room was opened yet. Choose a collection above.</li>{/each}
  </ul>
</div>

{#if opens && collection}<RoomDialog
    {collection}
    onclose={() => (opens = false)}
    ondone={() => void freshen('mindful:rooms')}
  />{/if}

<style>
  .page {
    height: 100%;
    padding: 20px 24px;
    overflow: auto;
  }
  header {
    display: flex;
    justify-content: space-between;
    gap: 24px;
    align-items: end;
    padding-bottom: 16px;
    border-bottom: 1px solid var(--ink);
  }
  h1 {
    font-size: 28px;
  }
  form {
    display: flex;
    gap: 8px;
  }
  select {
    width: 240px;
  }
  li {
    display: flex;
    justify-content: space-between;
    gap: 24px;
    align-items: center;
    padding: 14px 0;
    border-bottom: 1px solid var(--rule);
  }
  li.shut h2 {
    color: var(--pencil);
  }
  .acts {
    display: flex;
    gap: 8px;
  }
  .fresh {
    margin-top: 6px;
  }
  .fresh input {
    min-width: 520px;
  }
  .none {
    font: 16.5px var(--book);
  }
  @media (max-width: 760px) {
    header,
    li,
    form,
    .acts {
      flex-wrap: wrap;
      gap: 8px 12px;
    }
    header > :first-child,
    li > :first-child {
      flex: 1 1 100%;
    }
    .fresh input {
      min-width: 0;
      width: 100%;
    }
  }
</style>
