<script lang="ts">
  import { api } from '../common/api';
  import { freshen } from '../common/freshen';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import { draftFrom, planOf, type Draft, type PlaceChoice } from './draft';
  import type { NamedPlan } from './types';

  interface Props {
    plans: NamedPlan[];
    places: PlaceChoice[];
    draft: Draft;
  }
  let { plans, places, draft = $bindable() }: Props = $props();
  let chosen = $state('');
  let naming = $state(false);
  let name = $state('');

  function use(id: string): void {
    chosen = id;
    const plan = plans.find((one) => one.id === id);
    if (plan) draft = draftFrom(plan, draft.title, places);
  }
  async function save(): Promise<void> {
    try {
      const { id } = await api.post('/api/intake/plans', {
        name,
        mode: draft.mode,
        placeId: draft.placeId || null,
        plan: planOf(draft),
      });
      naming = false;
      await freshen('mindful:intake');
      chosen = id;
      sayDone(`The plan “${name}” is saved.`);
    } catch (error) {
      sayWrong(error);
    }
  }
  async function forget(): Promise<void> {
    try {
      await api.delete(`/api/intake/plans/${chosen}`);
      chosen = '';
      await freshen('mindful:intake');
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<div class="saved">
  {#if plans.length}
    <select
      class="field"
      aria-label="Saved plan"
      value={chosen}
      onchange={(event) => use(event.currentTarget.value)}
    >
      <option value="">a saved plan …</option>
      {#each plans as plan (plan.id)}<option value={plan.id}>{plan.name}</option>{/each}
    </select>
  {/if}
  {#if naming}
    <form onsubmit={(event) => (event.preventDefault(), void save())}>
      <input class="field" bind:value={name} aria-label="Name of the plan" placeholder="its name" />
      <button class="button" type="submit" disabled={!name.trim()}>Save</button>
    </form>
  {:else}
    <button
      class="link"
      type="button"
      onclick={() => {
        name = plans.find(({ id }) => id === chosen)?.name ?? '';
        naming = true;
      }}>Save this plan</button
    >
    {#if chosen}<button class="link" type="button" onclick={() => void forget()}>Forget it</button
      >{/if}
  {/if}
</div>

<style>
  .saved,
  form {
    display: flex;
    gap: 8px;
    align-items: center;
  }
  .saved {
    padding-bottom: 8px;
  }
  select,
  input {
    min-width: 0;
  }
</style>
