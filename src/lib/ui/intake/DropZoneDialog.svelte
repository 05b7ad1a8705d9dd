<script lang="ts">
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { freshen } from '../common/freshen';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import type { PlaceChoice } from './draft';
  import type { NamedPlan } from './types';

  interface Props {
    zone: {
      path: string;
      whole: number;
      growing: number;
      rule: { placeId: string | null; mode: string } | null;
    };
    places: PlaceChoice[];
    plans: NamedPlan[];
    canRule: boolean;
    onlook: () => void;
    onclose: () => void;
  }
  const { zone, places, plans, canRule, onlook, onclose }: Props = $props();
  let chosen = $state('');
  const usable = $derived(plans.filter(({ placeId, mode }) => placeId && mode !== 'in-place'));
  const placeName = (id: string | null): string =>
    places.find((place) => place.id === id)?.name ?? '';

  async function rule(id: string | null): Promise<void> {
    const plan = usable.find((one) => one.id === id);
    try {
      await api.put('/api/intake/drop-zone', {
        rule: plan ? { mode: plan.mode, placeId: plan.placeId, plan: plan.plan } : null,
      });
      sayDone(
        plan
          ? `What arrives is brought in by the plan “${plan.name}”.`
          : 'What arrives now waits until somebody brings it in.',
      );
      await freshen('mindful:intake');
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<Dialog title="The drop zone" {onclose}>
  <p class="lead">
    Whatever is put into <span class="mono">{zone.path}</span> waits here. A file counts once it has stopped
    growing.
  </p>
  <p>
    {counted(zone.whole, 'file')} arrived{zone.growing ? `, ${zone.growing} still arriving` : ''}.
  </p>
  {#if canRule}
    {#if zone.rule}
      <p>
        They come in by themselves, into {placeName(zone.rule.placeId)}.
        <button class="link" type="button" onclick={() => void rule(null)}>Let them wait</button>
      </p>
    {:else if usable.length}
      <p class="choose">
        Bring them in by themselves with
        <select class="field" aria-label="Plan of the drop zone" bind:value={chosen}>
          <option value="">a saved plan …</option>
          {#each usable as plan (plan.id)}<option value={plan.id}
              >{plan.name}, into {placeName(plan.placeId)}</option
            >{/each}
        </select>
        <button class="button" type="button" disabled={!chosen} onclick={() => void rule(chosen)}
          >From now on</button
        >
      </p>
    {:else}<p class="pencil">
        Save a plan that copies or moves, and the drop zone can empty itself by it.
      </p>{/if}
  {/if}
  {#snippet foot()}
    <button class="button act" type="button" disabled={zone.whole === 0} onclick={onlook}
      >Look through it</button
    >
  {/snippet}
</Dialog>

<style>
  .lead {
    margin-bottom: 10px;
    font: 16.5px/1.4 var(--book);
    overflow-wrap: anywhere;
  }
  p + p {
    margin-top: 8px;
  }
  .choose {
    display: grid;
    gap: 6px;
    justify-items: start;
  }
</style>
