<script lang="ts">
  import { goto } from '$app/navigation';
  import type { Picked } from '#core/query/picked';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { sayDone } from '../common/notices.svelte';
  import { did } from '../common/undoing';

  /** What is selected goes into a rough sequence: one that is there, at its end, or a new one. */
  interface Props {
    ids: Picked;
    count: number;
    onclose: () => void;
  }
  const { ids, count, onclose }: Props = $props();
  const made = api.get('/api/sequences');
  let name = $state('');
  let wrong = $state('');

  async function into(id: string, label: string): Promise<void> {
    try {
      const { operation, left } = await api.patch(`/api/sequences/${id}`, {
        add: { items: ids, before: null },
      });
      if (operation) did(operation);
      const out = left > 0 ? `; ${counted(left, 'item')} that cannot be shown left out` : '';
      sayDone(`Put into “${label}”${out}.`);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
  async function make(): Promise<void> {
    try {
      const { id, operation } = await api.post('/api/sequences', { name, items: ids });
      if (operation) did(operation);
      await goto(`/collections/sequences/${id}`);
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<Dialog title="Put {counted(count, 'item')} into a sequence" {onclose}>
  <form onsubmit={(event) => (event.preventDefault(), void make())}>
    <label
      ><span class="label">A new sequence</span><input
        class="field"
        maxlength="200"
        bind:value={name}
        placeholder="its name"
      /></label
    >
    <button class="button act" type="submit" disabled={!name.trim()}>Make it</button>
  </form>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#await made then all}
    <ul>
      {#each all as one (one.id)}
        <li>
          <button type="button" onclick={() => void into(one.id, one.name)}>
            <strong>{one.name}</strong>
            <span class="pencil">{counted(one.pieces, 'piece')}</span>
          </button>
        </li>
      {/each}
    </ul>
  {/await}
</Dialog>

<style>
  form {
    display: flex;
    gap: 8px;
    align-items: end;
    margin-bottom: 12px;
  }
  label {
    flex: 1;
  }
  ul {
    margin: 0;
    padding: 0;
    list-style: none;
  }
  li button {
    display: flex;
    width: 100%;
    gap: 10px;
    padding: 8px 0;
    background: none;
    border: 0;
    border-top: 1px solid var(--rule);
    text-align: left;
  }
</style>
