<script lang="ts">
  import { COLUMN_FIELDS, toggled, USUAL_COLUMNS, type Column } from '#core/register/columns';
  import { knownField } from '#core/fields/registry';
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

<div class="filter">
  <input
    class="field"
    bind:value={filter}
    aria-label="Search among the columns"
    placeholder="search among {COLUMN_FIELDS.length} fields"
  />
</div>
{#each own as { key } (key)}
  <SheetRow on onclick={() => onchange(toggled(columns, key))}>{knownField(key).label}</SheetRow>
{/each}
{#if others.length}<p class="part">not shown</p>{/if}
{#each others as { key, label } (key)}
  <SheetRow on={false} onclick={() => onchange(toggled(columns, key))}>{label}</SheetRow>
{/each}
<p class="part"></p>
<SheetRow onclick={() => onchange([...USUAL_COLUMNS])}>the usual columns</SheetRow>

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
