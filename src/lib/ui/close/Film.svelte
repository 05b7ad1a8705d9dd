<script lang="ts">
  import type { Film } from '#core/footage/film';
  import { frameAt, middleOf, timesOf } from '#core/footage/frames';
  import { addFrames, formatTimecode, parseTimecode } from '#core/footage/timecode';
  import { formatName } from '#core/kinds/kinds';
  import type { Technical } from '#core/records/technical';
  import { api } from '../common/api';
  import { hear } from '../common/live';
  import Wave from './Wave.svelte';

  interface Props {
    id: string;
    kind: string;
    format: string;
    poster: string | null;
    technical: Technical;
    proxyMade: boolean;
    jobs: { task: string; state: string; reason: string | null }[];
    /** Called with the moment, s, its picture is to be taken at; null where one may not. */
    moment: ((seconds: number | null) => void) | null;
    /** Its picture was chosen. */
    isChosen: boolean;
  }
  const { id, kind, format, poster, technical, proxyMade, jobs, moment, isChosen }: Props =
    $props();
  const proxy = $derived(jobs.find(({ task }) => task === 'proxy'));
  const waits = $derived(proxy !== undefined && !proxyMade && proxy.state !== 'failed');
  let film = $state.raw<Film | null>(null);
  let media = $state<HTMLMediaElement>();
  let failed = $state(false);
  let plays = $state(false);
  let seconds = $state(0);
  let length = $state(0);
  let frame = $state(0);

  $effect(() => {
    const wished = id;
    film = null;
    const ask = (): void =>
      void api
        .get(`/api/items/${wished}/film`)
        .then((found) => {
          if (wished === id && found) film = found;
        })
        .catch(() => undefined);
    ask();
    return hear((message) => {
      if (message.about === 'items' && message.ids.includes(wished) && !film) ask();
    });
  });
  const times = $derived(film?.frames ? timesOf(film.frames, film.first) : null);
  const start = $derived(
    technical.timecode && technical.frameRate
      ? parseTimecode(technical.timecode, technical.frameRate)
      : null,
  );
  const code = $derived(start && times ? formatTimecode(addFrames(start, frame)) : null);
  const clock = (at: number): string =>
    `${Math.floor(at / 60)}:${(at % 60).toFixed(2).padStart(5, '0')}`;

  const signed = (value: number): string => String(value).replace('-', '−');

  // What the browser says it shows is what is named.
  $effect(() => {
    const video = media;
    if (!(video instanceof HTMLVideoElement) || !('requestVideoFrameCallback' in video)) return;
    let ended = false;
    const seen = (_now: number, { mediaTime }: { mediaTime: number }): void => {
      if (ended) return;
      if (times) frame = frameAt(times, mediaTime + 0.0005);
      seconds = mediaTime;
      video.requestVideoFrameCallback(seen);
    };
    video.requestVideoFrameCallback(seen);
    return () => {
      ended = true;
    };
  });

  export function toggle(): void {
    if (!media) return;
    if (media.paused)
      void media.play().catch((error: unknown) => {
        // Paused or turned away from before it began is no fault of the file.
        failed = (error as DOMException).name === 'NotSupportedError';
      });
    else media.pause();
  }
  /** Some frames on; the frame that is named is the one that is shown. */
  export function step(by: number): void {
    if (!media) return;
    media.pause();
    if (times) goTo(frame + by);
    else media.currentTime += by * 0.04;
  }
  function goTo(wished: number): void {
    if (!media || !times) return;
    frame = Math.min(Math.max(wished, 0), times.length - 1);
    media.currentTime = middleOf(times, frame);
  }
  function seek(part: number): void {
    if (!media) return;
    const at = part * (length || film?.duration || 0);
    if (times) goTo(frameAt(times, at));
    else media.currentTime = at;
  }
  let typed = $state('');
  function jump(): void {
    if (start && times && technical.frameRate) {
      const wished = parseTimecode(typed, technical.frameRate);
      if (wished) goTo(wished.frame - start.frame);
    } else if (/^\d+$/.test(typed)) goTo(Number(typed));
    typed = '';
  }
</script>

<div class="film" data-frame={frame} data-frames={times?.length ?? 0}>
  {#if waits}
    <p class="why">
      Browsers do not play {formatName(format)} with {technical.videoCodec ?? technical.audioCodec};
      a proxy is being made.
    </p>
  {:else if proxy?.state === 'failed'}
    <p class="why">No proxy could be made: {proxy.reason}</p>
  {:else if failed}
    <p class="why">This file cannot be played; the original can be downloaded.</p>
  {:else if kind === 'footage'}
    <!-- svelte-ignore a11y_media_has_caption -->
    <video
      bind:this={media}
      src="/api/items/{id}/media"
      {poster}
      preload="auto"
      bind:duration={length}
      onplay={() => (plays = true)}
      onpause={() => (plays = false)}
      onclick={toggle}
      onerror={() => (failed = true)}
    ></video>
  {:else}
    <audio
      bind:this={media}
      src="/api/items/{id}/media"
      preload="metadata"
      bind:duration={length}
      bind:currentTime={seconds}
      onplay={() => (plays = true)}
      onpause={() => (plays = false)}
      onerror={() => (failed = true)}
    ></audio>
  {/if}
  <div class="run" hidden={waits || proxy?.state === 'failed' || failed}>
    <Wave
      {id}
      peaks={film?.peaks ?? 0}
      tall={kind === 'sound'}
      scenes={film?.scenes ?? []}
      length={length || film?.duration || 0}
      {seconds}
      onseek={seek}
    />
    <div class="controls">
      <button type="button" class="link" onclick={toggle}
        >{plays ? 'Pause' : 'Play'} <kbd>Space</kbd></button
      >
      {#if kind === 'footage'}
        <button type="button" class="link" aria-label="One frame back" onclick={() => step(-1)}
          ><kbd>,</kbd></button
        >
        <button type="button" class="link" aria-label="One frame on" onclick={() => step(1)}
          ><kbd>.</kbd></button
        >
      {/if}
      <span class="mono" data-part="code">{code ?? clock(seconds)}</span>
      {#if times}
        <span class="mono pencil">frame {frame} of {times.length}</span>
        <form
          onsubmit={(event) => {
            event.preventDefault();
            jump();
          }}
        >
          <input
            class="mono"
            aria-label={start ? 'Go to timecode' : 'Go to frame'}
            placeholder={start ? 'go to timecode' : 'go to frame'}
            bind:value={typed}
          />
        </form>
        {#if moment}
          <button
            type="button"
            class="link"
            onclick={() => moment(times ? middleOf(times, frame) : seconds)}>Use this frame</button
          >
          {#if isChosen}<button type="button" class="link" onclick={() => moment(null)}
              >Usual frame</button
            >{/if}
        {/if}
      {:else if length}<span class="mono pencil">of {clock(length)}</span>{/if}
      <span class="pencil facts"
        >{[
          technical.loudness !== undefined && `${signed(technical.loudness)} LUFS`,
          technical.truePeak !== undefined && `${signed(technical.truePeak)} dBTP`,
          proxyMade && 'playing the proxy',
        ]
          .filter(Boolean)
          .join(' · ')}</span
      >
    </div>
  </div>
</div>

<style>
  .film {
    position: absolute;
    inset: 0;
    display: grid;
    grid-template-rows: minmax(0, 1fr) auto;
  }
  video {
    width: 100%;
    height: 100%;
    min-height: 0;
    background: #161817;
  }
  audio {
    display: none;
  }
  .why {
    place-self: center;
    padding: 40px;
    font: 20px/1.4 var(--book);
    text-align: center;
  }
  .run {
    grid-row: 2;
    padding: 6px 18px 8px;
    background: var(--card);
    border-top: 1px solid var(--rule);
  }
  .controls {
    display: flex;
    gap: 12px;
    align-items: center;
    white-space: nowrap;
    overflow: hidden;
  }
  .facts {
    margin-left: auto;
  }
  input {
    min-height: 26px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    width: 130px;
    padding: 2px 6px;
  }
</style>
