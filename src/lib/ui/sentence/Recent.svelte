<script lang="ts">
  import { parseQuery } from '#core/query/grammar';
  import { sentenceText } from '#core/query/sentence';
  import { api } from '../common/api';

  interface Props {
    recent: string[];
    onchoose: (text: string) => void;
  }
  const { recent, onchoose }: Props = $props();
  let labels = $state<Record<string, string>>({});
  $effect(() => {
    void api
      .post('/api/catalogue/labels', { queries: recent })
      .then((found) => (labels = found))
      .catch(() => undefined);
  });
  function words(text: string): string {
    try {
      return sentenceText(parseQuery(text), (reference) => labels[reference]?.split('/').at(-1));
    } catch {
      return text;
    }
  }
</script>

{#each recent as text (text)}
  <button type="button" onclick={() => onchoose(text)}>{words(text)}</button>
{/each}

<style>
  button {
    display: block;
    width: 100%;
    border: 0;
    padding: 5px 14px;
    background: none;
    text-align: left;
    font: 14px/1.35 var(--book);
  }
  button:hover {
    background: var(--wash);
  }
</style>
