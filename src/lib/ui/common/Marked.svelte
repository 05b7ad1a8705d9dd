<script lang="ts">
  import { hitsIn } from '#core/text/close';

  interface Props {
    text: string;
    /** Folded words whose beginnings are marked. */
    words: readonly string[];
  }
  const { text, words }: Props = $props();
</script>

{#if words.length === 0}{text}{:else}{#each hitsIn(text, words) as part, at (at)}{#if part.hit}<mark
        >{part.text}</mark
      >{:else}{part.text}{/if}{/each}{/if}

<style>
  mark {
    background: var(--wash);
    color: var(--verdigris);
    font-weight: 700;
  }
</style>
