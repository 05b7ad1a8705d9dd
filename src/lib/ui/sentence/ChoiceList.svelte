<script lang="ts">
  import type { Choice, Choices } from '#core/catalogue/tile';
  import type { Field } from '#core/fields/field';
  import { conditionAt, toggled } from '#core/query/edit';
  import type { Query } from '#core/query/tree';
  import SheetFilter from './SheetFilter.svelte';
  import SheetRow from './SheetRow.svelte';

  interface Props {
    query: Query;
    at: number;
    field: Field;
    found: Choices | null;
    filter: string;
    onchange: (query: Query) => void;
  }
  let { query, at, field, found, filter = $bindable(''), onchange }: Props = $props();
  const now = $derived(conditionAt(query, at, field.key));
  const values = $derived(now && now.test !== 'has' ? now.values : []);

  interface Row extends Choice {
    depth: number;
  }
  /** Choices under the one they lie below; what lies below nothing here stands at the edge. */
  const rows = $derived.by((): Row[] => {
    const all = found?.choices ?? [];
    if (!all.some(({ under }) => under)) return all.map((one) => ({ ...one, depth: 0 }));
    const known = new Set(all.map(({ value }) => value));
    const below: Record<string, Choice[]> = {};
    for (const one of all) {
      const under = one.under && known.has(one.under) ? one.under : '';
      (below[under] ??= []).push(one);
    }
    const laid: Row[] = [];
    const walk = (under: string, depth: number): void => {
      for (const one of below[under] ?? []) {
        laid.push({ ...one, depth });
        if (depth < 12 && one.value !== '') walk(String(one.value), depth + 1);
      }
    };
    walk('', 0);
    return laid;
  });
  const many = $derived((found?.choices.length ?? 0) > 12 || filter !== '');
</script>

{#if many}
  <SheetFilter
    bind:value={filter}
    label="Search among the choices"
    placeholder="search among the choices"
  />
{/if}
<ul>
  {#each rows as row (row.value)}
    <li>
      <SheetRow
        count={row.count}
        on={values.includes(row.value)}
        depth={row.depth}
        onclick={() => onchange(toggled(query, at, field, row.value))}
        >{#if field.type === 'colour'}<i class="swatch" style="background:{row.value}"
          ></i>{/if}{row.label}</SheetRow
      >
    </li>
  {:else}
    <li class="note pencil">{found === null ? 'Counting …' : 'Nothing to choose.'}</li>
  {/each}
  {#if found?.more}<li class="note pencil">There are more; letters find them.</li>{/if}
</ul>

<style>
  .swatch {
    display: inline-block;
    width: 14px;
    height: 14px;
    margin-right: 8px;
    border: 1px solid var(--rule);
    border-radius: 2px;
    vertical-align: -2px;
  }
  .note {
    padding: 4px 14px;
  }
</style>
