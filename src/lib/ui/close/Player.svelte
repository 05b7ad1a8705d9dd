<script lang="ts">
  import { formatName } from '#core/kinds/kinds';
  import type { Technical } from '#core/records/technical';

  interface Props {
    id: string;
    kind: string;
    format: string;
    poster: string | null;
    technical: Technical;
    proxyMade: boolean;
    jobs: { task: string; state: string; reason: string | null }[];
  }
  const { id, kind, format, poster, technical, proxyMade, jobs }: Props = $props();
  const proxy = $derived(jobs.find(({ task }) => task === 'proxy'));
  const waits = $derived(proxy !== undefined && !proxyMade && proxy.state !== 'failed');
  let failed = $state(false);
</script>

<div class="player">
  {#if waits}
    <p>
      Browsers do not play {formatName(format)} with {technical.videoCodec ?? technical.audioCodec};
      a proxy is being made.
    </p>
  {:else if proxy?.state === 'failed'}
    <p>No proxy could be made: {proxy.reason}</p>
  {:else if failed}
    <p>This file cannot be played; the original can be downloaded.</p>
  {:else if kind === 'footage'}
    <!-- svelte-ignore a11y_media_has_caption -->
    <video
      src="/api/items/{id}/media"
      {poster}
      controls
      preload="metadata"
      onerror={() => (failed = true)}
    ></video>
  {:else}
    {#if poster}<img src={poster} alt="Its wave form" />{/if}
    <audio src="/api/items/{id}/media" controls preload="metadata" onerror={() => (failed = true)}
    ></audio>
  {/if}
  {#if technical.timecode || proxyMade}
    <p class="mono pencil">
      {technical.timecode ? `begins at ${technical.timecode}` : ''}{technical.timecode && proxyMade
        ? ' · '
        : ''}{proxyMade ? 'playing the proxy' : ''}
    </p>
  {/if}
</div>

<style>
  .player {
    position: absolute;
    inset: 0 18px 8px;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
    gap: 8px;
    justify-items: center;
    align-items: center;
  }
  video {
    max-width: 100%;
    max-height: 100%;
    background: #000;
  }
  img {
    max-width: 100%;
    max-height: 100%;
    object-fit: contain;
  }
  audio {
    width: min(640px, 100%);
  }
  p {
    font-size: 14px;
  }
</style>
