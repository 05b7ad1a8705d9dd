<script lang="ts">
  import { formatQuery, parseQuery } from '#core/query/grammar';
  import { EVERYTHING, replaced, type Query } from '#core/query/tree';

  import SheetRow from './SheetRow.svelte';

  interface Props {
    query: Query;
    at: number;
    onchange: (query: Query) => void;
  }
  const { query, at, onchange }: Props = $props();
  // svelte-ignore state_referenced_locally
  let text = $state(formatQuery({ ...EVERYTHING, where: [query.where[at]!] }));
  let wrong = $state('');

  function accept(): void {
    try {
      const where = [...query.where];
      where.splice(at, 1, ...parseQuery(text).where);
      onchange({ ...query, where });
    } catch (error) {
      wrong = (error as Error).message;
    }
  }
</script>

<form onsubmit={(event) => (event.preventDefault(), accept())}>
  <textarea class="field" rows="4" bind:value={text} aria-label="This part as text"></textarea>
  <button class="button act" type="submit">Set</button>
</form>
{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
<SheetRow onclick={() => onchange(replaced(query, at, null))}>leave this out</SheetRow>

<style>
  form {
    display: grid;
    gap: 8px;
    padding: 4px 14px 8px;
  }
  .wrong {
    padding: 4px 14px;
  }
</style>
