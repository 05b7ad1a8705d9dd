<script lang="ts">
  import type { RecordChange } from '#core/records/fields';
  import type { Balance } from '#core/records/merge';
  import { counted, formatCount } from '#core/text/quantities';
  import Dialog from '../common/Dialog.svelte';
  import Rows from '../common/Rows.svelte';

  /** How terms are spread over what is chosen: none, some or all; changed for all of them in one step. */
  interface Props {
    terms: readonly Balance[];
    /** How many more there are than these. */
    more: number;
    count: number;
    onchange: (values: RecordChange) => Promise<void>;
    onclose: () => void;
  }
  const { terms, more: beyond, count, onchange, onclose }: Props = $props();
  type Side = 'none' | 'some' | 'all';
  let wished = $state<Record<string, Side>>({});
  let more = $state<string[]>([]);
  let typed = $state('');
  const wasOf = (term: string): Side => {
    const found = terms.find((one) => one.term === term);
    return !found ? 'none' : found.all ? 'all' : 'some';
  };
  const rows = $derived([
    ...more.map((term) => ({ term, count: 0 })),
    ...terms.map((one) => ({ term: one.term, count: one.count })),
  ]);
  const changed = $derived(
    Object.entries(wished).filter(([term, side]) => side !== wasOf(term) && side !== 'some'),
  );
  const sides = (term: string): Side[] =>
    wasOf(term) === 'some' ? ['none', 'some', 'all'] : ['none', 'all'];

  function add(): void {
    const term = typed.trim();
    typed = '';
    if (term === '') return;
    const known = rows.find((one) => one.term.toLowerCase() === term.toLowerCase())?.term;
    if (!known) more = [term, ...more];
    wished[known ?? term] = 'all';
  }
  async function put(): Promise<void> {
    const to = (side: Side): string[] =>
      changed.filter(([, own]) => own === side).map(([term]) => term);
    await onchange({ addTerms: to('all'), removeTerms: to('none') });
    onclose();
  }
</script>

<Dialog title="Terms of {counted(count, 'item')}" wide {onclose}>
  <input
    class="field"
    bind:value={typed}
    aria-label="A term for all"
    placeholder="a term for all of them"
    onkeydown={(event) => {
      event.stopPropagation();
      if (event.key === 'Enter') add();
    }}
  />
  <div class="list" role="group" aria-label="Terms">
    <Rows count={rows.length} rowHeight={32}>
      {#snippet row(at)}
        {@const one = rows[at]!}
        {@const now = wished[one.term] ?? wasOf(one.term)}
        <div class="row" class:changed={now !== wasOf(one.term)}>
          <span class="term">{one.term}</span>
          <span class="mono pencil">{one.count} of {count}</span>
          <span class="sides" role="radiogroup" aria-label={one.term}>
            {#each sides(one.term) as side (side)}
              <label
                ><input
                  type="radio"
                  name="balance-{at}"
                  checked={now === side}
                  onchange={() => (wished[one.term] = side)}
                />
                {side === 'some' ? 'as they are' : side}</label
              >
            {/each}
          </span>
        </div>
      {/snippet}
    </Rows>
  </div>
  {#if beyond > 0}<p class="pencil">
      {formatCount(beyond)} less frequent ones are not shown; write them above to give them to all.
    </p>{/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={changed.length === 0}
      onclick={() => void put()}>Change {counted(changed.length, 'term')}</button
    >
    <span class="pencil">One step, for all of them; the ledger takes it back.</span>
  {/snippet}
</Dialog>

<style>
  .field {
    width: 320px;
  }
  .list {
    height: 320px;
    margin-top: 12px;
    border: 1px solid var(--rule);
    background: var(--paper);
  }
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 110px 240px;
    gap: 14px;
    align-items: center;
    height: 32px;
    padding: 0 10px;
    border-bottom: 1px solid var(--rule);
  }
  .changed {
    background: var(--wash);
  }
  .term {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sides {
    display: flex;
    gap: 14px;
  }
  .sides input {
    margin: 0;
  }
  .sides label {
    display: flex;
    gap: 5px;
    align-items: center;
    min-height: 24px;
  }
</style>
