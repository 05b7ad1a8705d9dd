<script lang="ts">
  import { api } from '../common/api';

  interface Props {
    /** Compact text of the sentence. */
    q: string;
    id: string;
  }
  const { q, id }: Props = $props();
  let open = $state(false);
  let why = $state<{ found: boolean; parts: { words: string; holds: boolean }[] } | null>(null);
  let wrong = $state('');

  $effect(() => {
    if (!open) return;
    const wish = { q, id };
    why = null;
    wrong = '';
    api
      .get('/api/catalogue/why', wish)
      .then((found) => {
        if (wish.id === id && wish.q === q) why = found;
      })
      .catch((error: Error) => (wrong = error.message));
  });
</script>

<details bind:open>
  <summary>Is it in the sentence, and why?</summary>
  {#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
  {#if why}
    <p>{why.found ? 'It is: all of this holds.' : 'It is not: a part does not hold.'}</p>
    <ul>
      {#each why.parts as { words, holds }, at (at)}
        <li class:wrong={!holds}>{holds ? '' : 'not so: '}{words}</li>
      {/each}
    </ul>
  {/if}
</details>

<style>
  details {
    margin-top: 12px;
    border-top: 1px solid var(--rule);
    padding-top: 10px;
  }
  summary {
    min-height: 24px;
    color: var(--pencil);
    cursor: pointer;
  }
  li {
    padding: 2px 0;
  }
</style>
