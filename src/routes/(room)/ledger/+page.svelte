<script lang="ts">
  import { can } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { api, Problem } from '$lib/ui/common/api';
  import { freshen } from '$lib/ui/common/freshen';
  import { calmly, hear } from '$lib/ui/common/live';
  import { sayDone, sayWrong } from '$lib/ui/common/notices.svelte';
  import { instant } from '$lib/ui/wall/dates';
  import type { PageProps } from './$types';

  interface Step {
    position: number;
    number: string;
    before: Record<string, unknown>;
    after: Record<string, unknown>;
    state: string;
    reason: string | null;
  }
  const { data }: PageProps = $props();
  let opened = $state<string | null>(null);
  let steps = $state.raw<Step[]>([]);
  type Line = (typeof data.lines)[number];
  const mayUndo = (line: Line): boolean =>
    line.canUndo && can(data.actor.role, line.kind === 'record' ? 'describe' : 'rename');

  $effect(() => {
    const soon = calmly(() => void freshen('mindful:ledger'), 600);
    return hear(({ about }) => {
      if (about === 'job' || about === 'items' || about === 'again') soon();
    });
  });
  async function open(id: string): Promise<void> {
    opened = opened === id ? null : id;
    steps = [];
    if (opened)
      steps = await api
        .get<Step[]>(`/api/ledger/${id}`)
        .catch((error: unknown) => (sayWrong(error), []));
  }
  /** An undo that later changes stand in the way of, and why. */
  let stands = $state<{ id: string; why: string; rest: number } | null>(null);
  async function undo(line: Line, partly = false): Promise<void> {
    stands = null;
    try {
      await api.post(`/api/ledger/${line.id}/undo`, { partly });
      sayDone(`Undoing: ${line.summary}.`);
      await freshen('mindful:ledger');
    } catch (error) {
      const rest = error instanceof Problem ? error.data['rest'] : undefined;
      if (typeof rest === 'number') stands = { id: line.id, why: (error as Problem).message, rest };
      else sayWrong(error);
    }
  }
  const LABELS: Record<string, string> = {
    name: '',
    creditLine: 'credit line: ',
    copyrightNotice: 'copyright notice: ',
  };
  function words(values: Record<string, unknown>): string {
    const parts = Object.entries(values).map(([key, value]) => {
      const text = Array.isArray(value)
        ? value.join('; ')
        : value && typeof value === 'object'
          ? String((value as { edtf?: string }).edtf ?? '')
          : String(value ?? '');
      return `${LABELS[key] ?? `${key}: `}${text || 'nothing'}`;
    });
    return parts.join(' · ');
  }
  function stateOf(line: Line): string {
    if (line.undone) return 'undone';
    if (line.state !== 'done') return line.state === 'doing' ? 'at work' : 'waiting';
    return line.failed ? `done, ${line.failed} failed` : 'done';
  }
</script>

<svelte:head><title>Ledger · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>Ledger</h1>
  <p class="pencil">What was done to files and records, by whom, and its undo.</p>
  <table>
    <thead
      ><tr
        ><th>When</th><th>Who</th><th>What</th><th>State</th><th
          ><span class="unseen">Undo</span></th
        ></tr
      ></thead
    >
    <tbody>
      {#each data.lines as line (line.id)}
        <tr class:gone={line.undone}>
          <td class="when">{instant(line.at)}</td>
          <td>{line.actor}</td>
          <td>
            <button
              class="what"
              type="button"
              aria-expanded={opened === line.id}
              onclick={() => void open(line.id)}>{line.summary}</button
            >
            <span class="pencil"
              >{counted(line.total, line.kind === 'rename' ? 'file' : 'record')}</span
            >
          </td>
          <td>{stateOf(line)}</td>
          <td class="act"
            >{#if mayUndo(line)}<button class="button" type="button" onclick={() => void undo(line)}
                >{line.undoes ? 'Do again' : 'Undo'}</button
              >{/if}</td
          >
        </tr>
        {#if stands?.id === line.id}
          <tr class="steps">
            <td colspan="5">
              <p class="stands" role="alert">
                <span class="wrong">{stands.why}</span>
                {#if stands.rest > 0}<button
                    class="button"
                    type="button"
                    onclick={() => void undo(line, true)}
                    >Give the rest back: {counted(stands.rest, 'record')}</button
                  >{/if}
                <button class="link" type="button" onclick={() => (stands = null)}>Leave it</button>
              </p>
            </td>
          </tr>
        {/if}
        {#if opened === line.id}
          <tr class="steps">
            <td colspan="5">
              <ul>
                {#each steps as step (step.position)}
                  <li>
                    <span class="mono pencil">{step.number}</span><span class="mono"
                      >{words(step.before)}</span
                    ><span class="mono">→ {words(step.after)}</span>{#if step.reason}<span
                        class="wrong">{step.reason}</span
                      >{/if}
                  </li>
                {:else}<li>Reading …</li>{/each}
              </ul>
            </td>
          </tr>
        {/if}
      {:else}<tr><td colspan="5">Nothing was changed yet.</td></tr>{/each}
    </tbody>
  </table>
  <p class="turn">
    {#if data.at > 0}<a class="link" href="/ledger?page={data.at - 1}">Newer</a>{/if}
    {#if data.lines.length === 50}<a class="link" href="/ledger?page={data.at + 1}">Older</a>{/if}
  </p>
</div>

<style>
  .page {
    height: 100%;
    padding: 20px 24px 40px;
    overflow: auto;
  }
  h1 {
    font-size: 28px;
  }
  .stands {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 16px;
    align-items: center;
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
  .gone .what {
    color: var(--pencil);
    text-decoration: line-through;
  }
  .act {
    text-align: right;
  }
  .steps ul {
    max-height: 260px;
    padding: 8px 12px;
    overflow: auto;
    background: var(--card);
  }
  .steps li {
    display: grid;
    grid-template-columns: 110px minmax(0, 1fr) minmax(0, 1fr) auto;
    gap: 12px;
    overflow-wrap: anywhere;
  }
  .turn {
    display: flex;
    gap: 16px;
    margin-top: 12px;
  }
</style>
