<script lang="ts">
  import { UNDERWAY } from '../common/undoing';
  import { stepWords } from '#core/ledger/told';
  import { DEEDS } from '#core/deeds/kinds';
  import { can, type Role } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { api, Problem } from '../common/api';
  import { freshen } from '../common/freshen';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import { instant } from '../wall/dates';
  import type { Line } from './line';
  import UndoMany from './UndoMany.svelte';

  interface Props {
    line: Line;
    role: Role;
    /** One of a fold. */
    within?: boolean;
  }
  const { line, role, within = false }: Props = $props();
  interface Step {
    position: number;
    number: string;
    before: Record<string, unknown>;
    after: Record<string, unknown>;
    state: string;
    reason: string | null;
  }
  let steps = $state.raw<Step[]>([]);
  const mayUndo = $derived(line.canUndo && can(role, DEEDS[line.kind].undo));

  let opened = $state(false);
  async function open(): Promise<void> {
    opened = !opened;
    steps = [];
    if (opened)
      steps = await api
        .get(`/api/ledger/${line.id}`)
        .catch((error: unknown) => (sayWrong(error), []));
  }
  /** The later changes are shown, to be taken back as well. */
  let chains = $state(false);
  /** An undo that cannot be, and why. */
  let stands = $state<{ why: string; rest: number; isLater: boolean } | null>(null);
  /** What stands in the way; of what was removed for good, or is at work still, nothing does. */
  const later = (): Promise<Line[]> =>
    api.get(`/api/ledger/${line.id}/later`).catch((error: unknown) => (sayWrong(error), []));
  async function undo(partly = false): Promise<void> {
    stands = null;
    try {
      const { underway } = await api.post(`/api/ledger/${line.id}/undo`, { partly });
      sayDone(underway ? UNDERWAY : `Undoing: ${line.summary}.`);
      await freshen('mindful:ledger');
    } catch (error) {
      const rest = error instanceof Problem ? error.data['rest'] : undefined;
      if (error instanceof Problem && error.code === 'conflict')
        stands = {
          why: error.message,
          rest: typeof rest === 'number' ? rest : 0,
          isLater: (await later()).length > 0,
        };
      else sayWrong(error);
    }
  }
  const said = $derived.by((): string => {
    if (line.undone) return 'undone';
    if (line.state === 'failed') return 'not done';
    if (line.state === 'paused') return 'paused';
    if (line.state !== 'done') return line.state === 'doing' ? 'at work' : 'waiting';
    return line.failed ? `done, ${line.failed} failed` : 'done';
  });
</script>

<tr class:gone={line.undone} class:within>
  <td class="when">{instant(line.at)}</td>
  <td>{line.actor}</td>
  <td>
    <button class="what" type="button" aria-expanded={opened} onclick={() => void open()}
      >{line.summary}</button
    >
    <span class="pencil">{counted(line.total, DEEDS[line.kind].countedIn)}</span>
  </td>
  <td>{said}</td>
  <td class="act"
    >{#if mayUndo}<button class="button" type="button" onclick={() => void undo()}
        >{line.undoes ? 'Do again' : 'Undo'}</button
      >{/if}</td
  >
</tr>
{#if stands}
  <tr class="steps">
    <td colspan="5">
      <p class="stands" role="alert">
        <span class="wrong">{stands.why}</span>
        {#if stands.rest > 0}<button class="button" type="button" onclick={() => void undo(true)}
            >Give the rest back: {counted(stands.rest, 'record')}</button
          >{/if}
        {#if stands.isLater}<button class="button" type="button" onclick={() => (chains = true)}
            >Undo the later changes as well …</button
          >{/if}
        <button class="link" type="button" onclick={() => (stands = null)}>Leave it</button>
      </p>
    </td>
  </tr>
{/if}
{#if chains}
  <tr class="steps">
    <td colspan="5">
      <UndoMany
        title="Later changes, and this one"
        {role}
        ask={() => api.get(`/api/ledger/${line.id}/later`)}
        last={line}
        onclose={() => ((chains = false), (stands = null))}
      />
    </td>
  </tr>
{/if}
{#if opened}
  <tr class="steps">
    <td colspan="5">
      <ul>
        {#each steps as step (step.position)}
          {@const told = stepWords(step.before, step.after)}
          <li>
            <span class="mono pencil">{step.number}</span><span class="mono">{told.before}</span
            ><span class="mono">→ {told.after}</span>{#if step.reason}<span class="wrong"
                >{step.reason}</span
              >{/if}
          </li>
        {:else}<li>Reading …</li>{/each}
        {#if steps.length > 0 && steps.length < line.total}<li class="pencil">
            The first {counted(steps.length, 'step')} of {line.total}.
          </li>{/if}
      </ul>
    </td>
  </tr>
{/if}

<style>
  td {
    padding: 7px 12px 7px 0;
    border-bottom: 1px solid var(--rule);
    vertical-align: baseline;
  }
  .within td:nth-child(3) {
    padding-left: 18px;
  }
  .stands {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 16px;
    align-items: center;
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
</style>
