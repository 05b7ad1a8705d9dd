<script lang="ts">
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';

  /** Patterns under names of their own: taken, kept, forgotten. */
  interface Kept {
    id: string;
    name: string;
    pattern: string;
    choices: Record<string, string | boolean>;
  }
  interface Props {
    purpose: 'naming' | 'filing';
    pattern: string;
    choices: Record<string, string | boolean>;
    /** The pattern and what goes with it, as it was kept. */
    ontake: (kept: Record<string, unknown>) => void;
  }
  const { purpose, pattern, choices, ontake }: Props = $props();
  let all = $state.raw<Kept[]>([]);
  let name = $state('');
  let isKeeping = $state(false);
  const current = $derived(all.find((one) => one.pattern === pattern));

  async function load(): Promise<void> {
    all = await api.get('/api/patterns', { purpose });
  }
  $effect(() => void load().catch(sayWrong));

  function take(id: string): void {
    const kept = all.find((one) => one.id === id);
    if (kept) ontake({ ...kept.choices, pattern: kept.pattern });
  }
  async function keep(): Promise<void> {
    try {
      await api.post('/api/patterns', { purpose, name, pattern, choices });
      isKeeping = false;
      await load();
      sayDone(`Kept as “${name.trim()}”.`);
    } catch (error) {
      sayWrong(error);
    }
  }
  async function forget({ id, name: own, ...rest }: Kept): Promise<void> {
    try {
      await api.delete(`/api/patterns/${id}`);
      await load();
      sayDone(`“${own}” is forgotten.`, {
        label: 'Undo',
        run: async () => {
          await api.post('/api/patterns', { purpose, name: own, ...rest });
          await load();
        },
      });
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<div class="kept">
  {#if isKeeping}
    <form onsubmit={(event) => (event.preventDefault(), void keep())}>
      <!-- svelte-ignore a11y_autofocus -->
      <input
        class="field"
        bind:value={name}
        aria-label="Name to keep it by"
        maxlength="100"
        autofocus
      />
      <button class="button" type="submit" disabled={name.trim() === ''}>Keep</button>
      <button class="link" type="button" onclick={() => (isKeeping = false)}>leave it</button>
    </form>
  {:else}
    {#if all.length}
      <select
        aria-label="Kept patterns"
        value={current?.id ?? ''}
        onchange={(event) => take(event.currentTarget.value)}
      >
        <option value="" disabled>one that was kept</option>
        {#each all as one (one.id)}<option value={one.id}>{one.name} · {one.pattern}</option>{/each}
      </select>
    {/if}
    {#if current}
      <button class="link" type="button" onclick={() => void forget(current)}>forget it</button>
    {:else}
      <button
        class="link"
        type="button"
        disabled={pattern.trim() === ''}
        onclick={() => ((isKeeping = true), (name = ''))}>keep this pattern</button
      >
    {/if}
  {/if}
</div>

<style>
  .kept,
  form {
    display: flex;
    gap: 10px;
    align-items: center;
  }
  select {
    max-width: 280px;
    padding: 3px 6px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--card);
  }
  .field {
    width: 180px;
    padding: 3px 6px;
  }
</style>
