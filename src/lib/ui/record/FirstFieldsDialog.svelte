<script lang="ts">
  import { FIELD_KEYS, FIELDS, type FieldKey } from '#core/records/fields';
  import { HEAD_FIELDS } from '#core/records/sections';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';

  /** Which fields stand first on everybody's record card, and in which order. */
  interface Props {
    first: readonly FieldKey[];
    ondone: () => void;
    onclose: () => void;
  }
  const { first, ondone, onclose }: Props = $props();
  // What one chooses stays, whatever is loaded anew around it.
  // svelte-ignore state_referenced_locally
  let chosen = $state.raw([...first]);
  let wrong = $state('');
  const others = $derived(
    FIELD_KEYS.filter((key) => !HEAD_FIELDS.includes(key) && !chosen.includes(key)),
  );
  function up(key: FieldKey): void {
    const at = chosen.indexOf(key);
    if (at > 0) chosen = chosen.toSpliced(at - 1, 2, key, chosen[at - 1]!);
  }
  async function save(): Promise<void> {
    try {
      await api.put('/api/records/first', { fields: chosen });
      ondone();
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<Dialog title="First fields of the record card" {onclose}>
  <p>They stand below title, caption, rating and stage on everybody’s card.</p>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  <ol>
    {#each chosen as key, at (key)}
      <li>
        <span>{FIELDS[key].label}</span>
        <button
          class="link"
          type="button"
          disabled={at === 0}
          aria-label="{FIELDS[key].label}: up"
          onclick={() => up(key)}>up</button
        >
        <button
          class="link"
          type="button"
          aria-label="{FIELDS[key].label}: leave out"
          onclick={() => (chosen = chosen.filter((one) => one !== key))}>leave out</button
        >
      </li>
    {:else}<li class="pencil">none</li>{/each}
  </ol>
  <select
    class="field"
    aria-label="One more field"
    value=""
    onchange={(event) => {
      chosen = [...chosen, event.currentTarget.value as FieldKey];
      event.currentTarget.value = '';
    }}
  >
    <option value="" disabled>one more field</option>
    {#each others as key (key)}<option value={key}>{FIELDS[key].label}</option>{/each}
  </select>
  {#snippet foot()}
    <button class="button act" type="button" onclick={() => void save()}>Keep</button>
    <span class="pencil">For the whole team.</span>
  {/snippet}
</Dialog>

<style>
  ol {
    margin: 10px 0;
    border: 1px solid var(--rule);
  }
  li {
    display: grid;
    grid-template-columns: 1fr auto auto;
    gap: 14px;
    padding: 5px 10px;
    border-bottom: 1px solid color-mix(in srgb, var(--rule) 60%, transparent);
  }
</style>
