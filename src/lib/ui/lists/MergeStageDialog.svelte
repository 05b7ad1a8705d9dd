<script lang="ts">
  import { offeredStages, type Stage } from '#core/stages/stages';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  /** One stage becomes another: seen before it is done. */
  interface Props {
    stage: Stage & { items: number };
    stages: readonly Stage[];
    ondone: () => unknown;
    onclose: () => void;
  }
  const { stage, stages, ondone, onclose }: Props = $props();
  const others = $derived(offeredStages(stages).filter(({ id }) => id !== stage.id));
  let into = $state('');
  const kept = $derived(others.find(({ id }) => id === into));

  async function merge(): Promise<void> {
    const done = await act(
      `“${stage.name}” is “${kept!.name}” now`,
      () => api.post(`/api/lists/stages/${stage.id}`, { into }),
      ondone,
    );
    if (done) onclose();
  }
</script>

<Dialog title="Merge the stage {stage.name}" {onclose}>
  <label
    ><span class="label">Into</span>
    <select class="field" bind:value={into}>
      <option value="" disabled>choose a stage</option>
      {#each others as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
    </select></label
  >
  {#if kept}
    <p class="told">
      {stage.items === 1 ? '1 item goes' : `${counted(stage.items, 'item')} go`} from “{stage.name}”
      to “{kept.name}”; their files say so. Standing collections that ask for “{stage.name}” ask for
      “{kept.name}”, and files that say “{stage.name}” are read as “{kept.name}”.
    </p>
  {/if}
  {#snippet foot()}
    <button class="button act" type="button" disabled={!kept} onclick={() => void merge()}
      >Merge</button
    >
    <span class="pencil">One step; the ledger takes it back.</span>
  {/snippet}
</Dialog>

<style>
  .told {
    margin-top: 12px;
  }
</style>
