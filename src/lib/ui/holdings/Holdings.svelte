<script lang="ts">
  import Segments from '../common/Segments.svelte';
  import type { FolderNode } from '#core/catalogue/tile';
  import { counted, formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import { dragged } from '../common/drag';
  import { calmly, hear, isAboutCounts } from '../common/live';
  import { sayWrong } from '../common/notices.svelte';
  import Rows from '../common/Rows.svelte';
  import type { FilingChoices } from '#core/naming/wish';
  import FolderDialogs from './FolderDialogs.svelte';
  import FolderLook from './FolderLook.svelte';
  import { FolderVerbs } from './folderVerbs.svelte';
  import { takes } from '../wall/carry';

  interface Kept {
    id: string;
    name: string;
    count: number;
    kind: 'hand-picked' | 'standing';
  }
  interface Props {
    here: Record<string, boolean>;
    /** Folder that is looked at. */
    folder: string | null;
    deep: boolean;
    pins: string[];
    canManage: boolean;
    canRename: boolean;
    /** It stays open at the top while one works. */
    docked: boolean;
    onfolder: (id: string | null, deep: boolean) => void;
    oncollection: (id: string) => void;
    onpins: (ids: string[]) => void;
    ondock: () => void;
    onclose: () => void;
    /** An item was laid on a collection; undefined where nobody may collect. */
    oncollect?: ((collection: Kept, item: string) => void) | undefined;
    /** An item was laid on a folder; undefined where nobody may file. */
    onfileinto?: ((folder: FolderNode, item: string) => void) | undefined;
    /** How files were filed last. */
    filing: Partial<FilingChoices>;
  }
  const {
    here,
    folder,
    deep,
    pins,
    canManage,
    canRename,
    docked,
    onfolder,
    oncollection,
    onpins,
    ondock,
    onclose,
    oncollect,
    onfileinto,
    filing,
  }: Props = $props();
  type Sort = 'name' | 'date' | 'count';
  let nodes = $state.raw<FolderNode[]>([]);
  let holdsNothing = $state.raw<ReadonlySet<string>>(new Set());
  let loaded = $state(false);
  let wanted = $state('');
  let sort = $state<Sort>('name');
  let showsHints = $state(false);
  const hints = $derived<[key: string, what: string][]>([
    ['↑↓←→', 'walk'],
    ['Enter', 'look'],
    ['P', 'pin'],
    ...(canRename
      ? ([
          ['N', 'new'],
          ['F2', 'name'],
          ['T', 'take along'],
          ['V', 'put'],
          ['Del', 'let go'],
        ] as [string, string][])
      : []),
  ]);
  /** Ids of the way down that is open, and of the folder the keys stand on. */
  // svelte-ignore state_referenced_locally
  let at = $state<string | null>(folder);
  let box = $state<HTMLElement>();

  let collections = $state.raw<Kept[]>([]);
  async function load(): Promise<void> {
    const [all, none, kept] = await Promise.all([
      api.get('/api/catalogue/folders'),
      api.get('/api/places/folders'),
      api.get('/api/collections'),
    ]);
    collections = kept;
    nodes = all;
    holdsNothing = new Set(none);
    loaded = true;
  }
  $effect(() => void load().catch(sayWrong));
  $effect(() => {
    const soon = calmly(() => void load().catch(() => undefined), 1200);
    return hear((message) => {
      if (isAboutCounts(message) || ['places', 'collections'].includes(message.about)) soon();
    });
  });

  /** Folders that hold nothing, and lie in none that holds nothing. */
  const empty = $derived(
    nodes.filter(
      ({ id, parentId }) => holdsNothing.has(id) && !(parentId && holdsNothing.has(parentId)),
    ),
  );
  let showsEmpty = $state(false);
  let acting = $state<{ act: 'file' | 'discard'; folder: FolderNode } | null>(null);
  const verbs = new FolderVerbs(load);
  let naming = $state<'new' | 'this' | null>(null);
  async function remove(node: FolderNode): Promise<void> {
    if ((await verbs.remove(node)) && at === node.id) at = node.parentId;
  }
  async function named(what: 'new' | 'this', name: string): Promise<void> {
    if (!current) return;
    const done =
      what === 'new'
        ? (await verbs.make(current.id, name)) !== null
        : await verbs.rename(current, name);
    if (done) naming = null;
    box?.focus();
  }
  $effect(() => box?.focus());

  const byId = $derived(new Map(nodes.map((node) => [node.id, node])));
  const children = $derived.by(() => {
    const below: Record<string, FolderNode[]> = {};
    for (const node of nodes) (below[node.parentId ?? ''] ??= []).push(node);
    const ways: Record<Sort, (a: FolderNode, b: FolderNode) => number> = {
      name: (a, b) => a.name.localeCompare(b.name),
      date: (a, b) => (b.to ?? '').localeCompare(a.to ?? ''),
      count: (a, b) => b.count - a.count,
    };
    for (const list of Object.values(below)) list.sort(ways[sort]);
    return below;
  });
  const below = (id: string | null): FolderNode[] => children[id ?? ''] ?? [];
  const way = $derived.by(() => {
    const found: FolderNode[] = [];
    for (
      let node = at ? byId.get(at) : undefined;
      node;
      node = node.parentId ? byId.get(node.parentId) : undefined
    )
      found.unshift(node);
    return found;
  });
  const current = $derived(at ? byId.get(at) : undefined);
  /** The places, then what lies below each of the way; the last four are seen. */
  const columns = $derived(
    [
      { title: 'Places', of: null as string | null },
      ...way.map(({ name, id }) => ({ title: name, of: id as string | null })),
    ]
      .filter(({ of }, index) => index === 0 || below(of).length > 0)
      .slice(-4),
  );
  const MOST_FOUND = 200;
  const hits = $derived(
    wanted.trim() === ''
      ? empty.slice(0, MOST_FOUND)
      : nodes
          .filter(({ name }) => name.toLowerCase().includes(wanted.trim().toLowerCase()))
          .slice(0, MOST_FOUND),
  );

  function keys(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (target.closest('dialog')) return;
    if (target.closest('form')) {
      // What is being named is left as it is.
      if (event.key !== 'Escape') return;
      event.stopPropagation();
      naming = null;
      return box?.focus();
    }
    if (event.key === 'Escape') {
      event.stopPropagation();
      return onclose();
    }
    if (target.tagName === 'INPUT' && event.key !== 'Enter') return;
    const siblings = below(current?.parentId ?? null);
    const index = siblings.findIndex(({ id }) => id === at);
    const to: Record<string, () => string | null | undefined> = {
      ArrowDown: () => siblings[Math.min(siblings.length - 1, index + 1)]?.id,
      ArrowUp: () => siblings[Math.max(0, index - 1)]?.id,
      ArrowRight: () => below(at)[0]?.id,
      ArrowLeft: () => current?.parentId ?? at,
    };
    const step = to[event.key];
    if (step) at = step() ?? at;
    else if (event.key === 'Enter') onfolder(wanted.trim() ? (hits[0]?.id ?? at) : at, deep);
    else if (event.key.toLowerCase() === 'p' && at) pin(at);
    else if (!canRename || !current || !change(event, current)) return;
    event.preventDefault();
    event.stopPropagation();
  }
  /** Keys that change folders. @returns whether it was one of them */
  function change(event: KeyboardEvent, node: FolderNode): boolean {
    const key = event.key.toLowerCase();
    const isTop = node.parentId === null;
    if (key === 'n') naming = 'new';
    else if (event.key === 'F2' && !isTop) naming = 'this';
    else if (key === 't' && !isTop) verbs.take(node.id);
    else if (key === 'v' && verbs.taken.length > 0) void verbs.put(verbs.taken, node);
    else if (event.key === 'Delete' && !isTop)
      if (holdsNothing.has(node.id)) void remove(node);
      else acting = { act: 'discard', folder: node };
    else return false;
    return true;
  }
  const pin = (id: string): void =>
    onpins(pins.includes(id) ? pins.filter((one) => one !== id) : [...pins, id]);
  const wayText = (node: FolderNode): string =>
    node.path ? `${node.place} › ${node.path.replaceAll('/', ' › ')}` : node.place;
  const pinned = $derived(pins.flatMap((id) => byId.get(id) ?? []));
  const standing = $derived(collections.filter(({ kind }) => kind === 'standing'));
  const picked = $derived(collections.filter(({ kind }) => kind !== 'standing'));
</script>

<div
  bind:this={box}
  class="holdings"
  class:docked
  role="dialog"
  aria-label="Holdings"
  tabindex="-1"
  onkeydown={keys}
>
  <header>
    <input
      class="field"
      bind:value={wanted}
      aria-label="Find a folder by name"
      placeholder="find a folder by name"
    />
    <span>
      <button class="word" type="button" aria-pressed={deep} onclick={() => onfolder(at, true)}
        >all levels</button
      >
      ·
      <button class="word" type="button" aria-pressed={!deep} onclick={() => onfolder(at, false)}
        >this one only</button
      >
    </span>
    <Segments
      label="Order"
      options={[
        { value: 'name', words: 'by name' },
        { value: 'date', words: 'by date' },
        { value: 'count', words: 'by count' },
      ]}
      value={sort}
      onchange={(way) => (sort = way)}
    />
    {#if empty.length}
      <button
        class="word"
        type="button"
        aria-pressed={showsEmpty}
        onclick={() => (showsEmpty = !showsEmpty)}>{formatCount(empty.length)} empty</button
      >
    {/if}
    <span class="hint pencil"
      >{#if !verbs.taken.length}<button
          class="word"
          type="button"
          aria-pressed={showsHints}
          onclick={() => (showsHints = !showsHints)}>keys</button
        >{/if}
      {#if verbs.taken.length}<b>{counted(verbs.taken.length, 'folder')} taken along</b> · V puts {verbs
          .taken.length === 1
          ? 'it'
          : 'them'} here{:else if showsHints}{#each hints as [key, what] (key)}<span class="one"
            ><kbd>{key}</kbd> {what}</span
          >{/each}{/if}</span
    >
    <button class="word" type="button" aria-pressed={docked} onclick={ondock}
      >{docked ? 'let it go' : 'keep it open'}</button
    >
    <button class="word" type="button" onclick={onclose}>close</button>
  </header>
  <div class="columns">
    {#if wanted.trim() || (showsEmpty && empty.length)}
      <div class="column found">
        <h3>
          {#if wanted.trim()}{counted(hits.length, 'folder')}{hits.length === MOST_FOUND
              ? ' at least'
              : ''} called so{:else}{counted(empty.length, 'folder')} with nothing in {empty.length ===
            1
              ? 'it'
              : 'them'}{/if}
        </h3>
        {#each hits as node (node.id)}
          <button
            class="node"
            class:on={node.id === at}
            type="button"
            onclick={() => (at = node.id)}
            ondblclick={() => onfolder(node.id, deep)}
            ><span>{wayText(node)}</span><span class="mono">{formatCount(node.count)}</span></button
          >
        {/each}
      </div>
    {:else}
      {#each columns as { title, of } (of ?? '')}
        {@const list = below(of)}
        <div class="column">
          <h3>{title}</h3>
          <div class="list">
            <Rows count={list.length} rowHeight={27}>
              {#snippet row(index)}
                {@const node = list[index]!}
                <button
                  class="node"
                  class:on={way.some(({ id }) => id === node.id)}
                  class:at={node.id === at}
                  class:taken={verbs.taken.includes(node.id)}
                  use:dragged={{
                    kind: 'folder',
                    id: node.id,
                    isFixed: !canRename || node.parentId === null,
                    takes: {
                      folder: canRename ? (id) => void verbs.put([id], node) : undefined,
                      item: onfileinto && ((item) => onfileinto(node, item)),
                    },
                  }}
                  type="button"
                  aria-current={node.id === at ? 'true' : undefined}
                  onclick={() => (at = node.id)}
                  ondblclick={() => onfolder(node.id, deep)}
                  ><span>{node.name}</span>
                  {#if node.parentId === null && here[node.placeId] === false}<em>away</em>{/if}
                  <span class="mono">{node.count ? formatCount(node.count) : 'empty'}</span><span
                    class="mono">{node.folders ? '›' : ''}</span
                  ></button
                >
              {/snippet}
            </Rows>
          </div>
        </div>
      {:else}{#if loaded}<p class="pencil">No places yet.</p>{/if}{/each}
    {/if}
    <FolderLook
      folder={current ?? null}
      total={below(null).reduce((sum, { count }) => sum + count, 0)}
      isPinned={current !== undefined && pins.includes(current.id)}
      canRemove={canRename && current !== undefined && holdsNothing.has(current.id)}
      {canManage}
      onlook={() => (current ? onfolder(current.id, deep) : onfolder(null, true))}
      onpin={() => current && pin(current.id)}
      onremove={() => current && void remove(current)}
      canChange={canRename}
      {naming}
      onnaming={(what) => (naming = what)}
      onnamed={(what, name) => void named(what, name)}
      onfile={() => (acting = current ? { act: 'file', folder: current } : null)}
      ondiscard={() => (acting = current ? { act: 'discard', folder: current } : null)}
    />
  </div>
  <footer>
    <b>Pinned</b>
    {#each pinned as node (node.id)}
      <button class="card" type="button" onclick={() => onfolder(node.id, deep)}
        >{wayText(node).split(' › ').slice(-2).join(' › ')}
        <span class="mono">{formatCount(node.count)}</span></button
      >
    {:else}<span class="pencil">nothing yet</span>{/each}
    {#if standing.length}<b>Standing</b>{/if}
    {#each standing as one (one.id)}<button
        class="card"
        type="button"
        onclick={() => oncollection(one.id)}
        >{one.name} <span class="mono">{formatCount(one.count)}</span></button
      >{/each}
    {#if picked.length}<b>Hand-picked</b>{/if}
    {#each picked as one (one.id)}<button
        class="card"
        use:takes={oncollect && ((item) => oncollect(one, item))}
        type="button"
        onclick={() => oncollection(one.id)}
        >{one.name} <span class="mono">{formatCount(one.count)}</span></button
      >{/each}
  </footer>
  {#if acting}<FolderDialogs {...acting} {filing} onclose={() => (acting = null)} />{/if}
</div>

<style>
  .holdings {
    position: absolute;
    left: 150px;
    right: 70px;
    top: 38px;
    z-index: 30;
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    height: min(460px, 64vh);
    border: 1px solid var(--ink);
    border-radius: 4px;
    background: var(--card);
    box-shadow: var(--shadow);
    outline: none;
  }
  .docked {
    position: relative;
    left: 0;
    right: 0;
    top: 0;
    height: 240px;
    border-width: 0 0 1px;
    border-radius: 0;
    box-shadow: none;
  }
  header,
  footer {
    display: flex;
    gap: 16px;
    align-items: center;
    padding: 10px 14px;
  }
  header {
    border-bottom: 1px solid var(--rule);
  }
  header input {
    width: 210px;
  }
  .hint .one {
    margin-left: 8px;
    white-space: nowrap;
  }
  .hint {
    margin-left: auto;
  }
  footer {
    gap: 8px;
    flex-wrap: wrap;
    max-height: 92px;
    overflow: auto;
    border-top: 1px solid var(--rule);
    background: var(--paper);
  }
  .columns {
    display: flex;
    min-height: 0;
  }
  .column {
    flex: 1 1 190px;
    display: flex;
    flex-direction: column;
    min-width: 0;
    min-height: 0;
    border-right: 1px solid var(--rule);
  }
  .found {
    overflow: auto;
  }
  .list {
    flex: 1;
    min-height: 0;
  }
  h3 {
    padding: 8px 14px 4px;
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  .node {
    display: flex;
    gap: 8px;
    align-items: center;
    width: 100%;
    height: 27px;
    border: 0;
    padding: 0 12px 0 14px;
    background: none;
    text-align: left;
  }
  .node span:first-child {
    flex: 1;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .node:hover,
  .node.on {
    background: var(--wash);
  }
  .node.on {
    font-weight: 700;
  }
  .node.at {
    box-shadow: inset 3px 0 var(--verdigris);
  }
  .node.taken {
    border: 1px dashed var(--ochre);
    border-width: 1px 0;
  }
  .node:global(.over) {
    background: var(--wash);
    box-shadow: inset 0 0 0 2px var(--verdigris);
  }
  .node .mono {
    color: var(--pencil);
    font-weight: 400;
  }
  em {
    color: var(--ochre);
  }
  .word {
    border: 0;
    padding: 2px;
    background: none;
    color: var(--verdigris);
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  .word[aria-pressed='false'] {
    color: var(--pencil);
    text-decoration: none;
  }
  .card {
    border: 1px solid var(--rule);
    border-radius: 3px;
    padding: 4px 9px;
    background: var(--card);
  }
  .card:hover {
    background: var(--wash);
  }
  .card:global(.over) {
    border-color: var(--verdigris);
    background: var(--wash);
    box-shadow: 0 0 0 2px var(--verdigris);
  }
  .card .mono {
    color: var(--pencil);
  }
</style>
