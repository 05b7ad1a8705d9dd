<script lang="ts">
  import type { Choices } from '#core/catalogue/tile';
  import type { Field } from '#core/fields/field';
  import { conditionAt, withCondition } from '#core/query/edit';
  import { is, type Condition, type Query } from '#core/query/tree';
  import { ratedWords, unitWords } from '#core/query/words';
  import { formatCount } from '#core/text/quantities';
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
  const range = $derived(now?.test === 'range' ? (now.values as (number | null)[]) : null);
  // svelte-ignore state_referenced_locally
  let from = $state<number | null>(range?.[0] ?? null);
  // svelte-ignore state_referenced_locally
  let to = $state<number | null>(range?.[1] ?? null);

  const between = (low: number | null, high: number | null): Condition =>
    low !== null && low === high
      ? is(field.key, low)
      : { field: field.key, test: 'range', values: [low, high] };
  const set = (condition: Condition): void => onchange(withCondition(query, at, condition));
  const summed = (low: number, high: number): number =>
    (found?.choices ?? [])
      .filter(({ value }) => Number(value) >= low && Number(value) <= high)
      .reduce((sum, { count }) => sum + count, 0);

  /** Values one reads through; further ones are found by a range. */
  const MOST_VALUES = 24;
  const RATINGS: [number, number][] = [
    [1, 5],
    [2, 5],
    [3, 5],
    [4, 5],
    [5, 5],
    [0, 0],
    [-1, -1],
    [0, 5],
  ];
  const isNow = (low: number, high: number): boolean => {
    const wished = between(
      low === -1 && high < 5 ? null : low,
      high === 5 && low < 5 ? null : high,
    );
    return (
      now !== null &&
      !now.not &&
      now.test === wished.test &&
      String(now.values) === String(wished.values)
    );
  };
  const tidy = (value: number): number => Number(value.toPrecision(3));
</script>

{#if field.key === 'rating'}
  <ul>
    {#each RATINGS as [low, high] (`${low} ${high}`)}
      <li>
        <SheetRow
          count={found ? summed(low, high) : null}
          on={isNow(low, high)}
          onclick={() => set(between(low, high === 5 && low < 5 ? null : high))}
          >{ratedWords(low, high)}</SheetRow
        >
      </li>
    {/each}
  </ul>
{:else}
  {#if found?.histogram && found.histogram.from < found.histogram.to}
    {@const { counts, from: first, to: last } = found.histogram}
    <div class="chart">
      {#await import('./Histogram.svelte') then { default: Histogram }}<Histogram
          {counts}
          from={first}
          to={last}
          chosen={range ? [range[0] ?? first, range[1] ?? last] : null}
          label="{field.label}, from {first} to {last}"
          onbrush={(low, high) => set(between(tidy(low), tidy(high)))}
        />{/await}
      <p class="mono pencil"><span>{first}</span><span>{last}{unitWords(field)}</span></p>
    </div>
  {/if}
  <form
    onsubmit={(event) => {
      event.preventDefault();
      if (from !== null || to !== null) set(between(from, to));
    }}
  >
    <label>from <input class="field" type="number" step="any" bind:value={from} /></label>
    <label>to <input class="field" type="number" step="any" bind:value={to} /></label>
    <button class="button act" type="submit">Set</button>
  </form>
  {#if found}
    <ul>
      {#each found.choices.slice(0, MOST_VALUES) as { value, count } (value)}
        <li>
          <SheetRow
            {count}
            on={now?.test === 'is' && now.values.includes(value)}
            onclick={() => set(is(field.key, value))}>{value}{unitWords(field)}</SheetRow
          >
        </li>
      {/each}
      {#if found.more || found.choices.length > MOST_VALUES}
        <li class="note pencil">
          {found.more ? 'Hundreds' : formatCount(found.choices.length - MOST_VALUES)} more; a range finds
          them.
        </li>
      {/if}
    </ul>
  {/if}
{/if}

<style>
  .note {
    padding: 4px 14px;
  }
  .chart {
    padding: 8px 14px 0;
  }
  .chart p {
    display: flex;
    justify-content: space-between;
  }
  form {
    display: flex;
    gap: 8px;
    align-items: center;
    padding: 8px 14px;
  }
  label {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  input {
    width: 84px;
  }
</style>
