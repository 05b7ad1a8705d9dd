<script lang="ts">
  import { DEEDS } from '#core/deeds/kinds';
  import { can, type Role } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { freshen } from '../common/freshen';
  import { sayDone } from '../common/notices.svelte';
  import Rows from '../common/Rows.svelte';
  import { instant } from '../wall/dates';
  import type { Line } from './line';

  /** Several changes taken back at once, all of them seen before: the newest first, each a step of its own. */
  interface Props {
    title: string;
    role: Role;
    /** Asks for them. */
    ask: () => Promise<Line[]>;
    /** One that is taken back after them. */
    last?: Line;
    onclose: () => void;
  }
  const { title, role, ask, last, onclose }: Props = $props();
  let lines = $state.raw<Line[] | null>(null);
  let wrong = $state('');
  let isBusy = $state(false);
  const closed = $derived(lines?.find(({ kind }) => !can(role, DEEDS[kind].undo)));

  $effect(() => {
    ask()
      .then((found) => (lines = last ? [...found, last] : found))
      .catch((error: Error) => (wrong = error.message));
  });
  async function undo(): Promise<void> {
    isBusy = true;
    try {
      const { undone, stopped } = await api.post('/api/ledger/undo', {
        ids: lines!.map(({ id }) => id),
      });
      await freshen('mindful:ledger');
      if (stopped) {
        wrong = `${counted(undone.length, 'change')} taken back; then “${stopped.summary}” could not be: ${stopped.why}`;
        lines = lines!.filter(({ id }) => !undone.includes(id));
      } else {
        sayDone(`${counted(undone.length, 'change')} taken back.`);
        onclose();
      }
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      isBusy = false;
    }
  }
</script>

<Dialog {title} wide {onclose}>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if closed}<p class="caution">“{closed.summary}” can be taken back by a keeper only.</p>{/if}
  {#if lines && lines.length === 0}
    <p>Nothing of this can be taken back: it was already, or is not finished.</p>
  {:else if lines}
    <div
      class="list"
      role="table"
      aria-label="Changes that are taken back"
      style:--lines={lines.length}
    >
      <Rows count={lines.length} rowHeight={30} plain>
        {#snippet row(at)}
          {@const line = lines![at]!}
          <div class="row" role="row">
            <span class="pencil" role="cell">{instant(line.at)}</span>
            <span role="cell">{line.actor}</span>
            <span class="what" role="cell" title={line.summary}>{line.summary}</span>
            <span class="pencil" role="cell">{counted(line.total, DEEDS[line.kind].countedIn)}</span
            >
          </div>
        {/snippet}
      </Rows>
    </div>
  {:else if !wrong}<p class="pencil">Looking …</p>{/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={isBusy || !lines || lines.length === 0 || closed !== undefined}
      onclick={() => void undo()}>Take back {counted(lines?.length ?? 0, 'change')}</button
    >
    <span class="pencil">The newest first; each can be done again.</span>
  {/snippet}
</Dialog>

<style>
  .list {
    height: min(302px, calc(var(--lines) * 30px + 2px));
    border: 1px solid var(--rule);
    background: var(--paper);
  }
  .row {
    display: grid;
    grid-template-columns: 150px 140px minmax(0, 1fr) 110px;
    gap: 14px;
    align-items: center;
    height: 30px;
    padding: 0 10px;
    border-bottom: 1px solid var(--rule);
  }
  .what {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
