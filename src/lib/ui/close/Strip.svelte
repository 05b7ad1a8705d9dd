<script lang="ts">
  import { TileStore } from '../wall/tiles.svelte';

  /** What lies around the item in its result. */
  interface Props {
    query: string;
    index: number;
    total: number;
    address: (number: string) => string;
  }
  const { query, index, total, address }: Props = $props();
  const EACH = 76;
  let wide = $state(0);
  const store = $derived(new TileStore(query));
  const half = $derived(Math.max(2, Math.floor(wide / EACH / 2)));
  const from = $derived(Math.max(0, Math.min(index - half, total - half * 2)));
  const places = $derived(
    Array.from({ length: Math.min(half * 2, total) }, (_, at) => from + at).filter(
      (at) => at < total,
    ),
  );
  $effect(() => {
    if (places.length > 0) void store.want(places[0]!, places.at(-1)! + 1);
  });
</script>

<nav class="strip" aria-label="What lies around it" bind:clientWidth={wide}>
  {#each places as place (place)}
    {@const tile = store.at(place)}
    {#if tile}
      <a
        href={address(tile.number)}
        data-sveltekit-noscroll
        aria-current={place === index ? 'true' : undefined}
        aria-label={tile.title || tile.name}
      >
        {#if tile.pictureState === 'ready'}<img
            src="/api/pictures/{tile.picture}/small"
            alt=""
            loading="lazy"
          />{:else}<span class="pencil">—</span>{/if}
      </a>
    {:else}<span class="gap"></span>{/if}
  {/each}
</nav>

<style>
  .strip {
    display: flex;
    justify-content: center;
    gap: 4px;
    height: 64px;
    padding: 5px 10px;
    background: var(--paper);
    border-top: 1px solid var(--rule);
    overflow: hidden;
  }
  a,
  .gap {
    flex: 0 0 72px;
    display: grid;
    place-items: center;
    border: 2px solid transparent;
    border-radius: 3px;
    background: var(--well);
    overflow: hidden;
  }
  a[aria-current] {
    border-color: var(--verdigris);
  }
  img {
    width: 100%;
    height: 100%;
    object-fit: cover;
  }
</style>
