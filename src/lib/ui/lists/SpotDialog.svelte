<script lang="ts">
  import type { SpotEntry } from '#core/lists/entries';
  import { formatPosition, parsePosition } from '#core/geo/position';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  /** A place of one's own, kept or changed. */
  interface Props {
    id: string | null;
    seen: SpotEntry;
    onclose: () => void;
  }
  const { id, seen, onclose }: Props = $props();
  // svelte-ignore state_referenced_locally
  let entry = $state<SpotEntry>({ ...seen });
  // svelte-ignore state_referenced_locally
  let at = $state(id || seen.latitude || seen.longitude ? formatPosition(seen) : '');
  const position = $derived(parsePosition(at));
  const wish = $derived({ ...entry, ...position });
  const PARTS = [
    ['sublocation', 'Sublocation, the name unless said'],
    ['city', 'City'],
    ['state', 'Province or state'],
    ['country', 'Country'],
  ] as const;

  async function save(): Promise<void> {
    const done = await act(id ? 'Place changed' : 'Place kept', () =>
      id
        ? api.patch(`/api/lists/spots/${id}`, { entry: wish, seen })
        : api.post('/api/lists/spots', { entry: wish }),
    );
    if (done) onclose();
  }
  async function drop(): Promise<void> {
    const done = await act('Taken off the list', () => api.delete(`/api/lists/spots/${id}`));
    if (done) onclose();
  }
</script>

<Dialog title={id ? seen.name : 'A place to keep'} {onclose}>
  <div class="form">
    <label class="all"
      ><span class="label">Name</span><input
        class="field"
        bind:value={entry.name}
        maxlength="200"
      /></label
    >
    <label
      ><span class="label">Position</span><input
        class="field"
        bind:value={at}
        placeholder="54.3207, 10.1349"
      /></label
    >
    <label
      ><span class="label">Radius, metres</span><input
        class="field"
        type="number"
        min="1"
        max="500000"
        bind:value={entry.radius}
      /></label
    >
    {#each PARTS as [key, label] (key)}
      <label
        ><span class="label">{label}</span><input
          class="field"
          bind:value={entry[key]}
          maxlength="500"
        /></label
      >
    {/each}
    <label class="all"
      ><span class="label">Note</span><textarea class="field" rows="2" bind:value={entry.note}
      ></textarea></label
    >
  </div>
  {#if at.trim() !== '' && !position}<p class="wrong" role="alert">
      “{at}” is no position; write 54.3207, 10.1349.
    </p>{/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={entry.name.trim() === '' || !position || !(entry.radius >= 1)}
      onclick={() => void save()}>{id ? 'Save' : 'Keep it'}</button
    >
    {#if id}<button class="button" type="button" onclick={() => void drop()}
        >Take off the list</button
      >{/if}
  {/snippet}
</Dialog>

<style>
  .form {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 12px 16px;
  }
  .all {
    grid-column: 1 / -1;
  }
</style>
