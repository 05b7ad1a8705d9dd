<script lang="ts">
  import { can } from '#core/people/roles';
  import { counted, formatBytes, formatCount } from '#core/text/quantities';
  import { api } from '$lib/ui/common/api';
  import Dialog from '$lib/ui/common/Dialog.svelte';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
  const mayChange = $derived(can(data.actor.role, 'rename'));
  const pages = $derived(Math.ceil(data.total / data.size));
  /** What is asked about before it goes for good: one step, or all. */
  let asked = $state<{ operation: string | null; what: string } | null>(null);

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:wastebasket'), 500);
    return hear(({ about }) => {
      if (about === 'items' || about === 'job' || about === 'again') soon();
    });
  });
  async function giveBack(id: string): Promise<void> {
    await api.post(`/api/ledger/${id}/undo`, {});
    sayDone('They are on their way back.');
  }
  async function remove(): Promise<void> {
    const { operation } = asked!;
    asked = null;
    const gone = await api.delete('/api/wastebasket', { operation });
    sayDone(
      `${counted(gone.files, 'file')} removed for good, ${formatBytes(gone.bytes)} free.` +
        (gone.kept > 0 ? ` ${counted(gone.kept, 'file')} could not be removed.` : ''),
    );
    await freshen('mindful:wastebasket');
  }
</script>

<svelte:head><title>Wastebasket · Mindful Archive</title></svelte:head>

<div class="page">
  <p><a class="link" href="/ledger">Ledger</a></p>
  <h1>Wastebasket</h1>
  <div class="top">
    <p class="pencil">
      {data.total > 0
        ? `What was let go lies on the disk of its place until it is removed: ${formatBytes(data.bytes)}.`
        : 'Nothing was let go. What is put here from the wall or after a pass can be given back.'}
    </p>
    {#if mayChange && data.total > 0}<button
        class="button"
        type="button"
        onclick={() => (asked = { operation: null, what: formatBytes(data.bytes) })}
        >Empty it</button
      >{/if}
  </div>
  {#if data.lines.length > 0}
    <table>
      <thead
        ><tr
          ><th>When</th><th>Who</th><th>What</th><th class="size">Size</th><th
            ><span class="unseen">Give back or remove</span></th
          ></tr
        ></thead
      >
      <tbody>
        {#each data.lines as { id, at, actor, items, bytes, names } (id)}
          <tr>
            <td class="when">{instant(at)}</td>
            <td>{actor}</td>
            <td>
              <span>{counted(items, 'item')}</span>
              <ul>
                {#each names as { name, folder, number } (number)}
                  <li title="{number} · {folder}">
                    <span class="mono">{name}</span>
                  </li>
                {/each}
                {#if items > names.length}<li class="pencil">
                    and {formatCount(items - names.length)} more
                  </li>{/if}
              </ul>
            </td>
            <td class="size mono">{formatBytes(bytes)}</td>
            <td class="acts">
              {#if mayChange}
                <button class="link" type="button" onclick={() => void giveBack(id).catch(sayWrong)}
                  >Give back</button
                >
                <button
                  class="link"
                  type="button"
                  onclick={() => (asked = { operation: id, what: counted(items, 'item') })}
                  >Remove for good</button
                >
              {/if}
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  {#if pages > 1}<p class="turn">
      {#if data.at > 0}<a class="link" href="?page={data.at - 1}">Newer</a>{/if}
      <span class="pencil">page {data.at + 1} of {formatCount(pages)}</span>
      {#if data.at + 1 < pages}<a class="link" href="?page={data.at + 1}">Older</a>{/if}
    </p>{/if}
</div>

{#if asked}
  <Dialog title="Remove for good" onclose={() => (asked = null)}>
    <p>
      {asked.what} are removed from the disk. <strong>Nothing gives them back</strong>: no ledger,
      no undo. Copies elsewhere stay.
    </p>
    {#snippet foot()}
      <button class="button act" type="button" onclick={() => void remove().catch(sayWrong)}
        >Remove for good</button
      >
    {/snippet}
  </Dialog>
{/if}

<style>
  .page {
    padding: 26px 32px;
    max-width: 1080px;
  }
  .top {
    display: flex;
    gap: 20px;
    justify-content: space-between;
    align-items: center;
    margin: 6px 0 14px;
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th,
  td {
    padding: 9px 12px 9px 0;
    border-bottom: 1px solid var(--rule);
    text-align: left;
    vertical-align: top;
  }
  .when,
  .acts {
    white-space: nowrap;
  }
  .acts {
    text-align: right;
  }
  .acts .link + .link {
    margin-left: 14px;
  }
  .size {
    text-align: right;
    white-space: nowrap;
  }
  ul {
    display: flex;
    flex-wrap: wrap;
    gap: 8px 14px;
    margin: 6px 0 0;
    padding: 0;
    list-style: none;
  }
  li {
    display: flex;
    gap: 6px;
    align-items: center;
    font-size: 11.5px;
  }
  .turn {
    display: flex;
    gap: 16px;
    margin-top: 16px;
  }
</style>
