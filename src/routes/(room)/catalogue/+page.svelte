<script lang="ts">
  import { untrack } from 'svelte';
  import { afterNavigate, goto } from '$app/navigation';
  import { page } from '$app/state';
  import { formatQuery } from '#core/query/grammar';
  import type { OrderKey, Query } from '#core/query/tree';
  import { can } from '#core/people/roles';
  import { counted, formatBytes, formatCount } from '#core/text/quantities';
  import CollectDialog from '$lib/ui/collections/CollectDialog.svelte';
  import Foldaway from '$lib/ui/common/Foldaway.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import RecordCard from '$lib/ui/record/RecordCard.svelte';
  import RenameDialog from '$lib/ui/rename/RenameDialog.svelte';
  import RoomDialog from '$lib/ui/rooms/RoomDialog.svelte';
  import Sentence from '$lib/ui/sentence/Sentence.svelte';
  import { dayHeading, hours } from '$lib/ui/wall/dates';
  import Holdings from '$lib/ui/wall/Holdings.svelte';
  import Peek from '$lib/ui/wall/Peek.svelte';
  import Register from '$lib/ui/wall/Register.svelte';
  import { Selection } from '$lib/ui/wall/selection.svelte';
  import SelectionBar from '$lib/ui/wall/SelectionBar.svelte';
  import TileCard from '$lib/ui/wall/TileCard.svelte';
  import { TileStore } from '$lib/ui/wall/tiles.svelte';
  import VirtualWall from '$lib/ui/wall/VirtualWall.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const role = $derived(data.actor.role);
  const text = $derived(formatQuery(data.query));
  const view = $derived(page.url.searchParams.get('view') === 'register' ? 'register' : 'wall');
  const rowHeight = $derived(
    Math.min(420, Math.max(90, Number(page.url.searchParams.get('size')) || 150)),
  );
  const selection = new Selection();
  let focus = $state(-1);
  let peeks = $state(false);
  let dialog = $state<'rename' | 'collect' | 'room' | null>(null);
  let wall = $state<VirtualWall>();
  let sentenceLine = $state<Sentence>();
  let card = $state<RecordCard>();

  const store = $derived.by(() => {
    const made = new TileStore(text);
    untrack(() => data.first.forEach((tile, index) => made.tiles.set(index, tile)));
    return made;
  });
  const selected = $derived([...selection.ids]);
  const focused = $derived(focus >= 0 ? store.at(focus) : undefined);
  const cardIds = $derived(selected.length ? selected : focused ? [focused.id] : []);

  $effect(() => {
    void text;
    untrack(() => {
      if (focus >= data.index.total) focus = -1;
    });
  });

  $effect(() => {
    const soon = calmly(() => {
      void untrack(() => store).refresh();
      void freshen('mindful:catalogue');
    }, 1200);
    return hear(({ about }) => {
      if (about === 'items' || about === 'collections' || about === 'again') soon();
    });
  });

  // The wall has the keys from the first moment; whoever types keeps them.
  afterNavigate(() => {
    if (document.activeElement === document.body)
      document
        .querySelector<HTMLElement>('[role=listbox], [role=grid]')
        ?.focus({ preventScroll: true });
  });

  function go(changes: Record<string, string | null>): void {
    const url = new URL(page.url);
    for (const [key, value] of Object.entries(changes))
      if (value) url.searchParams.set(key, value);
      else url.searchParams.delete(key);
    void goto(url, { keepFocus: true, noScroll: true });
  }
  const ask = (query: Query): void => {
    focus = -1;
    go({ q: formatQuery(query) || null });
  };

  async function pick(index: number, event: MouseEvent): Promise<void> {
    const tile = store.at(index);
    if (!tile) return;
    focus = index;
    wall?.take();
    if (event.shiftKey) selection.range(await store.ids(), index);
    else if (event.ctrlKey || event.metaKey) selection.toggle(tile.id, index);
    else selection.only(tile.id, index);
  }

  async function move(from: number, to: number, event: KeyboardEvent): Promise<void> {
    if (event.shiftKey) {
      if (selection.anchor < 0) selection.anchor = Math.max(0, from);
      selection.range(await store.ids(), to);
      return;
    }
    selection.clear();
    selection.anchor = to;
  }

  function open(index: number): void {
    const tile = store.at(index);
    if (tile) void goto(`/catalogue/${tile.number}${page.url.search}`);
  }

  function describe(change: Parameters<RecordCard['change']>[0]): void {
    if (can(role, 'describe') && cardIds.length) void card?.change(change);
  }

  async function keys(event: KeyboardEvent): Promise<void> {
    const { key } = event;
    const command = event.ctrlKey || event.metaKey;
    if (command && key.toLowerCase() === 'a') {
      event.preventDefault();
      selection.set(await store.ids());
    } else if (command || event.altKey) return;
    else if (key === ' ') peeks = !peeks && focused !== undefined;
    else if (key === 'Enter' && event.shiftKey && focused) selection.toggle(focused.id, focus);
    else if (key === 'Enter' && focus >= 0) open(focus);
    else if (key === 'Escape') {
      if (peeks) peeks = false;
      else selection.clear();
    } else if (/^[0-5]$/.test(key)) describe({ rating: Number(key) });
    else if (key.toLowerCase() === 'n') describe({ rating: -1 });
    else {
      const stage = data.stages.find((one) => one.key === key.toLowerCase());
      if (!stage) return;
      describe({ stage: stage.name });
    }
    event.preventDefault();
  }

  function everywhere(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (event.key === '/' && !/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) {
      event.preventDefault();
      sentenceLine?.type();
    }
  }

  const order = (by: OrderKey): void =>
    ask({
      ...data.query,
      order: {
        by,
        down: data.query.order.by === by ? !data.query.order.down : by !== 'name' && by !== 'title',
      },
    });

  const verbs = $derived([
    ...(can(role, 'describe')
      ? [
          {
            label: 'Describe',
            run: () => document.querySelector<HTMLElement>('.card .title button')?.click(),
          },
        ]
      : []),
    ...(can(role, 'rename') ? [{ label: 'Rename', run: () => (dialog = 'rename') }] : []),
    ...(can(role, 'collect') ? [{ label: 'Collect', run: () => (dialog = 'collect') }] : []),
    ...(can(role, 'dispatch') ? [{ label: 'Dispatch', run: () => (dialog = 'room') }] : []),
  ]);
  const placesOf = (from: number, count: number): string => {
    const names = new Set(
      Array.from({ length: Math.min(count, 40) }, (_, step) =>
        store
          .at(from + step)
          ?.folder.split('/')
          .at(-1),
      ).filter(Boolean),
    );
    return names.size === 1 ? `${[...names][0]} · ` : '';
  };
  const starts = $derived.by(() => {
    let at = 0;
    return data.index.groups.map(({ count }) => (at += count) - count);
  });
  /** Ids in the order of the wall where the order matters for counters. */
  async function orderedSelection(): Promise<string[]> {
    const all = await store.ids();
    const inOrder = all.filter((id) => selection.has(id));
    return inOrder.length === selection.size ? inOrder : [...selection.ids];
  }
</script>

<svelte:head><title>Catalogue · Mindful Archive</title></svelte:head>
<svelte:window onkeydown={everywhere} />

<div class="catalogue">
  <section class="ask" aria-label="The sentence">
    <div class="words">
      <h1 class="unseen">Catalogue</h1>
      <Sentence
        bind:this={sentenceLine}
        query={data.query}
        total={data.index.total}
        onchange={ask}
      />
      {#if data.unclear}<p class="wrong" role="alert">
          {data.unclear} Everything is shown instead.
        </p>{/if}
    </div>
    <div class="tools">
      {#if view === 'wall'}
        <label class="size"
          ><span class="unseen">Size of pictures</span><input
            type="range"
            min="90"
            max="420"
            step="10"
            value={rowHeight}
            onchange={(event) => go({ size: event.currentTarget.value })}
          /></label
        >
      {/if}
      <div class="views" role="group" aria-label="View">
        <button type="button" aria-pressed={view === 'wall'} onclick={() => go({ view: null })}
          >Wall</button
        >
        <button
          type="button"
          aria-pressed={view === 'register'}
          onclick={() => go({ view: 'register' })}>Register</button
        >
      </div>
    </div>
  </section>
  <Holdings
    nodes={data.nodes}
    here={data.here}
    folder={data.query.folder}
    collections={data.collections}
    collection={data.query.collection}
    canManage={can(role, 'manage')}
    onfolder={(folder) => ask({ ...data.query, folder })}
    oncollection={(collection) => ask({ ...data.query, collection })}
  />
  <section class="result" aria-label="Found items">
    {#if data.index.total === 0}
      <div class="none">
        {#if text === ''}
          <h2>The archive is empty</h2>
          <p>Bring a card or a folder in, and its pictures hang here.</p>
          {#if can(role, 'intake')}<a class="button act" href="/intake">To the intake</a>{/if}
        {:else}
          <h2>Nothing says all of this</h2>
          <p>Leave a part of the sentence out: open its underlined words.</p>
          <button class="button" type="button" onclick={() => ask({ order: data.query.order })}
            >Show everything</button
          >
        {/if}
      </div>
    {:else if view === 'wall'}
      <VirtualWall
        bind:this={wall}
        bind:focus
        aspects={data.index.aspects}
        groups={data.index.groups}
        {rowHeight}
        label={counted(data.index.total, 'item')}
        tileId={(index) => `tile-${index}`}
        onvisible={(from, to) => void store.want(from, to)}
        onkeys={(event) => void keys(event)}
        onmove={(from, to, event) => void move(from, to, event).catch(sayWrong)}
      >
        {#snippet heading(group)}
          {@const { key, count, from, to } = data.index.groups[group]!}
          <h2>{key === null ? 'All together' : dayHeading(key)}</h2>
          <span class="pencil"
            >{placesOf(starts[group]!, count)}{counted(count, 'item')}{key
              ? ` · ${hours(from, to)}`
              : ''}{key === null ? ` · ${formatBytes(data.index.bytes)}` : ''}</span
          >
        {/snippet}
        {#snippet tile(index, width, height)}
          {@const one = store.at(index)}
          <TileCard
            tile={one}
            id="tile-{index}"
            {index}
            total={data.index.total}
            {width}
            {height}
            selected={one !== undefined && selection.has(one.id)}
            focused={index === focus}
            stages={data.stages}
            onclick={(event) => void pick(index, event).catch(sayWrong)}
            ondblclick={() => open(index)}
          />
        {/snippet}
      </VirtualWall>
    {:else}
      <Register
        index={data.index}
        {store}
        {selection}
        bind:focus
        order={data.query.order}
        stages={data.stages}
        onpick={(index, event) => void pick(index, event).catch(sayWrong)}
        onopen={open}
        onorder={order}
        onkeys={(event) => void keys(event)}
        onmove={(from, to, event) => void move(from, to, event).catch(sayWrong)}
      />
    {/if}
    {#if peeks && focused}<Peek
        tile={focused}
        of="{view === 'wall' ? 'tile' : 'row'}-{focus}"
        onclose={() => (peeks = false)}
      />{/if}
    {#if selected.length}<SelectionBar
        ids={selected}
        {verbs}
        onclear={() => selection.clear()}
      />{/if}
  </section>
  <Foldaway label="Record card" name="card" width={292}>
    <RecordCard
      bind:this={card}
      ids={cardIds}
      stages={data.stages}
      canDescribe={can(role, 'describe')}
      canOriginal={can(role, 'original')}
    />
  </Foldaway>
</div>
<p class="unseen" aria-live="polite">
  {selected.length ? `${formatCount(selected.length)} selected` : ''}
</p>

{#if dialog === 'rename'}
  {#await orderedSelection() then ids}<RenameDialog
      {ids}
      remembered={data.pattern}
      onclose={() => (dialog = null)}
    />{/await}
{:else if dialog === 'collect'}
  {#await orderedSelection() then ids}<CollectDialog
      {ids}
      collections={data.collections}
      onclose={() => (dialog = null)}
      ondone={() => void freshen('mindful:catalogue')}
    />{/await}
{:else if dialog === 'room'}
  {#await orderedSelection() then ids}<RoomDialog
      {ids}
      onclose={() => (dialog = null)}
      ondone={() => void freshen('mindful:catalogue')}
    />{/await}
{/if}

<style>
  .catalogue {
    display: grid;
    grid-template: auto minmax(0, 1fr) / 206px minmax(0, 1fr) auto;
    height: 100%;
  }
  .ask {
    grid-column: 1 / -1;
    display: flex;
    gap: 24px;
    align-items: center;
    justify-content: space-between;
    min-height: 66px;
    padding: 10px 16px;
    border-bottom: 1px solid var(--rule);
    background: var(--card);
  }
  .words {
    max-width: 860px;
  }
  .tools {
    display: flex;
    gap: 16px;
    align-items: center;
    flex: none;
  }
  .size input {
    width: 90px;
    accent-color: var(--verdigris);
  }
  .views {
    display: flex;
    border: 1px solid var(--rule);
    border-radius: 4px;
    overflow: hidden;
  }
  .views button {
    border: 0;
    padding: 6px 11px;
    background: none;
  }
  .views button[aria-pressed='true'] {
    background: var(--ink);
    color: var(--card);
  }
  .result {
    position: relative;
    min-width: 0;
    min-height: 0;
    background: var(--well);
  }
  .result h2 {
    font-size: 16.5px;
  }
  .none {
    display: grid;
    gap: 10px;
    justify-items: start;
    max-width: 420px;
    margin: 80px auto 0;
    font: 16.5px/1.45 var(--book);
  }
  .none h2 {
    font-size: 28px;
  }
  .none .button {
    font: 600 13px var(--plain);
  }
</style>
