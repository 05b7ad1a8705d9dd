<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { sayDone } from '../common/notices.svelte';
  import { instant } from '../wall/dates';

  interface Report {
    number: string;
    title: string;
    place: string;
    mode: string;
    state: string;
    done: number;
    skipped: number;
    failed: number;
    open: number;
    createdAt: string;
    left: { path: string; state: string; reason: string | null }[];
  }
  interface Props {
    id: string;
    onclose: () => void;
  }
  const { id, onclose }: Props = $props();
  let report = $state<Report | null>(null);
  let wrong = $state('');

  $effect(() => {
    api.get<Report>(`/api/intake/accessions/${id}`).then(
      (found) => (report = found),
      (error: Error) => (wrong = error.message),
    );
  });
  async function retry(): Promise<void> {
    try {
      await api.post(`/api/intake/accessions/${id}`);
      sayDone('Trying the files that failed once more.');
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<Dialog title={report ? `Accession ${report.number}` : 'Accession'} wide {onclose}>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if report}
    <p class="lead">
      {report.title}: {counted(report.done, 'item')}
      {report.mode === 'in-place' ? 'kept in place in' : 'copied into'}
      {report.place}, {report.skipped} left out,
      {report.failed} failed{report.open ? `, ${report.open} to come` : ''}. Begun {instant(
        report.createdAt,
      )}.
    </p>
    {#if report.left.length}
      <table>
        <thead><tr><th>File</th><th>What became of it</th></tr></thead>
        <tbody>
          {#each report.left as line (line.path)}
            <tr
              ><td class="mono">{line.path}</td><td class:wrong={line.state === 'failed'}
                >{line.reason}</td
              ></tr
            >
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
  {#snippet foot()}
    {#if report}
      <a class="button" href="/catalogue?q={encodeURIComponent(`accession ${report.number}`)}"
        >See its items</a
      >
      {#if report.failed > 0}<button class="button act" type="button" onclick={() => void retry()}
          >Try what failed again</button
        >{/if}
    {/if}
  {/snippet}
</Dialog>

<style>
  .lead {
    margin-bottom: 12px;
    font: 16.5px/1.4 var(--book);
  }
  table {
    width: 100%;
    border-collapse: collapse;
  }
  th {
    color: var(--pencil);
    font-size: 11.5px;
    text-align: left;
  }
  td {
    padding: 3px 8px 3px 0;
    border-top: 1px solid var(--rule);
    overflow-wrap: anywhere;
  }
</style>
