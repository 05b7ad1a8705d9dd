<script lang="ts">
  import type { Snippet } from 'svelte';
  import Rows from './Rows.svelte';

  /** What would change, a row for each: seen before it is done. */
  interface Props {
    label: string;
    count: number;
    /** Widths of the cells, as a grid's columns. */
    columns: string;
    /** Rows that cannot be done as they are. */
    isBad?: (index: number) => boolean;
    cells: Snippet<[index: number]>;
    onvisible?: (from: number, to: number) => void;
  }
  const { label, count, columns, isBad = () => false, cells, onvisible }: Props = $props();
</script>

<div class="table" role="table" aria-label={label} aria-rowcount={count}>
  <Rows {count} rowHeight={26} plain {onvisible}>
    {#snippet row(at)}
      <div
        class="row"
        class:bad={isBad(at)}
        role="row"
        aria-rowindex={at + 1}
        style:grid-template-columns={columns}
      >
        {@render cells(at)}
      </div>
    {/snippet}
  </Rows>
</div>

<style>
  .table {
    height: 290px;
    border: 1px solid var(--rule);
    background: var(--paper);
  }
  .row {
    display: grid;
    gap: 16px;
    align-items: center;
    height: 26px;
    padding: 0 10px;
    border-bottom: 1px solid color-mix(in srgb, var(--rule) 60%, transparent);
  }
  .row > :global(*) {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .bad {
    background: color-mix(in srgb, var(--wax) 9%, transparent);
  }
</style>
