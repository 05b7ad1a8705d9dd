<script lang="ts">
  import { fieldOf, fieldsThatCan } from '#core/fields/registry';
  import { directionWords, orderWords } from '#core/query/sentence';
  import { conditionsOf, type Query } from '#core/query/tree';
  import { nounOf } from '#core/query/words';

  import SheetRow from './SheetRow.svelte';

  interface Props {
    query: Query;
    onchange: (query: Query) => void;
  }
  const { query, onchange }: Props = $props();
  const FIRST = ['taken', 'brought', 'name', 'title', 'rating', 'bytes'];
  const collected = $derived(
    [...conditionsOf(query.where)].some(({ field }) => field === 'collection'),
  );
  const orders = $derived([
    ...(collected ? ['hand'] : []),
    ...FIRST,
    ...fieldsThatCan('sort')
      .map(({ key }) => key)
      .filter((key) => !FIRST.includes(key)),
  ]);
  const DOWN = new Set(['date', 'number']);

  function order(by: string): void {
    const down = query.order.by === by ? !query.order.down : DOWN.has(fieldOf(by)?.type ?? '');
    onchange({ ...query, order: { by, down } });
  }
</script>

<label class="part">
  parted by
  <select
    value={query.group ?? ''}
    onchange={(event) => {
      const rest = { where: query.where, order: query.order };
      const chosen = event.currentTarget.value;
      onchange(chosen ? { ...rest, group: chosen } : rest);
    }}
  >
    <option value="">day, where ordered by time</option>
    <option value="none">nothing</option>
    {#each fieldsThatCan('group') as field (field.key)}<option value={field.key}
        >{nounOf(field)}</option
      >{/each}
  </select>
</label>
<ul>
  {#each orders as by (by)}
    <li>
      <SheetRow on={query.order.by === by} onclick={() => order(by)}
        >{orderWords(by)}{#if query.order.by === by}<em>
            · {query.order.down ? directionWords(by) : 'upwards'}, turn</em
          >{/if}</SheetRow
      >
    </li>
  {/each}
</ul>

<style>
  .part {
    display: flex;
    gap: 8px;
    align-items: center;
    margin-bottom: 4px;
    border-bottom: 1px solid var(--rule);
    padding: 4px 14px 10px;
  }
  select {
    min-width: 0;
    flex: 1;
  }
  em {
    color: var(--pencil);
    font-weight: 400;
  }
</style>
