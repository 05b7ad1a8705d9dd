<script lang="ts">
  import type { FolderNode } from '#core/catalogue/tile';
  import type { Query } from '#core/query/tree';
  import { formatCount } from '#core/text/quantities';
  import { moment } from './dates';

  interface Props {
    nodes: FolderNode[];
    /** Places that can be seen at the moment, by id. */
    here: Record<string, boolean>;
    folder: Query['folder'];
    collections: { id: string; name: string; count: number }[];
    collection: string | undefined;
    canManage: boolean;
    onfolder: (folder: Query['folder']) => void;
    oncollection: (name: string | undefined) => void;
  }
  const { nodes, here, folder, collections, collection, canManage, onfolder, oncollection }: Props =
    $props();
  let closed = $state<Record<string, boolean>>({});

  const keyOf = (node: { place: string; path: string }): string =>
    node.path ? `${node.place}/${node.path}` : node.place;
  const depthOf = (node: FolderNode): number =>
    node.path === '' ? 0 : node.path.split('/').length;
  const isHidden = (node: FolderNode): boolean => {
    const parts = keyOf(node).split('/');
    return parts.some((_, at) => at > 0 && closed[parts.slice(0, at).join('/')]);
  };
  const hasBelow = (node: FolderNode): boolean =>
    nodes.some(
      (other) =>
        other.place === node.place &&
        other.path !== node.path &&
        (node.path === '' || other.path.startsWith(`${node.path}/`)),
    );
  const shown = $derived(nodes.filter((node) => !isHidden(node)));
  const isChosen = (node: FolderNode): boolean =>
    folder?.place.toLowerCase() === node.place.toLowerCase() && folder.path === node.path;

  function choose(node: FolderNode): void {
    onfolder(isChosen(node) ? undefined : { place: node.place, path: node.path, deep: true });
  }

  const range = (node: FolderNode): string =>
    node.from
      ? `${moment(node.from).split(',')[0]} – ${moment(node.to).split(',')[0]}`
      : 'no dates';
</script>

<nav class="side" aria-label="Holdings and collections">
  <h2>
    Holdings{#if canManage}<a class="link places" href="/places">places</a>{/if}
  </h2>
  <ul>
    {#each shown as node (keyOf(node))}
      <li style="--depth:{depthOf(node)}" class:chosen={isChosen(node)}>
        {#if hasBelow(node)}
          <button
            class="fold"
            type="button"
            aria-label="{closed[keyOf(node)] ? 'Open' : 'Fold'} {node.name || node.place}"
            aria-expanded={!closed[keyOf(node)]}
            onclick={() => (closed[keyOf(node)] = !closed[keyOf(node)])}
            >{closed[keyOf(node)] ? '+' : '−'}</button
          >
        {/if}
        <button
          class="name"
          type="button"
          aria-pressed={isChosen(node)}
          title="{range(node)} · {node.here} in this folder itself"
          onclick={() => choose(node)}
        >
          <span>{node.name || node.place}</span>
          {#if node.path === '' && here[node.placeId] === false}<em>away</em>{:else}<span
              class="mono">{formatCount(node.count)}</span
            >{/if}
        </button>
      </li>
    {:else}
      <li class="none">No places yet. Bring something in and one is made.</li>
    {/each}
  </ul>
  {#if collections.length}
    <h2>Hand-picked</h2>
    <ul>
      {#each collections as one (one.id)}
        <li class:chosen={collection?.toLowerCase() === one.name.toLowerCase()}>
          <button
            class="name"
            type="button"
            aria-pressed={collection === one.name}
            onclick={() => oncollection(collection === one.name ? undefined : one.name)}
          >
            <span>{one.name}</span><span class="mono">{formatCount(one.count)}</span>
          </button>
        </li>
      {/each}
    </ul>
  {/if}
</nav>

<style>
  .side {
    height: 100%;
    padding: 12px 0;
    overflow: auto;
    border-right: 1px solid var(--rule);
    background: var(--paper);
  }
  h2 {
    display: flex;
    justify-content: space-between;
    padding: 0 14px 4px;
    color: var(--pencil);
    font: 600 11.5px var(--plain);
  }
  .places {
    margin: -5px -6px;
    padding: 5px 6px;
  }
  ul + h2 {
    margin-top: 16px;
  }
  li {
    position: relative;
  }
  li.chosen {
    background: var(--wash);
    font-weight: 700;
  }
  .name {
    min-height: 24px;
    display: flex;
    justify-content: space-between;
    gap: 8px;
    width: 100%;
    padding: 3px 10px 3px calc(24px + var(--depth, 0) * 13px);
    border: 0;
    background: none;
    text-align: left;
    font-weight: inherit;
  }
  .name > span:first-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .name:hover {
    background: color-mix(in srgb, var(--wash) 60%, transparent);
  }
  .mono {
    color: var(--pencil);
  }
  em {
    color: var(--ochre);
  }
  .fold {
    position: absolute;
    left: calc(var(--depth, 0) * 13px);
    top: 0;
    width: 24px;
    height: 24px;
    border: 0;
    padding: 0;
    background: none;
    color: var(--pencil);
    font: 12px/1.5 var(--mono);
  }
  .none {
    padding: 4px 14px;
    color: var(--pencil);
  }
</style>
