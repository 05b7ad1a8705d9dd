<script lang="ts">
  import { middleOf } from '#core/footage/frames';
  import { addFrames, formatTimecode, parseTimecode } from '#core/footage/timecode';
  import { formatName } from '#core/kinds/kinds';
  import type { Technical } from '#core/records/technical';
  import Media from '../film/Media.svelte';
  import { Player } from '../film/player.svelte';
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
  const player = new Player();
  const { film, times, frame, seconds, length } = $derived(player);

  $effect(() => player.ask(id));
  $effect(() => player.watch());
  const start = $derived(
    technical.timecode && technical.frameRate
      ? parseTimecode(technical.timecode, technical.frameRate)
      : null,
  );
  const code = $derived(start && times ? formatTimecode(addFrames(start, frame)) : null);
  const clock = (at: number): string =>
    `${Math.floor(at / 60)}:${(at % 60).toFixed(2).padStart(5, '0')}`;

  const signed = (value: number): string => String(value).replace('-', '−');

  export const toggle = (): void => player.toggle();
  export const step = (by: number): void => player.step(by);
  let typed = $state('');
  function jump(): void {
    if (start && times && technical.frameRate) {
      const wished = parseTimecode(typed, technical.frameRate);
      if (wished) player.goTo(wished.frame - start.frame);
    } else if (/^\d+$/.test(typed)) player.goTo(Number(typed));
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
  {:else if player.failed}
    <p class="why">This file cannot be played; the original can be downloaded.</p>
  {:else}
    <Media {player} {id} isFootage={kind === 'footage'} {poster} />
  {/if}
  <div class="run" hidden={waits || proxy?.state === 'failed' || player.failed}>
    <Wave
      {id}
      peaks={film?.peaks ?? 0}
      tall={kind === 'sound'}
      scenes={film?.scenes ?? []}
      length={length || film?.duration || 0}
      {seconds}
      onseek={(part) => player.seekTo(part * (length || film?.duration || 0))}
    />
    <div class="controls">
      <button type="button" class="link" onclick={() => player.toggle()}
        >{player.plays ? 'Pause' : 'Play'} <kbd>Space</kbd></button
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
