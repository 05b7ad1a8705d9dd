<script lang="ts">
  import type { Snippet } from 'svelte';
  import { freshen } from '../common/freshen';
  import { calmly, hear, isAboutCounts } from '../common/live';

  /** A page that shows one list: its name, what it is for, and its entries, loaded anew when somebody changes them. */
  interface Props {
    title: string;
    lead: Snippet;
    children: Snippet;
    /** Counts of items stand beside the entries: they follow items that change. */
    counts?: boolean;
  }
  const { title, lead, children, counts = false }: Props = $props();

  /** Counts are right two seconds after a change: they are asked for at once, and once more then. */
  const COUNTED_MS = 2500;
  $effect(() => {
    let later: ReturnType<typeof setTimeout> | undefined;
    const again = (): void => void freshen('mindful:lists');
    const soon = calmly(() => {
      again();
      clearTimeout(later);
      if (counts) later = setTimeout(again, COUNTED_MS);
    }, 1000);
    const deaf = hear((message) => {
      const { about } = message;
      if (about === 'lists' || about === 'again' || (counts && isAboutCounts(message))) soon();
    });
    return () => {
      clearTimeout(later);
      deaf();
    };
  });
</script>

<svelte:head><title>{title} · Mindful Archive</title></svelte:head>

<div class="page">
  <h1>{title}</h1>
  <p class="pencil lead">{@render lead()}</p>
  {@render children()}
</div>

<style>
  .page {
    height: 100%;
    padding: 20px 24px;
    overflow: auto;
  }
  h1 {
    font-size: 28px;
  }
  .lead {
    max-width: 640px;
    margin: 6px 0 14px;
  }
  .page :global(h2) {
    margin: 22px 0 4px;
  }
  .page :global(ul) {
    max-width: 1100px;
  }
  .page :global(li) {
    border-top: 1px solid var(--rule);
  }
  .page :global(.name) {
    min-height: 28px;
    border: 0;
    padding: 0;
    background: none;
    font: 16.5px var(--book);
    text-align: left;
  }
  .page :global(button.name:hover) {
    color: var(--verdigris);
  }
  .page :global(.none) {
    font: 16.5px var(--book);
  }
  .page :global(.new) {
    display: flex;
    gap: 14px;
    align-items: center;
    margin-top: 14px;
  }
</style>
