<script lang="ts">
  import { SvelteSet } from 'svelte/reactivity';
  import { folded } from '#core/ledger/fold';
  import { counted, formatCount } from '#core/text/quantities';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import LedgerFilter from '$lib/ui/ledger/LedgerFilter.svelte';
  import LedgerRow from '$lib/ui/ledger/LedgerRow.svelte';
  import { DEEDS } from '#core/deeds/kinds';
  import type { Line } from '$lib/ui/ledger/line';
  import { api } from '$lib/ui/common/api';
  import UndoMany from '$lib/ui/ledger/UndoMany.svelte';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const folds = $derived(folded<Line>(data.lines));
  let takesBack = $state(false);
  const unfolded = new SvelteSet<string>();
  const pages = $derived(Math.ceil(data.total / data.size));

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:ledger'), 600);
    return hear(({ about }) => {
      if (about === 'job' || about === 'items' || about === 'again') soon();
    });
  });
  const said = $derived(
    Object.entries(data.wish).filter((part): part is [string, string] => !!part[1]),
  );
  const turned = (at: number): string =>
    `/ledger?${new URLSearchParams([...said, ['page', String(at)]]).toString()}`;
  const table = $derived(`/api/ledger/csv?${new URLSearchParams(said).toString()}`);
</script>

<svelte:head><title>Ledger · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>Ledger</h1>
  <p class="pencil">
    What was done to files and records, by whom, and its undo.
    <a class="link" href="/ledger/wastebasket">Wastebasket</a>
  </p>
  <LedgerFilter wish={data.wish} people={data.people} />
  <p class="pencil counted">
    <span aria-live="polite">{counted(data.total, 'change')}</span>
    {#if data.total > 0}<a class="link" href={table} download>Every step as CSV</a>{/if}
    {#if said.length > 0 && data.total > 0}<button
        class="link"
        type="button"
        onclick={() => (takesBack = true)}>Take all of these back …</button
      >{/if}
  </p>
  <table>
    <thead
      ><tr
        ><th>When</th><th>Who</th><th>What</th><th>State</th><th
          ><span class="unseen">Undo</span></th
        ></tr
      ></thead
    >
    <tbody>
      {#each folds as { key, lines, total } (key)}
        {@const [newest] = lines}
        {#if lines.length === 1}
          <LedgerRow line={newest!} role={data.actor.role} />
        {:else}
          <tr>
            <td class="when">{instant(newest!.at)}</td>
            <td>{newest!.actor}</td>
            <td>
              <button
                class="what"
                type="button"
                aria-expanded={unfolded.has(key)}
                onclick={() => (unfolded.has(key) ? unfolded.delete(key) : unfolded.add(key))}
                >{newest!.summary}</button
              >
              <span class="pencil"
                >{formatCount(lines.length)} times since {instant(lines.at(-1)!.at)}, {counted(
                  total,
                  DEEDS[newest!.kind].countedIn,
                )}</span
              >
            </td>
            <td>{newest!.undone ? 'undone' : ''}</td>
            <td></td>
          </tr>
          {#if unfolded.has(key)}
            {#each lines as line (line.id)}<LedgerRow {line} role={data.actor.role} within />{/each}
          {/if}
        {/if}
      {:else}<tr
          ><td colspan="5"
            >{Object.values(data.wish).some(Boolean)
              ? 'Nothing was changed that is so.'
              : 'Nothing was changed yet.'}</td
          ></tr
        >{/each}
    </tbody>
  </table>
  {#if pages > 1}<p class="turn">
      {#if data.at > 0}<a class="link" href={turned(data.at - 1)}>Newer</a>{/if}
      <span class="pencil">page {data.at + 1} of {formatCount(pages)}</span>
      {#if data.at + 1 < pages}<a class="link" href={turned(data.at + 1)}>Older</a>{/if}
    </p>{/if}
</div>

{#if takesBack}
  <UndoMany
    title="Take these changes back"
    role={data.actor.role}
    ask={() => api.get('/api/ledger/undo', Object.fromEntries(said))}
    onclose={() => (takesBack = false)}
  />
{/if}

<style>
  .page {
    height: 100%;
    padding: 20px 24px 40px;
    overflow: auto;
  }
  .counted {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 14px;
    align-items: baseline;
    margin-top: 6px;
  }
  .counted .link {
    display: inline-flex;
    align-items: center;
    min-height: 24px;
  }
  h1 {
    font-size: 28px;
  }
  table {
    width: 100%;
    margin-top: 16px;
    border-collapse: collapse;
  }
  th {
    padding: 4px 12px 4px 0;
    border-bottom: 1px solid var(--ink);
    color: var(--pencil);
    font-size: 11.5px;
    text-align: left;
  }
  .turn {
    display: flex;
    gap: 16px;
    margin-top: 12px;
  }
  td {
    padding: 7px 12px 7px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: baseline;
  }
  .when {
    white-space: nowrap;
  }
  .what {
    border: 0;
    padding: 0;
    background: none;
    font: 16.5px var(--book);
    text-align: left;
  }
  .what:hover {
    color: var(--verdigris);
  }
  @media (max-width: 760px) {
    .page {
      padding: 12px 8px 40px;
    }
    /* Each change is a card: when and who above, what below. */
    table,
    tbody,
    table :global(tr),
    table :global(td) {
      display: block;
    }
    table :global(tr) {
      padding: 8px 0;
      border-bottom: 1px solid var(--rule);
    }
    table :global(td) {
      padding: 1px 0;
      border: 0;
    }
    thead {
      display: none;
    }
  }
</style>
