<script lang="ts">
  import type { Player } from './player.svelte';

  /** Footage or a sound as the browser plays it, in a player's hands. */
  interface Props {
    player: Player;
    id: string;
    isFootage: boolean;
    poster: string | null;
  }
  const { player, id, isFootage, poster }: Props = $props();
  const src = $derived(`/api/items/${id}/media`);
  const heed = (): void => player.heed();
  const fail = (): void => void (player.failed = true);
</script>

{#if isFootage}
  <!-- svelte-ignore a11y_media_has_caption -->
  <video
    bind:this={player.media}
    bind:duration={player.length}
    {src}
    {poster}
    preload="auto"
    onplay={heed}
    onpause={heed}
    onclick={() => player.toggle()}
    onerror={fail}
  ></video>
{:else}
  <audio
    bind:this={player.media}
    bind:duration={player.length}
    {src}
    preload="metadata"
    onplay={heed}
    onpause={heed}
    onerror={fail}
  ></audio>
{/if}

<style>
  video {
    width: 100%;
    height: 100%;
    min-height: 0;
    background: #161817;
  }
  audio {
    display: none;
  }
</style>
