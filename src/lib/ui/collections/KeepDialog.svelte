<script lang="ts">
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { sayDone } from '../common/notices.svelte';

  interface Props {
    /** Compact text of the sentence that is kept. */
    query: string;
    onclose: () => void;
  }
  const { query, onclose }: Props = $props();
  let name = $state('');
  let wrong = $state('');

  async function keep(): Promise<void> {
    try {
      await api.post('/api/collections', { name, query });
      sayDone(`“${name.trim()}” is kept: a standing collection that fills itself.`);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<Dialog title="Keep this sentence" {onclose}>
  <p class="says">
    What it finds stands as a collection under a name, and changes as the archive does.
  </p>
  <form onsubmit={(event) => (event.preventDefault(), void keep())}>
    <label
      ><span class="label">Its name</span><input
        class="field"
        bind:value={name}
        aria-label="Its name"
        placeholder="Cover candidates"
      /></label
    >
    <button class="button act" type="submit" disabled={!name.trim()}>Keep it</button>
  </form>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
</Dialog>

<style>
  .says {
    font: 16.5px/1.4 var(--book);
  }
  form {
    display: flex;
    gap: 12px;
    align-items: end;
    margin-top: 14px;
  }
  label {
    flex: 1;
  }
  .field {
    width: 100%;
  }
</style>
