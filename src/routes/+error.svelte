<script lang="ts">
  import { page } from '$app/state';

  const isClosed = $derived(page.error?.code === 'room-closed');
  const titles: Record<number, string> = {
    404: 'Nothing is filed here',
    403: 'This door stays closed',
    410: 'This reading room is closed',
  };
  const title = $derived(titles[page.status] ?? 'Something went wrong');
</script>

<svelte:head><title>{title} · Mindful Archive</title></svelte:head>

<main>
  <div class="card">
    <p class="mono pencil">{page.status}</p>
    <h1>{title}</h1>
    <p>{page.error?.message}</p>
    {#if isClosed}
      <p class="pencil">Ask the person who sent you the link for a new one.</p>
    {:else}
      <p><a href="/catalogue">To the catalogue</a></p>
    {/if}
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
    display: grid;
    gap: 12px;
    width: min(460px, 100%);
    padding: 28px 32px;
    border: 1px solid var(--rule);
    border-top: 2px solid var(--ink);
    background: var(--card);
    font: 16.5px/1.5 var(--book);
  }
  h1 {
    font-size: 28px;
  }
</style>
