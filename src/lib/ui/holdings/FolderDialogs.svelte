<script lang="ts">
  import type { FolderNode } from '#core/catalogue/tile';
  import type { FilingChoices } from '#core/naming/wish';

  /** What is done with all that lies in a folder and below. */
  interface Props {
    act: 'file' | 'discard';
    folder: FolderNode;
    filing: Partial<FilingChoices>;
    onclose: () => void;
  }
  const { act, folder, filing, onclose }: Props = $props();
  const ids = $derived({ q: `in #${folder.id}`, except: [] });
</script>

{#if act === 'file'}
  {#await import('../rename/FilingDialog.svelte') then { default: FilingDialog }}<FilingDialog
      {ids}
      count={folder.count}
      remembered={filing}
      {onclose}
    />{/await}
{:else}
  {#await import('../wastebasket/Discard.svelte') then { default: Discard }}<Discard
      {ids}
      {onclose}
    />{/await}
{/if}
