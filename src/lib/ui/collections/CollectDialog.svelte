<script lang="ts">
  import type { Picked } from '#core/query/picked';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { collectInto } from './collect';
  import { sayDone } from '../common/notices.svelte';

  interface Props {
    ids: Picked;
    count: number;
    /** Those that are picked by hand. */
    collections: { id: string; name: string }[];
    onclose: () => void;
  }
  const { ids, count, collections, onclose }: Props = $props();
  /** How many items lie in each, once it is known. */
  let counts = $state.raw<ReadonlyMap<string, number>>(new Map());
  $effect(() => {
    api
      .get('/api/collections')
      .then((kept) => (counts = new Map(kept.map((one) => [one.id, one.count]))))
      .catch(() => undefined);
  });
  let name = $state('');
  let wrong = $state('');

  async function into(id: string, label: string): Promise<void> {
    try {
      await collectInto({ id, name: label }, ids, count);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }

  async function make(): Promise<void> {
    try {
      await api.post('/api/collections', { name, itemIds: ids });
      sayDone(`“${name.trim()}” made with ${counted(count, 'item')}.`);
      onclose();
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<Dialog title="Collect {counted(count, 'item')}" {onclose}>
  <form onsubmit={(event) => (event.preventDefault(), void make())}>
    <label class="new"
      ><span class="label">A new collection</span><input
        class="field"
        bind:value={name}
        placeholder="its name"
      /></label
    >
    <button class="button act" type="submit" disabled={!name.trim()}>Make it</button>
  </form>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if collections.length}
    <p class="label">or into one that is there</p>
    <ul>
      {#each collections as one (one.id)}
        <li>
          <button type="button" onclick={() => void into(one.id, one.name)}
            ><span>{one.name}</span><span class="mono pencil">{counts.get(one.id) ?? ''}</span
            ></button
          >
        </li>
      {/each}
    </ul>
  {/if}
</Dialog>

<style>
  form {
    display: flex;
    gap: 8px;
    align-items: end;
    margin-bottom: 16px;
  }
  .new {
    flex: 1;
  }
  li button {
    display: flex;
    justify-content: space-between;
    width: 100%;
    padding: 7px 8px;
    border: 0;
    border-top: 1px solid var(--rule);
    background: none;
    font: 16.5px var(--book);
    text-align: left;
  }
  li button:hover {
    background: var(--wash);
  }
</style>
