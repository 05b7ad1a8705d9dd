<script lang="ts">
  import type { Choices } from '#core/catalogue/tile';
  import type { Field } from '#core/fields/field';
  import { conditionAt, withCondition } from '#core/query/edit';
  import type { Test } from '#core/fields/types';
  import { LAST_UNITS, type LastUnit, type Query } from '#core/query/tree';
  import { dateWords } from '#core/query/words';
  import { MONTHS } from '#core/text/dateWords';
  import { takenFromText } from '#core/records/taken';
  import SheetRow from './SheetRow.svelte';

  interface Props {
    query: Query;
    at: number;
    field: Field;
    found: Choices | null;
    onchange: (query: Query) => void;
  }
  const { query, at, field, found, onchange }: Props = $props();
  const now = $derived(conditionAt(query, at, field.key));
  const WAYS: { test: Test; label: string }[] = [
    { test: 'within', label: 'within' },
    { test: 'before', label: 'before' },
    { test: 'after', label: 'after' },
    { test: 'overlaps', label: 'perhaps in' },
  ];
  // svelte-ignore state_referenced_locally
  let test = $state<Test>(now && WAYS.some((way) => way.test === now.test) ? now.test : 'within');
  // svelte-ignore state_referenced_locally
  let text = $state(now && WAYS.some((way) => way.test === now.test) ? String(now.values[0]) : '');
  let count = $state(30);
  let unit = $state<LastUnit>('days');
  let wrong = $state('');

  const set = (next: Test, ...values: (string | number)[]): void =>
    onchange(withCondition(query, at, { field: field.key, test: next, values }));

  function accept(): void {
    const value = text.trim();
    if (!value) return onchange(withCondition(query, at, null));
    if (!takenFromText(value))
      return void (wrong = `“${value}” is no date; write 2026, 2026-09 or 2026-09-01/2026-09-12.`);
    set(test, value);
  }
  const months = $derived((found?.choices ?? []).filter(({ value }) => String(value).length === 7));
  /** Months of the whole span, empty ones too. */
  const spread = $derived.by(() => {
    if (months.length < 2) return null;
    const indexOf = (value: unknown): number => {
      const [year = 0, month = 1] = String(value).split('-').map(Number);
      return year * 12 + month - 1;
    };
    const all = months.map(({ value, count: held }) => ({ at: indexOf(value), held }));
    const first = Math.min(...all.map((one) => one.at));
    const last = Math.max(...all.map((one) => one.at)) + 1;
    const bars = Math.min(90, last - first);
    const counts = new Array<number>(bars).fill(0);
    for (const one of all)
      counts[Math.min(bars - 1, Math.floor(((one.at - first) / (last - first)) * bars))]! +=
        one.held;
    return { first, last, counts };
  });
  const monthText = (month: number): string =>
    `${Math.floor(month / 12)}-${String((month % 12) + 1).padStart(2, '0')}`;
  const nowValue = $derived(now?.test === 'within' ? String(now.values[0]) : '');
</script>

<form onsubmit={(event) => (event.preventDefault(), accept())}>
  <select bind:value={test} aria-label="How">
    {#each WAYS as way (way.test)}<option value={way.test}>{way.label}</option>{/each}
  </select>
  <input
    class="field"
    bind:value={text}
    aria-label="Date or span"
    placeholder="2026-09-01/2026-09-12"
  />
  <button class="button act" type="submit">Set</button>
</form>
{#if wrong}<p class="wrong note" role="alert">{wrong}</p>{/if}
<form onsubmit={(event) => (event.preventDefault(), set('last', count, unit))}>
  <span>the last</span>
  <input
    class="field few"
    type="number"
    min="1"
    max="10000"
    bind:value={count}
    aria-label="How many"
  />
  <select bind:value={unit} aria-label="Of what"
    >{#each LAST_UNITS as one (one)}<option value={one}>{one}</option>{/each}</select
  >
  <button class="button" type="submit">Set</button>
</form>
<form onsubmit={(event) => event.preventDefault()}>
  <span>each</span>
  <select
    aria-label="Each month"
    value={now?.test === 'each' ? String(now.values[0]).slice(0, 2) : ''}
    onchange={(event) => event.currentTarget.value && set('each', event.currentTarget.value)}
  >
    <option value="">month of every year</option>
    {#each MONTHS as month, index (month)}<option value={String(index + 1).padStart(2, '0')}
        >{month}</option
      >{/each}
  </select>
</form>
{#if spread}
  <div class="chart">
    {#await import('./Histogram.svelte') then { default: Histogram }}<Histogram
        counts={spread.counts}
        from={spread.first}
        to={spread.last}
        height={56}
        label="How many were taken when"
        onbrush={(low, high) => {
          const [first, last] = [
            monthText(Math.floor(low)),
            monthText(Math.max(Math.floor(low), Math.ceil(high) - 1)),
          ];
          set('within', first === last ? first : `${first}/${last}`);
        }}
      />{/await}
  </div>
{/if}
<ul>
  {#each found?.choices ?? [] as { value, count: held, under } (value)}
    <li>
      <SheetRow
        count={held}
        on={nowValue === value}
        depth={under ? 1 : 0}
        onclick={() => set('within', value)}>{dateWords(String(value))}</SheetRow
      >
    </li>
  {:else}<li class="note pencil">{found ? 'No dates here.' : 'Counting …'}</li>{/each}
</ul>

<style>
  form {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 4px 14px;
  }
  .field {
    min-width: 0;
    flex: 1;
  }
  .few {
    max-width: 72px;
  }
  .chart {
    padding: 8px 14px;
  }
  .note {
    padding: 4px 14px;
  }
</style>
