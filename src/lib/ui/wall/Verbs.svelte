<script lang="ts">
  import { can, type Role } from '#core/people/roles';
  import CollectDialog from '../collections/CollectDialog.svelte';
  import { freshen } from '../common/freshen';
  import RenameDialog from '../rename/RenameDialog.svelte';
  import RoomDialog from '../rooms/RoomDialog.svelte';
  import type { Selection } from './selection.svelte';
  import SelectionBar from './SelectionBar.svelte';

  interface Props {
    selection: Selection;
    role: Role;
    collections: { id: string; name: string; count: number; kind: string }[];
    /** The name pattern used last. */
    pattern: string | undefined;
  }
  const { selection, role, collections, pattern }: Props = $props();
  let dialog = $state<'rename' | 'collect' | 'room' | null>(null);
  const close = (): void => void (dialog = null);
  const done = (): void => void freshen('mindful:catalogue');

  const verbs = $derived([
    ...(can(role, 'describe')
      ? [
          {
            label: 'Describe',
            run: () => document.querySelector<HTMLElement>('.card .title button')?.click(),
          },
        ]
      : []),
    ...(can(role, 'rename') ? [{ label: 'Rename', run: () => (dialog = 'rename') }] : []),
    ...(can(role, 'collect') ? [{ label: 'Collect', run: () => (dialog = 'collect') }] : []),
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
  {#if dialog === 'rename'}
    <RenameDialog
      ids={selection.picked}
      count={selection.size}
      remembered={pattern}
      onclose={close}
    />
  {:else if dialog === 'collect'}
    <CollectDialog
      ids={selection.picked}
      count={selection.size}
      collections={collections.filter(({ kind }) => kind !== 'standing')}
      onclose={close}
      ondone={done}
    />
  {:else if dialog === 'room'}
    <RoomDialog ids={selection.picked} onclose={close} ondone={done} />
  {/if}
{/if}
