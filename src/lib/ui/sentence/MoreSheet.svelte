<script lang="ts">
  import { ALL_FIELDS, leadOf } from '#core/fields/registry';
  import { EVERYTHING, type Query } from '#core/query/tree';

  import SheetRow from './SheetRow.svelte';

  interface Props {
    query: Query;
    onfield: (key: string) => void;
    ontype: () => void;
    onchange: (query: Query) => void;
  }
  const { query, onfield, ontype, onchange }: Props = $props();
  let filter = $state('');
  /** What is asked most stands first. */
  const FIRST = [
    'taken',
    'rating',
    'stage',
    'terms',
    'words',
    'creator',
    'creditLine',
    'collection',
    'accession',
  ];
  const PARTS = [
    ['record', 'the record'],
    ['technical', 'how it was made'],
    ['archive', 'the archive'],
  ] as const;
  const fields = $derived(
    ALL_FIELDS.filter(
      ({ key, label }) =>
        key !== 'folder' && `${label} ${key}`.toLowerCase().includes(filter.trim().toLowerCase()),
    ),
  );
</script>

<div class="filter">
  <input
    class="field"
    bind:value={filter}
    aria-label="Search among the fields"
    placeholder="search among {ALL_FIELDS.length} fields"
  />
</div>
{#if !filter}
  {#each FIRST as key (key)}
    {@const field = ALL_FIELDS.find((one) => one.key === key)!}
    <SheetRow onclick={() => onfield(key)}
      >{key === 'rating' ? 'with pips' : leadOf(field)} …</SheetRow
    >
  {/each}
{/if}
{#each PARTS as [part, words] (part)}
  {@const own = fields.filter(
    (field) => field.part === part && (filter || !FIRST.includes(field.key)),
  )}
  {#if own.length}
    <p class="part">{words}</p>
    {#each own as { key, label } (key)}
      <SheetRow onclick={() => onfield(key)}>{label} …</SheetRow>
    {/each}
  {/if}
{/each}
<p class="part"></p>
<SheetRow onclick={ontype}>type it <kbd>/</kbd></SheetRow>
<SheetRow onclick={() => onchange({ ...EVERYTHING, order: query.order })}
  >begin again with everything</SheetRow
>

<style>
  .filter {
    padding: 4px 12px 8px;
  }
  .filter input {
    width: 100%;
  }
  .part {
    margin-top: 6px;
    border-top: 1px solid var(--rule);
    padding: 6px 14px 2px;
    color: var(--pencil);
    font-size: 11.5px;
  }
</style>
