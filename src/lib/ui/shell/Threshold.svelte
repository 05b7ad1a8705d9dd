<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    lead: string;
    children: Snippet;
  }
  const { title, lead, children }: Props = $props();
</script>

<svelte:head><title>{title} · Mindful Archive</title></svelte:head>

<main>
  <div class="card">
    <p class="name">Mindful Archive</p>
    <h1>{title}</h1>
    <p class="lead">{lead}</p>
    {@render children()}
  </div>
</main>

<style>
  main {
    display: grid;
    place-items: center;
    min-height: 100vh;
    padding: 24px;
  }
  .card {
    width: min(400px, 100%);
    padding: 28px 32px 32px;
    border: 1px solid var(--rule);
    border-top: 2px solid var(--ink);
    background: var(--card);
  }
  .name {
    font: italic 500 16.5px var(--book);
    color: var(--pencil);
  }
  h1 {
    margin: 4px 0;
    font-size: 28px;
  }
  .lead {
    margin-bottom: 20px;
    color: var(--pencil);
    font: 16.5px/1.4 var(--book);
  }
  .card :global(form) {
    display: grid;
    gap: 16px;
  }
  .card :global(.button) {
    justify-self: start;
  }
</style>
