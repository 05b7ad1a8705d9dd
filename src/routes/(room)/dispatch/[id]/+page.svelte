<script lang="ts">
  import { counted } from '#core/text/quantities';
  import type { PageProps } from './$types';

  const { data }: PageProps = $props();
</script>

<svelte:head><title>Picks in {data.room.title} · Mindful Archive</title></svelte:head>

<div class="page">
  <p><a class="link" href="/dispatch">Dispatch</a></p>
  <h1>What guests picked in “{data.room.title}”</h1>
  <ul>
    {#each data.picks as { tile, guests } (tile.id)}
      <li>
        <a href="/catalogue/{tile.number}"
          ><img src="/api/pictures/{tile.picture}/small" alt={tile.title || tile.name} /></a
        >
        <span>{tile.title || tile.name}</span><span class="pencil">{counted(guests, 'guest')}</span>
      </li>
    {:else}<li class="none">No guest has picked anything yet.</li>{/each}
  </ul>
</div>

<style>
  .page {
    height: 100%;
    padding: 16px 24px;
    overflow: auto;
  }
  h1 {
    margin-bottom: 16px;
    font-size: 28px;
  }
  ul {
    display: flex;
    flex-wrap: wrap;
    gap: 16px;
  }
  li {
    display: grid;
    max-width: 260px;
  }
  img {
    display: block;
    height: 160px;
  }
  .none {
    max-width: none;
    font: 16.5px var(--book);
  }
</style>
