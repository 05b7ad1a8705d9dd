<script lang="ts">
  /** A span that moves, without its sound, over and over, as long as one rests on it. */
  interface Props {
    id: string;
    /** Seconds of its clip. */
    from: number;
    to: number;
  }
  const { id, from, to }: Props = $props();
  let video = $state<HTMLVideoElement>();
  let moves = $state(false);

  $effect(() => {
    const own = video;
    if (!own) return;
    const again = (): void => {
      if (own.currentTime >= to || own.ended) {
        own.currentTime = from;
        void own.play().catch(() => undefined);
      }
    };
    const timer = setInterval(again, 40);
    return () => {
      clearInterval(timer);
      own.pause();
    };
  });
</script>

<video
  bind:this={video}
  class:moves
  src="/api/items/{id}/media#t={from.toFixed(3)}"
  muted
  playsinline
  autoplay
  preload="auto"
  aria-hidden="true"
  onplaying={() => (moves = true)}
></video>

<style>
  video {
    position: absolute;
    inset: 0;
    width: 100%;
    height: 100%;
    object-fit: cover;
    visibility: hidden;
  }
  video.moves {
    visibility: visible;
  }
</style>
