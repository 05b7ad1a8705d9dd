<script lang="ts">
  import { ORDERS, type OrderBy } from '#core/naming/order';
  import { CLASH_RULES, LINE_FILTERS } from '#core/naming/rename';
  import { CLASH_WORDS, FILTER_WORDS } from '#core/naming/words';
  import { lastUsed, type NamingChoices } from '#core/naming/wish';
  import type { Picked } from '#core/query/picked';
  import { counted, formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import Segments from '../common/Segments.svelte';
  import FindReplace from './FindReplace.svelte';
  import KeptPatterns from './KeptPatterns.svelte';
  import NameRows from './NameRows.svelte';
  import { Naming } from './naming.svelte';
  import { sayUndoable } from '../common/undoing';
  import PatternField from './PatternField.svelte';
  import SharedWarning from './SharedWarning.svelte';

  interface Props {
    ids: Picked;
    count: number;
    remembered: Partial<NamingChoices> | undefined;
    onclose: () => void;
  }
  const { ids, count, remembered, onclose }: Props = $props();
  const USUAL = '{taken yyyyMMdd}-{counter 0001 by day}';
  // svelte-ignore state_referenced_locally
  const naming = new Naming(ids, { pattern: USUAL, ...remembered });
  let way = $state<'pattern' | 'replace'>('pattern');

  async function rename(): Promise<void> {
    const { pattern, clash, extension } = naming;
    const changes = naming.counts!.changed;
    const operation = await naming.rename();
    if (operation === null) return;
    void api.put('/api/remembered/rename-pattern', { pattern, clash, extension });
    sayUndoable(`Renaming ${counted(changes, 'item')}.`, operation);
    onclose();
  }
  const ORDER_WORDS: Record<OrderBy, string> = {
    given: 'as they hang',
    name: 'by present name',
    original: 'by first name',
    taken: 'by time taken',
    brought: 'by when they came in',
  };
  const counts = $derived(naming.counts);
  const filters = $derived(
    LINE_FILTERS.filter(
      (one) => one === 'all' || (counts?.[one] ?? 0) > 0 || one === naming.filter,
    ),
  );
</script>

<Dialog title="Rename {counted(count, 'item')}" wide {onclose}>
  <div class="head">
    <Segments
      label="How"
      options={[
        { value: 'pattern', words: 'by a pattern' },
        { value: 'replace', words: 'find and replace' },
      ]}
      value={way}
      onchange={(next) => (way = next)}
    />
    <KeptPatterns
      purpose="naming"
      pattern={naming.pattern}
      choices={{ clash: naming.clash, extension: naming.extension }}
      ontake={(kept) => ((way = 'pattern'), naming.take(lastUsed(kept)))}
    />
  </div>
  <ol>
    <li>
      {#if way === 'pattern'}
        <PatternField
          value={naming.pattern}
          label="Name pattern"
          onchange={(value) => (naming.pattern = value)}
        />
      {:else}
        <FindReplace onchange={(pattern) => (naming.pattern = pattern)} />
      {/if}
    </li>
    <li class="says">
      Counted <select
        class="choice"
        aria-label="Order of counting"
        value={naming.order.by}
        onchange={({ currentTarget: { value } }) =>
          (naming.order = { by: value as OrderBy, down: naming.order.down, moved: [] })}
        >{#each ORDERS as by (by)}<option value={by}>{ORDER_WORDS[by]}</option>{/each}</select
      >
      <button
        class="choice"
        type="button"
        onclick={() => (naming.order = { ...naming.order, down: !naming.order.down, moved: [] })}
        >{naming.order.down ? 'from the last' : 'from the first'}</button
      >{#if naming.order.moved.length}, <button
          class="choice"
          type="button"
          title="Let go of what was moved by hand"
          onclick={() => (naming.order = { ...naming.order, moved: [] })}
          >{formatCount(naming.order.moved.length)} moved by hand</button
        >{/if}; the extension
      <select class="choice" aria-label="Extension" bind:value={naming.extension}
        ><option value="keep">stays</option><option value="lower">in small letters</option><option
          value="pattern">as the pattern says it</option
        ></select
      >; where two would have one name,
      <select class="choice" aria-label="Where two would have one name" bind:value={naming.clash}
        >{#each CLASH_RULES as rule (rule)}<option value={rule}>{CLASH_WORDS[rule]}</option
          >{/each}</select
      >.
    </li>
  </ol>
  <SharedWarning places={naming.shared} />
  {#if naming.wrong}<p class="wrong" role="alert">{naming.wrong}</p>{/if}
  <p class="filters" role="group" aria-label="Which names">
    {#each filters as one (one)}
      <button
        type="button"
        class:bad={['empty', 'clashing', 'long', 'reserved'].includes(one)}
        aria-pressed={naming.filter === one}
        onclick={() => (naming.filter = one)}
        >{FILTER_WORDS[one]} <span class="mono">{formatCount(counts?.[one] ?? 0)}</span></button
      >
    {/each}
    <span class="pencil">drag a number, or Alt ↑ ↓ on it, to count it elsewhere</span>
  </p>
  <NameRows {naming} />
  {#snippet foot()}
    <button class="button act" type="button" disabled={!naming.ready} onclick={() => void rename()}>
      Rename {counted(counts?.changed ?? 0, 'item')}
    </button>
    <span aria-live="polite">
      {#if counts && counts.wrong > 0}<span class="wrong"
          >{counted(counts.wrong, 'name')} cannot be given as they are.</span
        >
      {:else}<span class="pencil">The ledger keeps the old names; Undo gives them back.</span>{/if}
    </span>
  {/snippet}
</Dialog>

<style>
  .head {
    display: flex;
    justify-content: space-between;
    align-items: center;
    gap: 16px;
    margin-bottom: 10px;
  }
  ol {
    display: grid;
    gap: 10px;
  }
  .says {
    font: 15px/1.7 var(--book);
  }
  select {
    max-width: 230px;
    font: inherit;
  }
  .filters {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 6px;
    align-items: center;
    margin: 10px 0 6px;
  }
  .filters button {
    min-height: 24px;
    padding: 1px 9px;
    border: 1px solid var(--rule);
    border-radius: 12px;
    background: var(--card);
  }
  .filters button[aria-pressed='true'] {
    border-color: var(--ink);
    background: var(--ink);
    color: var(--card);
  }
  .filters .bad:not([aria-pressed='true']) {
    border-color: var(--wax);
    color: var(--wax);
  }
  .filters .pencil {
    margin-left: auto;
  }
</style>
