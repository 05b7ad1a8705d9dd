<script lang="ts">
  import { ALL_FIELDS, leadOf } from '#core/fields/registry';
  import { EVERYTHING, type Query } from '#core/query/tree';
  import SheetFilter from './SheetFilter.svelte';
  import SheetPart from './SheetPart.svelte';
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

<SheetFilter
  bind:value={filter}
  label="Search among the fields"
  placeholder="search among {ALL_FIELDS.length} fields"
/>
{#if !filter}
  {#each FIRST as key (key)}
    {@const field = ALL_FIELDS.find((one) => one.key === key)!}
    <SheetRow onclick={() => onfield(key)}
      >{key === 'rating' ? 'with pips' : leadOf(field)} …</SheetRow
    >
  {/each}
{/if}
{#if 'spans'.includes(filter.trim().toLowerCase())}
  <SheetRow onclick={() => onchange({ ...query, where: [...query.where, { spans: [] }] })}
    >with spans …</SheetRow
  >
{/if}
{#each PARTS as [part, words] (part)}
  {@const own = fields.filter(
    (field) => field.part === part && (filter || !FIRST.includes(field.key)),
  )}
  {#if own.length}
    <SheetPart {words} />
    {#each own as { key, label } (key)}
      <SheetRow onclick={() => onfield(key)}>{label} …</SheetRow>
    {/each}
  {/if}
{/each}
<SheetPart />
<SheetRow onclick={ontype}>type it <kbd>/</kbd></SheetRow>
<SheetRow onclick={() => onchange({ ...EVERYTHING, order: query.order })}
  >begin again with everything</SheetRow
>
