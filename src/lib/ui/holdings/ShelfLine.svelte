<script lang="ts">
  import type { FolderNode } from '#core/catalogue/tile';
  import type { Shelf } from '#core/holdings/shelf';
  import { formatCount } from '#core/text/quantities';

  interface Props {
    shelf: Shelf;
    /** Places that can be seen at the moment, by id. */
    here: Record<string, boolean>;
    /** All levels below are looked at. */
    deep: boolean;
    isOpen: boolean;
    onfolder: (id: string | null) => void;
    onlevels: () => void;
    onopen: (from: HTMLElement) => void;
    /** One frame of each burst is shown. */
    folded: boolean;
    onfold: () => void;
    /** A pass through what is found, one verdict for each. */
    oncull?: () => void;
  }
  const { shelf, here, deep, isOpen, onfolder, onlevels, onopen, folded, onfold, oncull }: Props =
    $props();
  const NARROW = 760;
  const FEW = 6;
  let room = $state(900);
  /** As many cards as fit, by what they need; the rest is behind one word. */
  const fitting = $derived.by(() => {
    // Where cards go on in a second line, a few are always there.
    if (room < NARROW) return Math.min(FEW, shelf.below.length);
    let left = room - shelf.way.reduce((sum, { name }) => sum + 62 + name.length * 7, 270);
    let count = 0;
    for (const { name } of shelf.below) {
      left -= 58 + name.length * 7;
      if (left < 0) break;
      count += 1;
    }
    return count;
  });
  const isAway = (node: FolderNode): boolean =>
    node.parentId === null && here[node.placeId] === false;
  const dates = ({ from, to }: FolderNode): string =>
    from && to ? ` · ${from.slice(0, 10)} to ${to.slice(0, 10)}` : '';
</script>

<nav class="shelf" aria-label="Holdings" bind:clientWidth={room}>
  {#if shelf.way.length}
    <button
      class="way"
      type="button"
      title="All holdings"
      aria-label="All holdings"
      onclick={() => onfolder(null)}>all ›</button
    >
  {/if}
  {#each shelf.way as node, at (node.id)}
    <button
      class="way"
      class:last={at === shelf.way.length - 1}
      type="button"
      aria-current={at === shelf.way.length - 1 ? 'location' : undefined}
      title="{node.folders} folders{dates(node)}"
      onclick={() => onfolder(node.id)}
      >{node.name}
      <span class="mono">{formatCount(node.count)}</span
      >{#if shelf.below.length || at < shelf.way.length - 1}&nbsp;›{/if}</button
    >
  {/each}
  {#each shelf.below.slice(0, fitting) as node (node.id)}
    <button
      class="card"
      class:empty={node.count === 0}
      type="button"
      title="{node.folders} folders below{dates(node)}"
      onclick={() => onfolder(node.id)}
      >{node.name}
      {#if isAway(node)}<em>away</em>{:else}<span class="mono"
          >{node.count ? formatCount(node.count) : 'empty'}</span
        >{/if}</button
    >
  {:else}
    {#if shelf.way.length === 0 && shelf.below.length === 0}<span class="pencil"
        >No places yet. Bring something in and one is made.</span
      >{/if}
  {/each}
  <button
    class="more"
    type="button"
    aria-haspopup="dialog"
    aria-expanded={isOpen}
    onclick={(event) => onopen(event.currentTarget)}
    >{shelf.below.length > fitting
      ? `and ${formatCount(shelf.below.length - fitting)} more`
      : 'holdings'}</button
  >
  <span class="ways">
    {#if oncull}<button type="button" onclick={oncull}>cull</button>{/if}
    <button type="button" aria-pressed={folded} onclick={onfold}
      >{folded ? 'unfold bursts' : 'fold bursts'}</button
    >
    {#if shelf.way.length}
      <button class="levels" type="button" aria-pressed={deep} onclick={onlevels}
        >{deep ? 'all levels' : 'this level only'}</button
      >
    {/if}
  </span>
</nav>

<style>
  .shelf {
    display: flex;
    gap: 6px;
    align-items: flex-end;
    height: 34px;
    padding: 0 16px;
    border-bottom: 1px solid var(--ink);
    background: var(--card);
    overflow: hidden;
    white-space: nowrap;
  }
  button {
    border: 0;
    padding: 5px 4px 6px;
    background: none;
  }
  .way {
    color: var(--pencil);
  }
  .way.last {
    color: var(--ink);
    font-weight: 700;
  }
  .mono {
    color: var(--pencil);
    font-weight: 400;
    font-size: 11.5px;
  }
  .card {
    border: 1px solid var(--rule);
    border-bottom: 0;
    border-radius: 3px 3px 0 0;
    padding: 5px 9px 6px;
    background: var(--paper);
  }
  .card:hover {
    background: var(--wash);
  }
  .card.empty {
    color: var(--pencil);
  }
  em {
    color: var(--ochre);
  }
  .more {
    color: var(--pencil);
  }
  .ways {
    display: flex;
    gap: 6px;
    margin-left: auto;
  }
  .ways button {
    color: var(--verdigris);
  }
  .levels {
    text-decoration: underline;
    text-underline-offset: 4px;
    text-decoration-thickness: 2px;
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .shelf {
      flex-wrap: wrap;
      row-gap: 0;
      height: auto;
      max-height: 102px;
      padding: 0 8px;
      overflow: auto;
    }
    .ways {
      flex-wrap: wrap;
      margin-left: 0;
    }
  }
</style>
