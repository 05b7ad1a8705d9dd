<script lang="ts">
  import { movesListed, type FilingPreview } from '#core/naming/filing';
  import { counted, formatCount } from '#core/text/quantities';
  import Changes from '../common/Changes.svelte';
  import Segments from '../common/Segments.svelte';

  /** Where a plan leads: as a tree with what comes into each folder, or move by move. */
  const { told, removeEmptied }: { told: FilingPreview; removeEmptied: boolean } = $props();
  let view = $state<'tree' | 'moves' | 'emptied'>('tree');
  const shown = $derived(view === 'emptied' && told.emptied.length === 0 ? 'tree' : view);
  const moves = $derived(movesListed(told.moves));
  const steps = (folder: string): string => folder.replaceAll('/', ' › ');
  /** Some get new names: old and new are told side by side. */
  const renamed = $derived(told.moves.after.some((name) => name !== null));
  const facts = $derived(
    [
      told.stays && `${formatCount(told.stays)} lie there already`,
      told.left && `${formatCount(told.left)} stay: a part is not known`,
      told.partly && `${formatCount(told.partly)} of which a part is not known`,
      told.notHere && `${formatCount(told.notHere)} not here`,
      told.made && counted(told.made, 'new folder'),
      told.joined && `${counted(told.joined, 'folder')} joined`,
      told.far && `${formatCount(told.far)} with paths some systems find too long`,
    ].filter(Boolean),
  );
</script>

<div class="head">
  <Segments
    label="The result"
    options={[
      { value: 'tree', words: 'as folders' },
      { value: 'moves', words: 'file by file' },
      ...(told.emptied.length ? [{ value: 'emptied' as const, words: 'left empty' }] : []),
    ]}
    value={shown}
    onchange={(next) => (view = next)}
  />
  <p class="pencil">{facts.join(' · ')}</p>
</div>
{#if shown === 'tree'}
  <Changes
    label="Folders as they will be"
    count={told.tree.length}
    columns="minmax(0, 1fr) 110px 110px 110px"
  >
    {#snippet cells(at)}
      {@const line = told.tree[at]!}
      <span class="mono" role="cell" style:padding-left="{line.depth * 18}px" title={line.path}
        >{line.name}</span
      >
      <span role="cell" class="new">{line.isNew ? 'new' : line.comes ? 'joined' : ''}</span>
      <span role="cell" class="mono">{line.below ? `+ ${formatCount(line.below)}` : ''}</span>
      <span role="cell" class="mono pencil"
        >{line.stays ? `${formatCount(line.stays)} there` : ''}</span
      >
    {/snippet}
  </Changes>
{:else if shown === 'emptied'}
  <Changes label="Folders left empty" count={told.emptied.length} columns="1fr 160px">
    {#snippet cells(at)}
      <span class="mono" role="cell">{told.emptied[at]}</span>
      <span class="pencil" role="cell">{removeEmptied ? 'removed' : 'kept'}</span>
    {/snippet}
  </Changes>
{:else}
  <Changes
    label="Files before and after"
    count={moves.count}
    columns="minmax(0, {renamed ? 1.4 : 0.6}fr) minmax(0, 1fr) minmax(0, 1.3fr) {told.problems
      ? 'minmax(0, 1.25fr)'
      : '84px'}"
    isBad={(at) => moves.at(at).problem !== null}
  >
    {#snippet cells(at)}
      {@const line = moves.at(at)}
      <span class="mono" class:along={line.along} role="cell" title="{line.before} → {line.after}"
        >{#if renamed}<span class="pencil">{line.before}</span> →{/if}
        {line.after}</span
      >
      <span class="mono pencil path" role="cell" title={line.from}
        ><bdi>{steps(line.from)}</bdi></span
      >
      <span class="mono path" role="cell" title={line.to}><bdi>{steps(line.to)}</bdi></span>
      <span role="cell" class={line.problem ? 'wrong' : 'caution'} title={line.problem ?? undefined}
        >{line.problem ?? (line.along ? 'goes along' : '')}</span
      >
    {/snippet}
  </Changes>
{/if}

<style>
  .head {
    display: flex;
    gap: 14px;
    align-items: center;
    margin: 8px 0 6px;
  }
  .along {
    padding-left: 16px;
  }
  /* The end of a path tells more than its beginning: that is what is cut off. */
  .path {
    direction: rtl;
    text-align: left;
  }
  .new {
    color: var(--verdigris);
  }
</style>
