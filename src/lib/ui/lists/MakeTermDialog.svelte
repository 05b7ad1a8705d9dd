<script lang="ts">
  import type { TermEntry } from '#core/lists/entries';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  interface Props {
    /** Id of the broader term. */
    under: string | null;
    name: string;
    ondone: (id: string) => unknown;
    onclose: () => void;
  }
  const { under, name, ondone, onclose }: Props = $props();
  let label = $state('');

  async function make(): Promise<void> {
    const entry: TermEntry = {
      label: label.trim(),
      labels: [],
      broader: under ? [under] : [],
      related: [],
      note: '',
      retired: false,
    };
    await act(
      `“${entry.label}” made`,
      () => api.post('/api/lists/terms', { entry }),
      ({ id }) => {
        onclose();
        return ondone(id);
      },
    );
  }
</script>

<Dialog title={under ? `A term under ${name}` : 'A term at the top'} {onclose}>
  <form
    id="make-term"
    onsubmit={(event) => {
      event.preventDefault();
      void make();
    }}
  >
    <label
      ><span class="label">Label</span><input
        class="field"
        bind:value={label}
        maxlength="200"
        required
      /></label
    >
  </form>
  {#snippet foot()}
    <button class="button act" type="submit" form="make-term" disabled={label.trim() === ''}
      >Make the term</button
    >
  {/snippet}
</Dialog>
