<script lang="ts">
  import { COLUMN_FIELDS, toggled, USUAL_COLUMNS, type Column } from '#core/register/columns';
  import { knownField } from '#core/fields/registry';
  import SheetFilter from '../sentence/SheetFilter.svelte';
  import SheetPart from '../sentence/SheetPart.svelte';
  import SheetRow from '../sentence/SheetRow.svelte';

  interface Props {
    columns: Column[];
    onchange: (columns: Column[]) => void;
  }
  const { columns, onchange }: Props = $props();
  let filter = $state('');
  const shown = $derived(new Set(columns.map(({ key }) => key)));
  const fits = (text: string): boolean => text.toLowerCase().includes(filter.trim().toLowerCase());
  const others = $derived(
    COLUMN_FIELDS.filter(({ key, label }) => !shown.has(key) && fits(`${label} ${key}`)),
  );
  const own = $derived(columns.filter(({ key }) => fits(`${knownField(key).label} ${key}`)));
</script>

<SheetFilter
  bind:value={filter}
  label="Search among the columns"
  placeholder="search among {COLUMN_FIELDS.length} fields"
/>
{#each own as { key } (key)}
  <SheetRow on onclick={() => onchange(toggled(columns, key))}>{knownField(key).label}</SheetRow>
{/each}
{#if others.length}<SheetPart words="not shown" />{/if}
{#each others as { key, label } (key)}
  <SheetRow on={false} onclick={() => onchange(toggled(columns, key))}>{label}</SheetRow>
{/each}
<SheetPart />
<SheetRow onclick={() => onchange([...USUAL_COLUMNS])}>the usual columns</SheetRow>
