<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { sayDone } from '../common/notices.svelte';
  import Changes from '../common/Changes.svelte';
  import PatternField from './PatternField.svelte';

  interface Line {
    id: string;
    before: string;
    after: string;
    followers: { id: string; before: string; after: string }[];
    problem: string | null;
    numbered: boolean;
  }
  interface Props {
    ids: Picked;
    count: number;
    remembered: string | undefined;
    onclose: () => void;
  }
  const { ids, count, remembered, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  let pattern = $state(remembered ?? '{taken yyyyMMdd}-{counter 0001 by day}');
  let tellApart = $state(false);
  let lines = $state.raw<Line[]>([]);
  let problems = $state(0);
  let unchanged = $state(0);
  let fingerprint = '';
  let wrong = $state('');
  let busy = $state(false);

  $effect(() => {
    const wish = { itemIds: ids, pattern, tellApart };
    const timer = setTimeout(() => {
      api
        .post<{ lines: Line[]; problems: number; unchanged: number; fingerprint: string }>(
          '/api/rename/preview',
          wish,
        )
        .then((found) => {
          if (wish.pattern !== pattern) return;
          ({ lines, problems, unchanged, fingerprint } = found);
          wrong = '';
        })
        .catch((error: Error) => {
          wrong = error.message;
          lines = [];
        });
    }, 150);
    return () => clearTimeout(timer);
  });

  async function rename(): Promise<void> {
    busy = true;
    try {
      const { operation } = await api.post<{ operation: string }>('/api/rename', {
        itemIds: ids,
        pattern,
        tellApart,
        fingerprint,
      });
      void api.put('/api/remembered/rename-pattern', { pattern });
      sayDone(`Renaming ${counted(count, 'item')}.`, {
        label: 'Undo',
        run: () => api.post(`/api/ledger/${operation}/undo`),
      });
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      busy = false;
    }
  }
  const changes = $derived(lines.length - unchanged);
  /** Every file that gets a name: what goes along stands under its own. */
  const shown = $derived(
    lines.flatMap(({ before, after, problem, numbered, followers }) => [
      {
        ...{ before, after, problem, along: false },
        word: numbered ? 'told apart' : before === after ? 'stays' : '',
      },
      ...followers.map((one) => ({ ...one, problem: null, along: true, word: 'goes along' })),
    ]),
  );
</script>

<Dialog title="Rename {counted(count, 'item')}" wide {onclose}>
  <p class="says">Give each the name</p>
  <PatternField value={pattern} label="Name pattern" onchange={(value) => (pattern = value)} />
  <label class="apart"
    ><input type="checkbox" bind:checked={tellApart} /> Where two would have one name, tell them apart
    with -2, -3 …</label
  >
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <Changes
    label="Names before and after"
    count={shown.length}
    columns="1fr 1.2fr 1fr"
    isBad={(at) => Boolean(shown[at]!.problem)}
  >
    {#snippet cells(at)}
      {@const line = shown[at]!}
      <span class="mono pencil" class:along={line.along} role="cell">{line.before}</span>
      <span class="mono" role="cell" class:same={line.before === line.after}>{line.after}</span>
      <span role="cell" class={line.problem ? 'wrong' : 'caution'}>{line.problem ?? line.word}</span
      >
    {/snippet}
  </Changes>
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={busy || problems > 0 || changes === 0 || wrong !== ''}
      onclick={() => void rename()}
    >
      Rename {counted(changes, 'item')}
    </button>
    <span aria-live="polite">
      {#if problems > 0}<span class="wrong"
          >{counted(problems, 'name')} cannot be given as they are.</span
        >
      {:else}<span class="pencil">The ledger keeps the old names; Undo gives them back.</span>{/if}
    </span>
  {/snippet}
</Dialog>

<style>
  .says {
    margin-bottom: 6px;
    font: 16.5px var(--book);
  }
  .apart {
    display: flex;
    gap: 8px;
    margin: 12px 0 8px;
  }
  .along {
    padding-left: 16px;
  }
  .same {
    color: var(--pencil);
  }
</style>
