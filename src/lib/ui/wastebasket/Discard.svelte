<script lang="ts">
  import type { LettingGo } from '#core/holdings/wastebasket';
  import type { Picked } from '#core/query/picked';
  import { counted, formatBytes, formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { sayDone } from '../common/notices.svelte';

  /** What would go into the wastebasket, what stays, and the step itself. */
  interface Props {
    ids: Picked;
    onclose: () => void;
    ondone?: () => void;
  }
  const { ids, onclose, ondone }: Props = $props();
  let seen = $state<LettingGo | null>(null);
  let wrong = $state('');
  let isBusy = $state(false);
  const say = (error: unknown): void => void (wrong = (error as Error).message);
  async function look(): Promise<void> {
    seen = await api.post('/api/wastebasket/preview', { ids });
  }
  $effect(() => {
    look().catch(say);
  });
  async function go(): Promise<void> {
    isBusy = true;
    wrong = '';
    try {
      await api.post('/api/wastebasket', { ids, fingerprint: seen!.fingerprint });
      sayDone(`${counted(seen!.items, 'item')} are on the way into the wastebasket.`);
      ondone?.();
      onclose();
    } catch (error) {
      say(error);
      // What changed meanwhile is shown.
      await look().catch(say);
    } finally {
      isBusy = false;
    }
  }
</script>

<Dialog title="Discard" {onclose}>
  {#if seen}
    <p>
      {counted(seen.items, 'item')} with {counted(seen.files, 'file')} leave the catalogue and move into
      the wastebasket of their place. <strong>{formatBytes(seen.bytes)}</strong> are free once it is emptied;
      until then the ledger gives all of it back.
    </p>
    {#if seen.onlyCopies > 0}<p class="warn">
        {seen.onlyCopies === seen.items
          ? 'The archive holds no other copy of any of them.'
          : `Of ${formatCount(seen.onlyCopies)} of them the archive holds no other copy.`}
      </p>{/if}
    {#if seen.handsOff > 0}<p class="pencil">
        {counted(seen.handsOff, 'item')} in places that are hands off stay.
      </p>{/if}
    {#if seen.notHere > 0}<p class="pencil">
        {counted(seen.notHere, 'item')} whose files are missing or away stay.
      </p>{/if}
  {:else if !wrong}<p class="pencil">Looking at what would go …</p>{/if}
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={!seen?.items || isBusy}
      onclick={() => void go()}
      >{seen ? `Discard ${counted(seen.items, 'item')}` : 'Discard'}</button
    >
  {/snippet}
</Dialog>

<style>
  p + p {
    margin-top: 10px;
  }
  .warn {
    color: var(--wax);
    font-weight: 600;
  }
</style>
