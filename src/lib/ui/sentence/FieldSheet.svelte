<script lang="ts">
  import type { Choices } from '#core/catalogue/tile';
  import { can, hasWords, knownField, lacksWords } from '#core/fields/registry';
  import { conditionAt, saying, turned, withCondition } from '#core/query/edit';
  import { formatQuery } from '#core/query/grammar';
  import { replaced, type Query } from '#core/query/tree';
  import { TYPES } from '#core/fields/types';
  import { api } from '../common/api';
  import Segments from '../common/Segments.svelte';
  import ChoiceList from './ChoiceList.svelte';
  import DateSheet from './DateSheet.svelte';
  import NumberSheet from './NumberSheet.svelte';
  import SheetRow from './SheetRow.svelte';
  import TextSheet from './TextSheet.svelte';

  interface Props {
    query: Query;
    /** Index of the condition; −1 for one that would be added. */
    at: number;
    field: string;
    onchange: (query: Query) => void;
  }
  const { query, at, field: key, onchange }: Props = $props();
  const field = $derived(knownField(key));
  const now = $derived(conditionAt(query, at, key));
  const isCounted = $derived(can(field, 'count') && TYPES[field.type].choices !== 'none');
  let found = $state<Choices | null>(null);
  let filter = $state('');
  let wrong = $state('');

  $effect(() => {
    if (!isCounted) return;
    const typed = filter.trim();
    const soon = setTimeout(
      () =>
        void api
          .get('/api/catalogue/choices', { q: formatQuery(query), field: key, at, typed })
          .then((choices) => {
            if (typed === filter.trim()) found = choices;
          })
          .catch((error: Error) => (wrong = error.message)),
      typed ? 150 : 0,
    );
    return () => clearTimeout(soon);
  });
</script>

{#if wrong}<p class="wrong note" role="alert">{wrong}</p>{/if}
{#if now && now.test !== 'has'}
  <div class="turn">
    <Segments
      label="This, or anything but this"
      options={[
        { value: 'this', words: 'this' },
        { value: 'not', words: 'anything but this' },
      ]}
      value={now.not ? 'not' : 'this'}
      onchange={() => onchange(withCondition(query, at, turned(now)))}
      wide
    />
  </div>
{/if}
{#if field.type === 'number'}
  <NumberSheet {query} {at} {field} {found} {onchange} />
{:else if field.type === 'date'}
  <DateSheet {query} {at} {field} {found} {onchange} />
{:else if isCounted}
  {#if ['text', 'names', 'colour'].includes(field.type)}<TextSheet
      {query}
      {at}
      {field}
      {onchange}
    />{/if}
  <ChoiceList {query} {at} {field} {found} bind:filter {onchange} />
{:else}
  <TextSheet {query} {at} {field} {onchange} />
{/if}
<div class="ends">
  {#if TYPES[field.type].tests.includes('has')}
    {#each [true, false] as says (says)}
      <SheetRow
        count={says ? null : (found?.lacking ?? null)}
        on={now?.test === 'has' && (now.not !== true) === says}
        onclick={() => onchange(withCondition(query, at, saying(field, says)))}
        >{says ? hasWords(field) : lacksWords(field)}</SheetRow
      >
    {/each}
  {/if}
  {#if at >= 0}
    <SheetRow onclick={() => onchange(replaced(query, at, null))}>any: leave this out</SheetRow>
  {/if}
</div>

<style>
  .note {
    padding: 4px 14px;
  }
  .ends {
    margin-top: 4px;
    border-top: 1px solid var(--rule);
    padding-top: 4px;
  }
  .turn {
    margin: 2px 12px 8px;
  }
</style>
