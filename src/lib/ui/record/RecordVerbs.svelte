<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import type { FieldKey, RecordChange } from '#core/records/fields';
  import type { Balance, Merged } from '#core/records/merge';
  import { freshen } from '../common/freshen';
  import { copiedRecord, copyRecord, type Copied } from './copied';

  /** What is done with whole records: copied, put onto others, laid out by a spreadsheet's column. */
  interface Props {
    ids: Picked;
    count: number;
    q: string;
    /** Catalogue number where it is one item. */
    number: string | null;
    merged: Merged;
    terms: readonly Balance[];
    moreTerms: number;
    first: readonly FieldKey[];
    /** The card tells of what is chosen now, not of what was before. */
    isSettled: boolean;
    canDescribe: boolean;
    canManage: boolean;
    column: { field: FieldKey; text: string } | null;
    onclosecolumn: () => void;
    onchange: (values: RecordChange) => Promise<void>;
  }
  const {
    ids,
    count,
    q,
    number,
    merged,
    terms,
    moreTerms,
    first,
    isSettled,
    canDescribe,
    canManage,
    column,
    onclosecolumn,
    onchange,
  }: Props = $props();
  let copied = $state.raw<Copied | null>(null);
  let arranges = $state(false);
  let stamps = $state(false);
  let balances = $state(false);
</script>

<p class="verbs">
  {#if number}<button class="link" type="button" onclick={() => copyRecord(number, merged, terms)}
      >Copy record</button
    >{/if}
  {#if canDescribe}<button
      class="link"
      type="button"
      disabled={!isSettled}
      onclick={() => (copied = copiedRecord() ?? { number: '', values: [] })}
      >Put copied onto {count === 1 ? 'this' : 'these'}…</button
    >{/if}
  {#if canDescribe}<button class="link" type="button" onclick={() => (stamps = true)}>Stamp…</button
    >{/if}
  {#if canDescribe && count > 1}<button
      class="link"
      type="button"
      disabled={!isSettled}
      onclick={() => (balances = true)}>Terms of all…</button
    >{/if}
  {#if canManage}<button class="link" type="button" onclick={() => (arranges = true)}
      >First fields…</button
    >{/if}
</p>
{#if copied}
  {#await import('./PutDialog.svelte') then { default: PutDialog }}
    <PutDialog {copied} {merged} {terms} {count} {onchange} onclose={() => (copied = null)} />
  {/await}
{/if}
{#if column}
  {#await import('./ColumnDialog.svelte') then { default: ColumnDialog }}
    <ColumnDialog {ids} {count} {q} {...column} onclose={onclosecolumn} />
  {/await}
{/if}
{#if stamps}
  {#await import('./StampSheet.svelte') then { default: StampSheet }}
    <StampSheet {ids} {count} {q} onclose={() => (stamps = false)} />
  {/await}
{/if}
{#if balances}
  {#await import('./BalanceDialog.svelte') then { default: BalanceDialog }}
    <BalanceDialog {terms} more={moreTerms} {count} {onchange} onclose={() => (balances = false)} />
  {/await}
{/if}
{#if arranges}
  {#await import('./FirstFieldsDialog.svelte') then { default: FirstFieldsDialog }}
    <FirstFieldsDialog
      {first}
      ondone={() => void freshen('mindful:card')}
      onclose={() => (arranges = false)}
    />
  {/await}
{/if}

<style>
  .verbs {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    margin-top: 14px;
  }
  .verbs button {
    min-height: 24px;
  }
</style>
