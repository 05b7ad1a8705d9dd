<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { FIELDS, type FieldKey } from '#core/records/fields';
  import { counted, formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import Changes from '../common/Changes.svelte';
  import Dialog from '../common/Dialog.svelte';
  import { sayUndoable } from '../common/undoing';

  /** A stamp, or the credit of a contributor, put onto chosen items: what it changes is seen before. */
  interface Props {
    ids: Picked;
    count: number;
    q: string;
    onclose: () => void;
  }
  const { ids, count, q, onclose }: Props = $props();
  interface Choice {
    kind: 'stamp' | 'contributor';
    id: string;
    label: string;
    group: string;
  }
  interface Told {
    fields: { field: FieldKey; changed: number }[];
    lines: { number: string; field: FieldKey; before: string; after: string }[];
    changed: number;
    items: number;
    values: number;
    fingerprint: string;
  }
  let choices = $state.raw<Choice[] | null>(null);
  let chosen = $state('');
  let told = $state.raw<Told | null>(null);
  let wrong = $state('');
  let isBusy = $state(false);
  const choice = $derived(choices?.find(({ id }) => id === chosen));
  const groups = $derived([...new Set((choices ?? []).map(({ group }) => group))]);
  /** The one that was put last is offered first. */
  const LAST = 'mindful-last-stamp';

  async function list(): Promise<void> {
    const [stamps, { contributors }] = await Promise.all([
      api.get('/api/lists/stamps'),
      api.get('/api/lists/contributors'),
    ]);
    choices = [
      ...stamps.map(({ id, name, project }): Choice => {
        return { kind: 'stamp', id, label: name, group: project || 'Stamps' };
      }),
      ...contributors
        .filter(({ retired }) => !retired)
        .map(({ id, name }): Choice => {
          return { kind: 'contributor', id, label: name, group: 'Credit to a contributor' };
        }),
    ];
    const last = localStorage.getItem(LAST) ?? '';
    if (choices.some(({ id }) => id === last)) await choose(last);
  }
  $effect(() => {
    list().catch((error: Error) => (wrong = error.message));
  });
  async function choose(id: string): Promise<void> {
    [chosen, told, wrong] = [id, null, ''];
    const { kind } = choices!.find((one) => one.id === id)!;
    try {
      const found = await api.post('/api/lists/stamps/put', { kind, id, ids, q });
      if (chosen === id && 'lines' in found) told = found;
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
  async function put(): Promise<void> {
    isBusy = true;
    try {
      const { kind, id, label } = choice!;
      const { fingerprint, changed: wished } = told!;
      const done = await api.post('/api/lists/stamps/put', {
        kind,
        id,
        ids,
        q,
        shown: { fingerprint, changed: wished },
      });
      localStorage.setItem(LAST, id);
      if ('operation' in done && done.operation)
        sayUndoable(`“${label}” put onto ${counted(done.changed, 'item')}.`, done.operation);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      isBusy = false;
    }
  }
</script>

<Dialog title="A stamp on {counted(count, 'item')}" wide {onclose}>
  {#if choices && choices.length === 0}
    <p>
      There are no stamps yet. <a href="/lists/stamps">Make one</a> for what is written again and again.
    </p>
  {:else}
    <p class="which">
      Put
      <select
        class="choice"
        aria-label="Stamp"
        value={chosen}
        onchange={(event) => void choose(event.currentTarget.value)}
      >
        <option value="" disabled>a stamp</option>
        {#each groups as group (group)}
          <optgroup label={group}>
            {#each (choices ?? []).filter((one) => one.group === group) as one (one.id)}
              <option value={one.id}>{one.label}</option>
            {/each}
          </optgroup>
        {/each}
      </select>
      onto {count === 1 ? 'this' : 'these'}.
    </p>
    {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
    {#if told}
      <p class="told" aria-live="polite">
        {told.changed === 0
          ? 'It says nothing that is not there already.'
          : `${counted(told.changed, 'item')} of ${formatCount(told.items)} change: ${told.fields
              .map(
                ({ field, changed }) =>
                  `${FIELDS[field].label.toLowerCase()} of ${formatCount(changed)}`,
              )
              .join(', ')}.`}
        {#if told.values > told.lines.length}The first {formatCount(told.lines.length)} of {formatCount(
            told.values,
          )} values are shown.{/if}
      </p>
      {#if told.lines.length > 0}
        <Changes
          label="Values before and after"
          count={told.lines.length}
          columns="120px 140px 1fr 1fr"
        >
          {#snippet cells(at)}
            {@const line = told!.lines[at]!}
            <span class="mono" role="cell">{line.number}</span>
            <span role="cell">{FIELDS[line.field].label}</span>
            <span class="pencil" role="cell">{line.before || '—'}</span>
            <span role="cell">{line.after || '—'}</span>
          {/snippet}
        </Changes>
      {/if}
    {:else if chosen && !wrong}<p class="pencil">Looking …</p>{/if}
  {/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={isBusy || !told || told.changed === 0}
      onclick={() => void put()}>Stamp {counted(told?.changed ?? 0, 'item')}</button
    >
    <a class="link" href="/lists/stamps">All stamps</a>
  {/snippet}
</Dialog>

<style>
  .which {
    font: 20px/1.4 var(--book);
  }
  .which .choice {
    font: italic 20px var(--book);
  }
  .told {
    margin: 10px 0 6px;
  }
</style>
