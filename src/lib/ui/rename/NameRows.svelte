<script lang="ts">
  import Changes from '../common/Changes.svelte';
  import type { Naming } from './naming.svelte';
  import { dragged } from '../common/drag';

  /** Every name before and after, as far as they are seen; rows are dragged to count them elsewhere. */
  const { naming }: { naming: Naming } = $props();
  const canMove = $derived(naming.filter === 'all');

  /** The item of the row behind this one, past what goes along with it. */
  function next(at: number): string | null {
    const own = naming.row(at)?.id;
    for (let other = at + 1; ; other += 1) {
      const row = naming.row(other);
      if (!row) return null;
      if (row.id !== own) return row.id;
    }
  }
  function keys(event: KeyboardEvent, at: number): void {
    const row = naming.row(at);
    if (!event.altKey || !row || !canMove) return;
    if (event.key === 'ArrowUp') {
      const above = naming.row(at - 1);
      if (above) naming.move(row.id, above.id);
    } else if (event.key === 'ArrowDown') {
      const below = next(at);
      if (below) naming.move(below, row.id);
    } else return;
    event.preventDefault();
  }
</script>

<Changes
  label="Names before and after"
  count={naming.total}
  columns="44px minmax(0, 1fr) minmax(0, 1.2fr) minmax(0, 0.9fr)"
  isBad={(at) => Boolean(naming.row(at)?.problem)}
  onvisible={(from, to) => naming.see(from, to)}
>
  {#snippet cells(at)}
    {@const line = naming.row(at)}
    {#if line}
      <span role="cell">
        {#if !line.along}
          <!-- The handle is what is dragged and what the keys move. -->
          <button
            type="button"
            class="mono"
            disabled={!canMove}
            aria-label="Place {at + 1} of the count: {line.before}"
            use:dragged={{
              kind: 'row',
              id: line.id,
              isFixed: !canMove,
              takes: { row: canMove ? (id) => naming.move(id, line.id) : undefined },
            }}
            onkeydown={(event) => keys(event, at)}>{at + 1}</button
          >
        {/if}
      </span>
      <span class="mono pencil" class:along={line.along} role="cell" title={line.before}
        >{line.before}</span
      >
      <span class="mono" role="cell" class:same={line.before === line.after} title={line.after}
        >{line.after.slice(0, line.from)}{#if line.to > line.from}<mark
            >{line.after.slice(line.from, line.to)}</mark
          >{/if}{line.after.slice(line.to)}</span
      >
      <span role="cell" class={line.problem ? 'wrong' : 'caution'} title={line.problem ?? undefined}
        >{line.problem ?? line.word}</span
      >
    {/if}
  {/snippet}
</Changes>

<style>
  button {
    min-width: 40px;
    min-height: 24px;
    border: 0;
    background: none;
    color: var(--pencil);
    font-size: 11.5px;
    text-align: right;
    cursor: grab;
  }
  button:disabled {
    cursor: default;
  }
  button:global(.over) {
    box-shadow: inset 0 2px 0 var(--verdigris);
  }
  mark {
    background: color-mix(in srgb, var(--verdigris) 18%, transparent);
    color: inherit;
  }
  .along {
    padding-left: 16px;
  }
  .same {
    color: var(--pencil);
  }
</style>
