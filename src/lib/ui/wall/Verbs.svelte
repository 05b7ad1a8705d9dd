<script lang="ts">
  import { goto } from '$app/navigation';
  import type { FilingChoices, NamingChoices } from '#core/naming/wish';
  import { can, type Role } from '#core/people/roles';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import type { Selection } from './selection.svelte';
  import SelectionBar from './SelectionBar.svelte';

  interface Props {
    selection: Selection;
    role: Role;
    collections: { id: string; name: string; kind: string }[];
    /** How names were given last. */
    naming: Partial<NamingChoices>;
    /** And how files were filed. */
    filing: Partial<FilingChoices>;
    /** The sentence it was selected in. */
    query: string;
  }
  const { selection, role, collections, naming, filing, query }: Props = $props();
  let dialog = $state<
    'dates' | 'where' | 'rename' | 'file' | 'collect' | 'sequence' | 'room' | 'discard' | null
  >(null);
  const close = (): void => void (dialog = null);

  const MOST_BESIDE = 6;
  /** Two to six are looked at side by side, by their catalogue numbers. */
  async function beside(): Promise<void> {
    const { numbers } = await api.post('/api/records/numbers', {
      ids: selection.picked,
    });
    await goto(`/side?items=${numbers.join(',')}&q=${encodeURIComponent(query)}`);
  }

  /** Frames that are nearly the same hang as one; or each by itself again. */
  async function fold(act: 'fold' | 'unfold'): Promise<void> {
    const { changed } = await api.post('/api/bursts', {
      ids: selection.picked,
      act,
    });
    sayDone(
      act === 'fold'
        ? `${counted(changed, 'frame')} hang as one.`
        : `${counted(changed, 'frame')} hang each by itself, and stay so.`,
    );
  }

  const verbs = $derived([
    ...(selection.size > 1 && selection.size <= MOST_BESIDE
      ? [{ label: 'Side by side', run: () => void beside().catch(sayWrong) }]
      : []),
    ...(can(role, 'describe')
      ? [
          {
            label: 'Describe',
            run: () => document.querySelector<HTMLElement>('.card .title button')?.click(),
          },
        ]
      : []),
    ...(can(role, 'describe') && selection.size > 1
      ? [{ label: 'Fold', run: () => void fold('fold').catch(sayWrong) }]
      : []),
    ...(can(role, 'describe')
      ? [{ label: 'Take apart', run: () => void fold('unfold').catch(sayWrong) }]
      : []),
    ...(can(role, 'describe') ? [{ label: 'Dates', run: () => (dialog = 'dates') }] : []),
    ...(can(role, 'describe') ? [{ label: 'Where', run: () => (dialog = 'where') }] : []),
    ...(can(role, 'rename') ? [{ label: 'Rename', run: () => (dialog = 'rename') }] : []),
    ...(can(role, 'rename') ? [{ label: 'File', run: () => (dialog = 'file') }] : []),
    ...(can(role, 'collect') ? [{ label: 'Collect', run: () => (dialog = 'collect') }] : []),
    ...(can(role, 'collect') ? [{ label: 'Order', run: () => (dialog = 'sequence') }] : []),
    ...(can(role, 'rename') ? [{ label: 'Discard', run: () => (dialog = 'discard') }] : []),
    ...(can(role, 'dispatch') ? [{ label: 'Dispatch', run: () => (dialog = 'room') }] : []),
  ]);
</script>

{#if selection.size}
  <SelectionBar
    ids={selection.picked}
    count={selection.size}
    {verbs}
    onclear={() => selection.clear()}
  />
  {#if dialog === 'dates'}
    {#await import('../dates/DatesDialog.svelte') then { default: DatesDialog }}<DatesDialog
        ids={selection.picked}
        count={selection.size}
        onclose={close}
      />{/await}
  {:else if dialog === 'where'}
    {#await import('../positions/PositionsDialog.svelte') then { default: PositionsDialog }}<PositionsDialog
        ids={selection.picked}
        count={selection.size}
        onclose={close}
      />{/await}
  {:else if dialog === 'rename'}
    {#await import('../rename/RenameDialog.svelte') then { default: RenameDialog }}<RenameDialog
        ids={selection.picked}
        count={selection.size}
        remembered={naming}
        onclose={close}
      />{/await}
  {:else if dialog === 'file'}
    {#await import('../rename/FilingDialog.svelte') then { default: FilingDialog }}<FilingDialog
        ids={selection.picked}
        count={selection.size}
        remembered={filing}
        onclose={close}
      />{/await}
  {:else if dialog === 'collect'}
    {#await import('../collections/CollectDialog.svelte') then { default: CollectDialog }}<CollectDialog
        ids={selection.picked}
        count={selection.size}
        collections={collections.filter(({ kind }) => kind !== 'standing')}
        onclose={close}
      />{/await}
  {:else if dialog === 'sequence'}
    {#await import('../sequence/SequenceDialog.svelte') then { default: SequenceDialog }}<SequenceDialog
        ids={selection.picked}
        count={selection.size}
        onclose={close}
      />{/await}
  {:else if dialog === 'discard'}
    {#await import('../wastebasket/Discard.svelte') then { default: Discard }}<Discard
        ids={selection.picked}
        onclose={close}
        ondone={() => selection.clear()}
      />{/await}
  {:else if dialog === 'room'}
    {#await import('../rooms/RoomDialog.svelte') then { default: RoomDialog }}<RoomDialog
        ids={selection.picked}
        onclose={close}
      />{/await}
  {/if}
{/if}
