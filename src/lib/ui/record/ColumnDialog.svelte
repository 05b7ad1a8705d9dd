<script lang="ts">
  import type { ColumnLine } from '#core/records/column';
  import type { Picked } from '#core/query/picked';
  import { FIELDS, type FieldKey } from '#core/records/fields';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Changes from '../common/Changes.svelte';
  import Dialog from '../common/Dialog.svelte';
  import { sayChanged } from '../common/undoing';

  /** A pasted column over what is selected: every value is shown before and after. */
  interface Props {
    ids: Picked;
    count: number;
    /** Whose order the items have. */
    q: string;
    field: FieldKey;
    text: string;
    onclose: () => void;
  }
  const { ids, count, q, field, text, onclose }: Props = $props();
  let told = $state.raw<{
    lines: ColumnLine[];
    cells: number;
    changed: number;
    problems: number;
    fingerprint: string;
  } | null>(null);
  let wrong = $state('');
  let isBusy = $state(false);
  const body = $derived({ ids, q, field, text });
  $effect(() => {
    api
      .post('/api/records/column/preview', body)
      .then((found) => (told = found))
      .catch((error: Error) => (wrong = error.message));
  });
  const uneven = $derived.by(() => {
    if (!told || told.cells === count) return '';
    return told.cells < count
      ? `${counted(told.cells, 'line')} for ${counted(count, 'item')}: those beyond the last line stay as they are.`
      : `${counted(told.cells, 'line')} for ${counted(count, 'item')}: the last ${told.cells - count} are not used.`;
  });

  async function lay(): Promise<void> {
    isBusy = true;
    try {
      const done = await api.post('/api/records/column', {
        ...body,
        fingerprint: told?.fingerprint ?? '',
      });
      sayChanged(done, `${counted(done.changed, 'record')} changed.`);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    } finally {
      isBusy = false;
    }
  }
</script>

<Dialog title="{FIELDS[field].label}: a column over {counted(count, 'item')}" wide {onclose}>
  {#if uneven}<p class="caution">{uneven}</p>{/if}
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <Changes
    label="Values before and after"
    count={told?.lines.length ?? 0}
    columns="120px 1fr 1fr 1fr"
    isBad={(at) => told?.lines[at]?.problem !== null}
  >
    {#snippet cells(at)}
      {@const line = told!.lines[at]!}
      <span class="mono" role="cell">{line.number}</span>
      <span class="pencil" role="cell">{line.before || '—'}</span>
      <span role="cell">{line.problem ? '' : line.after || '—'}</span>
      <span class="caution" role="cell">{line.problem ?? ''}</span>
    {/snippet}
  </Changes>
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={isBusy || !told || told.changed === 0 || wrong !== ''}
      onclick={() => void lay()}>Set {counted(told?.changed ?? 0, 'value')}</button
    >
    <span class="pencil" aria-live="polite"
      >{told && told.problems > 0
        ? `${counted(told.problems, 'item')} stay as they are.`
        : 'In the order of the wall. Undo takes it back.'}</span
    >
  {/snippet}
</Dialog>
