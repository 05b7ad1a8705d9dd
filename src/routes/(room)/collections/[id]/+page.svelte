<script lang="ts">
  import { goto } from '$app/navigation';
  import { formatQuery } from '#core/query/grammar';
  import { sentenceText } from '#core/query/sentence';
  import { can } from '#core/people/roles';
  import { counted, formatCount } from '#core/text/quantities';
  import CollectionTiles from '$lib/ui/collections/CollectionTiles.svelte';
  import { api } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import RoomDialog from '$lib/ui/rooms/RoomDialog.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  let opensRoom = $state(false);
  const canCollect = $derived(can(data.actor.role, 'collect'));
  const standing = $derived(data.collection.kind === 'standing');
  const says = $derived(
    sentenceText(data.query, (reference) => data.labels[reference]?.split('/').at(-1)),
  );
  const path = $derived(`/api/collections/${data.collection.id}` as const);
  const inCatalogue = $derived(`/catalogue?q=${encodeURIComponent(formatQuery(data.query))}`);

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:collections'), 600);
    return hear(({ about }) => {
      if (about === 'collections' || about === 'items' || about === 'again') soon();
    });
  });
  async function act(run: () => Promise<unknown>): Promise<void> {
    try {
      await run();
      await freshen('mindful:collections');
    } catch (error) {
      sayWrong(error);
    }
  }
  async function remove(ids: string[]): Promise<void> {
    const order = data.tiles.map(({ id }) => id);
    const after =
      order.slice(order.indexOf(ids.at(-1)!) + 1).find((id) => !ids.includes(id)) ?? null;
    await act(() => api.delete(`${path}/items`, { itemIds: ids }));
    sayDone(`${counted(ids.length, 'item')} taken out; they stay in the archive.`, {
      label: 'Undo',
      run: () =>
        act(async () => {
          await api.post(`${path}/items`, { itemIds: ids });
          await api.patch(`${path}/items`, { itemIds: ids, before: after });
        }),
    });
  }
  async function letGo(): Promise<void> {
    const { name } = data.collection;
    await act(() => api.delete(path));
    await goto('/collections');
    sayDone(`“${name}” is let go of; its items stay, its reading rooms are closed.`, {
      label: 'Undo',
      run: () => act(() => api.post(path)),
    });
  }
</script>

<svelte:head><title>{data.collection.name} · Mindful Archive</title></svelte:head>

<div class="page">
  <header>
    <div class="name">
      <p><a class="link" href="/collections">Collections</a></p>
      {#if canCollect}
        <h1 class="unseen">{data.collection.name}</h1>
        <input
          class="title"
          aria-label="Name"
          value={data.collection.name}
          onchange={(event) => void act(() => api.patch(path, { name: event.currentTarget.value }))}
        />
        <input
          class="note"
          aria-label="Note"
          placeholder="a note"
          value={data.collection.note}
          onchange={(event) => void act(() => api.patch(path, { note: event.currentTarget.value }))}
        />
      {:else}
        <h1>{data.collection.name}</h1>
        <p>{data.collection.note}</p>
      {/if}
    </div>
    <div class="acts">
      <a class="button" href={inCatalogue}>In the catalogue</a>
      {#if !standing && can(data.actor.role, 'dispatch')}<button
          class="button act"
          type="button"
          onclick={() => (opensRoom = true)}>Open a reading room</button
        >{/if}
      {#if canCollect}<button class="button quiet" type="button" onclick={() => void letGo()}
          >Let go of it</button
        >{/if}
    </div>
  </header>
  {#if standing}
    <p class="says">It fills itself: {says}</p>
    <p class="pencil">
      {counted(data.collection.count, 'item')}{#if data.collection.count > data.tiles.length}, the
        first {formatCount(data.tiles.length)} here{/if}
    </p>
  {/if}
  {#if data.tiles.length === 0 && !standing}
    <p class="none">
      Nothing in it yet. Select pictures in the <a href="/catalogue">catalogue</a> and choose Collect.
    </p>
  {:else}
    {#if !standing}<p class="pencil">
        {counted(data.tiles.length, 'item')}{#if canCollect}. Drag to put in order, or <kbd>Alt</kbd
          >
          <kbd>← →</kbd>; <kbd>Delete</kbd> takes out.{/if}
      </p>{/if}
    <CollectionTiles
      tiles={data.tiles}
      editable={canCollect && !standing}
      onmove={(ids, before) => void act(() => api.patch(`${path}/items`, { itemIds: ids, before }))}
      onremove={(ids) => void remove(ids)}
      onopen={(tile) =>
        void goto(`/catalogue/${tile.number}${inCatalogue.slice('/catalogue'.length)}`)}
    />
  {/if}
</div>

{#if opensRoom}<RoomDialog collection={data.collection} onclose={() => (opensRoom = false)} />{/if}

<style>
  .page {
    height: 100%;
    padding: 16px 24px 40px;
    overflow: auto;
  }
  header {
    display: flex;
    justify-content: space-between;
    gap: 24px;
    align-items: end;
    margin-bottom: 12px;
  }
  .name > p {
    min-height: 26px;
  }
  .name {
    flex: 1;
  }
  h1,
  .title {
    font: 500 28px/1.25 var(--book);
  }
  .title,
  .note {
    width: 100%;
    border: 0;
    border-bottom: 1px solid transparent;
    background: none;
  }
  .note {
    min-height: 26px;
    font: 14px var(--book);
    color: var(--pencil);
  }
  .title:hover,
  .note:hover {
    border-color: var(--rule);
  }
  .acts {
    display: flex;
    gap: 8px;
  }
  .says {
    font: 16.5px/1.4 var(--book);
  }
  .none {
    padding: 48px 0;
    font: 16.5px var(--book);
  }
</style>
