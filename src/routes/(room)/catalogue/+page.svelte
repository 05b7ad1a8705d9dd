<script lang="ts">
  import { stageOfKey } from '#core/stages/stages';
  import { onMount, untrack } from 'svelte';
  import { afterNavigate, goto } from '$app/navigation';
  import { page } from '$app/state';
  import { folderAsked, inCollection, inFolder, orderedBy, soughtWords } from '#core/query/edit';
  import { foldingOf, toggled, withFolding } from '#core/bursts/folding';
  import { formatQuery } from '#core/query/grammar';
  import type { Query } from '#core/query/tree';
  import type { Column } from '#core/register/columns';
  import { can } from '#core/people/roles';
  import { counted, formatCount } from '#core/text/quantities';
  import { collectInto } from '$lib/ui/collections/collect';
  import { api } from '$lib/ui/common/api';
  import Foldaway from '$lib/ui/common/Foldaway.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayWrong } from '$lib/ui/common/notices.svelte';
  import ShelfLine from '$lib/ui/holdings/ShelfLine.svelte';
  import RecordCard from '$lib/ui/record/RecordCard.svelte';
  import { fileInto } from '$lib/ui/rename/fileInto';
  import { sayChanged } from '$lib/ui/common/undoing';
  import Sentence from '$lib/ui/sentence/Sentence.svelte';
  import GroupHeading from '$lib/ui/wall/GroupHeading.svelte';
  import Peek from '$lib/ui/wall/Peek.svelte';
  import { Selection } from '$lib/ui/wall/selection.svelte';
  import Verbs from '$lib/ui/wall/Verbs.svelte';
  import TileCard from '$lib/ui/wall/TileCard.svelte';
  import { FoundResult } from '$lib/ui/wall/result.svelte';
  import NothingFound from '$lib/ui/wall/NothingFound.svelte';
  import { showing, showsOf } from '#core/query/clipsSpans';
  import ViewTools from '$lib/ui/wall/ViewTools.svelte';
  import { sizeWithin, VIEWS, type View } from '$lib/ui/wall/views';
  import VirtualWall from '$lib/ui/wall/VirtualWall.svelte';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const role = $derived(data.actor.role);
  const text = $derived(formatQuery(data.query));
  const sought = $derived(soughtWords(data.query));
  const view = $derived<View>(
    VIEWS.find((one) => one === page.url.searchParams.get('view')) ?? 'wall',
  );
  const rowHeight = $derived(sizeWithin(Number(page.url.searchParams.get('size')) || 150));
  const selection = new Selection();
  let focus = $state(-1);
  let peeks = $state(false);
  let keeps = $state(false);
  let holdings = $state<'shut' | 'open' | 'docked'>('shut');
  let wall = $state<VirtualWall>();
  let sentenceLine = $state<Sentence>();
  let card = $state<RecordCard>();

  /** Bursts that are unfolded in place; null where none is folded. */
  const folding = $derived(foldingOf(data.query));
  /** A pass from what has the focus, or from the first that has no verdict yet. */
  async function cull(isByAddress = false): Promise<void> {
    const from = Math.max(0, focus);
    await store.want(from, from + 40);
    let at = from;
    for (let near = from; near < from + 40; near += 1)
      if (store.at(near)?.rating === 0) {
        at = near;
        break;
      }
    const number = store.at(at)?.number;
    if (number)
      await goto(`/catalogue/${number}?q=${encodeURIComponent(text)}&pass=1`, {
        // Back does not lead into it again.
        replaceState: isByAddress,
      });
  }
  onMount(() => {
    if (page.url.searchParams.has('cull')) void cull(true).catch(sayWrong);
  });

  const found = $derived.by(() => {
    void text;
    return untrack(() => new FoundResult(data.query, data.result));
  });
  $effect(() => {
    const own = found;
    return () => own.end();
  });
  $effect(() => {
    const { result } = data;
    untrack(() => found.take(result));
  });
  const store = $derived(found.store);
  const shelf = $derived(found.shelf);
  /** The wall hangs anew only where these are others. */
  const groups = $derived(found.wall.groups);
  const focused = $derived(focus >= 0 ? store.at(focus) : undefined);
  const chosen = $derived(selection.size > 0 ? selection.picked : focused ? [focused.id] : []);
  const chosenCount = $derived(selection.size || (focused ? 1 : 0));

  $effect(() => {
    void text;
    untrack(() => {
      if (focus >= found.wall.total) focus = -1;
    });
  });

  $effect(() => {
    const calm = calmly(() => void freshen('mindful:catalogue'), 1200);
    return hear((message) => {
      untrack(() => found).hear(message);
      // What collections are called is loaded with the page.
      if (message.about === 'collections' || message.about === 'again') calm();
    });
  });

  // The wall has the keys from the first moment; whoever types keeps them.
  afterNavigate(() => {
    if (page.url.hash === '#sentence') return void sentenceLine?.type();
    if (document.activeElement === document.body)
      document
        .querySelector<HTMLElement>('[role=listbox], [role=grid]')
        ?.focus({ preventScroll: true });
    remember();
  });

  const MOST_RECENT = 12;
  /** What was asked lately is offered again. */
  function remember(): void {
    if (data.query.where.length === 0 || data.recent[0] === text) return;
    const queries = [text, ...data.recent.filter((one) => one !== text)].slice(0, MOST_RECENT);
    void api.put('/api/remembered/recent', { queries }).catch(() => undefined);
  }

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

  const deep = $derived(folderAsked(data.query).deep);
  function look(id: string | null, allLevels = deep): void {
    if (holdings === 'open') holdings = 'shut';
    ask(inFolder(data.query, id, allLevels));
  }
  function collection(id: string): void {
    if (holdings === 'open') holdings = 'shut';
    const kept = data.collections.find((one) => one.id === id);
    ask(inCollection(data.query, id, kept?.kind !== 'standing'));
  }
  /** What is selected goes with the item that is carried, where that is one of it. */
  function collect(into: { id: string; name: string }, item: string): void {
    const [ids, count] = selection.has(item) ? [selection.picked, selection.size] : [[item], 1];
    collectInto(into, ids, count).catch(sayWrong);
  }
  function file(into: { placeId: string; path: string; name: string }, item: string): void {
    fileInto(into, selection.has(item) ? selection.picked : [item]).catch(sayWrong);
  }
  /** What is chosen was taken here, or the item that was carried here and what is selected with it. */
  function put(position: string, item: string | null): void {
    const ids = item && !selection.has(item) ? [item] : chosen;
    api

      .patch('/api/records', {
        ids,
        change: { position },
      })
      .then((done) => sayChanged(done, `${counted(done.changed, 'item')} put at ${position}.`))
      .catch(sayWrong);
  }
  const keepPlace = (position: string): void =>
    void goto(`/lists/spots?at=${encodeURIComponent(position)}`);
  async function pin(ids: string[]): Promise<void> {
    await api.put('/api/remembered/pins', { ids }).catch(sayWrong);
    await freshen('mindful:catalogue');
  }

  async function pick(index: number, event: MouseEvent): Promise<void> {
    const tile = store.at(index);
    if (!tile) return;
    focus = index;
    wall?.take();
    if (event.shiftKey) await choose(index);
    else if (event.ctrlKey || event.metaKey) selection.toggle(tile.id, index);
    else selection.only(tile.id, index);
  }
  /** From where the range began to here, nothing else. */
  async function choose(to: number): Promise<void> {
    const from = selection.anchor < 0 ? to : selection.anchor;
    await selection.range(from, store.range(from, to));
  }

  async function move(from: number, to: number, event: KeyboardEvent): Promise<void> {
    if (event.shiftKey) {
      if (selection.anchor < 0) selection.anchor = Math.max(0, from);
      return choose(to);
    }
    selection.clear();
    selection.anchor = to;
  }

  /** The record card goes on to the next item; what was written stays in its field. */
  async function walk(step: 1 | -1): Promise<void> {
    const to = focus + step;
    if (to < 0 || to >= found.wall.total) return;
    await store.want(to, to + 1);
    selection.clear();
    selection.anchor = to;
    focus = to;
    wall?.show(to);
  }

  function open(index: number): void {
    const tile = store.at(index);
    if (tile) void goto(`/catalogue/${tile.number}${page.url.search}`);
  }

  function describe(change: Parameters<RecordCard['change']>[0]): void {
    if (can(role, 'describe') && chosenCount) void card?.change(change);
  }

  function keys(event: KeyboardEvent): void {
    const { key } = event;
    const command = event.ctrlKey || event.metaKey;
    if (command && key.toLowerCase() === 'a') selection.everything(text, found.wall.total);
    else if (command || event.altKey) return;
    else if (key === 'F2') card?.name();
    else if (key === ' ') peeks = !peeks && focused !== undefined;
    else if (key === 'Enter' && event.shiftKey && focused) selection.toggle(focused.id, focus);
    else if (key === 'Enter' && focus >= 0) open(focus);
    else if (key === 'Escape') {
      if (peeks) peeks = false;
      else selection.clear();
    } else if (/^[0-5]$/.test(key)) describe({ rating: Number(key) });
    else if (key.toLowerCase() === 'n') describe({ rating: -1 });
    else if (key === '*' && folding && focused?.burst) ask(toggled(data.query, focused.burst));
    else if (key === '+' || key === '-') size(key === '+' ? 20 : -20);
    else {
      const stage = stageOfKey(data.stages, key);
      if (!stage) return;
      describe({ stage: stage.name });
    }
    event.preventDefault();
  }
  let changedColumns = $state<Column[] | null>(null);
  const columns = $derived(changedColumns ?? data.columns);
  const rememberColumns = calmly(
    () => void api.put('/api/remembered/register', { columns }).catch(sayWrong),
    500,
  );
  function keepColumns(changed: Column[]): void {
    changedColumns = changed;
    rememberColumns();
  }
  const size = (step: number): void => go({ size: String(sizeWithin(rowHeight + step)) });

  function everywhere(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (/^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)) return;
    if (event.key === '/') {
      event.preventDefault();
      sentenceLine?.type();
    } else if (event.key.toLowerCase() === 'h' && holdings !== 'open') holdings = 'open';
  }
  /** A pinch on a trackpad comes as a wheel with Ctrl. */
  function pinch(event: WheelEvent): void {
    if (!event.ctrlKey || view === 'register') return;
    event.preventDefault();
    size(event.deltaY > 0 ? -10 : 10);
  }
  function pinches(node: HTMLElement): { destroy: () => void } {
    node.addEventListener('wheel', pinch, { passive: false });
    return { destroy: () => node.removeEventListener('wheel', pinch) };
  }

  const wrongs = $derived([
    ...(data.unclear ? [`${data.unclear} Everything is shown instead.`] : []),
    ...data.unknown.map((name) => `There is no ${name}; nothing can be found by it.`),
  ]);
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
        labels={data.labels}
        total={found.wall.total}
        recent={data.recent}
        onchange={ask}
        onfolder={() => (holdings = holdings === 'shut' ? 'open' : 'shut')}
        {...can(role, 'collect') ? { onkeep: () => (keeps = true) } : {}}
      />
      {#each wrongs as wrong (wrong)}<p class="wrong" role="alert">{wrong}</p>{/each}
      {#if found.wall.catchingUp}<p class="caution" role="status">
          Counts are being caught up.
        </p>{/if}
    </div>
    <ViewTools
      {view}
      size={rowHeight}
      shows={showsOf(data.query)}
      onshows={(shows) => ask(showing(data.query, shows))}
      onview={(chosen) => go({ view: chosen === 'wall' ? null : chosen })}
      onsize={(px) => go({ size: String(px) })}
    />
  </section>
  <div class="shelves">
    <ShelfLine
      {shelf}
      here={data.here}
      {deep}
      isOpen={holdings !== 'shut'}
      onfolder={(id) => look(id)}
      onlevels={() => look(shelf.way.at(-1)?.id ?? null, !deep)}
      onopen={() => (holdings = holdings === 'shut' ? 'open' : 'shut')}
      folded={folding !== null}
      onfold={() => ask(withFolding(data.query, folding ? null : []))}
      {...can(role, 'describe') && found.wall.total > 0 ? { oncull: () => void cull() } : {}}
    />
    {#if holdings !== 'shut'}
      {#await import('$lib/ui/holdings/Holdings.svelte') then { default: Holdings }}<Holdings
          here={data.here}
          folder={shelf.way.at(-1)?.id ?? null}
          {deep}
          pins={data.pins}
          canManage={can(role, 'manage')}
          canRename={can(role, 'rename')}
          docked={holdings === 'docked'}
          onfolder={look}
          oncollection={collection}
          onpins={(ids) => void pin(ids)}
          ondock={() => (holdings = holdings === 'docked' ? 'open' : 'docked')}
          onclose={() => (holdings = 'shut')}
          oncollect={can(role, 'collect') ? collect : undefined}
          onfileinto={can(role, 'rename') ? file : undefined}
          filing={data.filing}
        />{/await}
    {/if}
  </div>
  {#if view === 'timeline' || view === 'atlas'}
    <div class="over">
      {#await view === 'timeline' ? import('$lib/ui/timeline/Timeline.svelte') : import('$lib/ui/atlas/Atlas.svelte') then { default: Over }}
        <Over
          query={data.query}
          version={found.wall}
          onask={ask}
          {...can(role, 'describe') ? { onput: put, chosen: chosenCount, onkeep: keepPlace } : {}}
        />
      {/await}
    </div>
  {/if}
  <section
    class="result"
    class:under={view === 'timeline' || view === 'atlas'}
    aria-label="Found items"
    use:pinches
  >
    {#if found.wall.total === 0}
      <NothingFound
        isEmpty={text === ''}
        canIntake={can(role, 'intake')}
        oneverything={() => ask({ where: [], order: data.query.order })}
      />
    {:else if view !== 'register'}
      <VirtualWall
        bind:this={wall}
        bind:focus
        stretch={store.stretch}
        version={text}
        {groups}
        {rowHeight}
        label={counted(found.wall.total, 'item')}
        tileId={(index) => `tile-${index}`}
        onvisible={(from, to) => void store.want(from, to)}
        onkeys={keys}
        onmove={(from, to, event) => void move(from, to, event).catch(sayWrong)}
      >
        {#snippet heading(group)}
          <GroupHeading {found} {group} stages={data.stages} />
        {/snippet}
        {#snippet tile(index, width, height)}
          {@const one = store.at(index)}
          <TileCard
            tile={one}
            id="tile-{index}"
            {index}
            total={found.wall.total}
            {width}
            {height}
            selected={one !== undefined && selection.has(one.id)}
            focused={index === focus}
            stages={data.stages}
            words={sought}
            onclick={(event) => void pick(index, event).catch(sayWrong)}
            ondblclick={() => open(index)}
            onburst={folding && ((burst) => ask(toggled(data.query, burst)))}
          />
        {/snippet}
      </VirtualWall>
    {:else}
      {#await import('$lib/ui/register/Register.svelte') then { default: Register }}<Register
          total={found.wall.total}
          {store}
          {selection}
          bind:focus
          order={data.query.order}
          stages={data.stages}
          {columns}
          canDescribe={can(role, 'describe')}
          version={found.values}
          words={sought}
          oncolumns={(changed) => keepColumns(changed)}
          onpick={(index, event) => void pick(index, event).catch(sayWrong)}
          onopen={open}
          onorder={(by) => ask(orderedBy(data.query, by))}
          onkeys={keys}
          onmove={(from, to, event) => void move(from, to, event).catch(sayWrong)}
        />{/await}
    {/if}
    {#if peeks && focused}<Peek
        tile={focused}
        of="{view === 'register' ? 'row' : 'tile'}-{focus}"
        onclose={() => (peeks = false)}
      />{/if}
    <Verbs
      {selection}
      {role}
      collections={data.collections}
      naming={data.naming}
      filing={data.filing}
      query={text}
    />
  </section>
  <div class="aside">
    <Foldaway label="Record card" name="card" width={292}>
      <RecordCard
        bind:this={card}
        ids={chosen}
        count={chosenCount}
        stages={data.stages}
        first={data.cardFields}
        rules={data.rules}
        canManage={can(role, 'manage')}
        canRename={can(role, 'rename')}
        onwalk={(step) => void walk(step)}
        canDescribe={can(role, 'describe')}
        q={data.query.where.length ? text : ''}
        canOriginal={can(role, 'original')}
      />
    </Foldaway>
  </div>
</div>
<p class="unseen" aria-live="polite">
  {selection.size ? `${formatCount(selection.size)} selected` : ''}
</p>

{#if keeps}
  {#await import('$lib/ui/collections/KeepDialog.svelte') then { default: KeepDialog }}
    <KeepDialog query={text} onclose={() => (keeps = false)} />
  {/await}
{/if}

<style>
  .catalogue {
    display: grid;
    grid-template: auto auto auto minmax(0, 1fr) / minmax(0, 1fr) auto;
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
    background: var(--card);
  }
  .over {
    grid-column: 1 / -1;
    min-width: 0;
  }
  .shelves {
    position: relative;
    grid-column: 1 / -1;
  }
  .words {
    max-width: 860px;
  }
  .aside {
    grid-area: 4 / 2;
    min-height: 0;
  }
  .result {
    grid-area: 4 / 1;
    position: relative;
    min-width: 0;
    min-height: 0;
    background: var(--well);
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .catalogue {
      grid-template: auto auto auto minmax(0, 1fr) auto / minmax(0, 1fr);
    }
    .ask {
      flex-wrap: wrap;
      gap: 8px;
      padding: 8px;
    }
    .aside {
      grid-area: 5 / 1;
      max-height: 46dvh;
      overflow: hidden;
    }
  }
</style>
