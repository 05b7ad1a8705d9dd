<script lang="ts">
  import { kept } from './kept.svelte';

  /** One picture after the other, over the whole screen where it may; pips and stages work meanwhile. */
  interface Props {
    stage: HTMLElement | undefined;
    /** Address of the picture now shown: its time begins with it. */
    ready: string;
    onturn: () => void;
  }
  const { stage, ready, onturn }: Props = $props();
  let runs = $state<'off' | 'on' | 'paused'>('off');

  $effect(() => {
    void ready;
    if (runs !== 'on') return;
    const next = setTimeout(onturn, kept.seconds * 1000);
    return () => clearTimeout(next);
  });
  $effect(() => {
    const left = (): void => {
      if (!document.fullscreenElement) runs = 'off';
    };
    document.addEventListener('fullscreenchange', left);
    return () => document.removeEventListener('fullscreenchange', left);
  });

  export function start(): void {
    runs = 'on';
    // Where the browser does not let it, it runs in the window.
    void stage?.requestFullscreen?.().catch(() => undefined);
  }
  /** @returns whether there was a show to pause or to go on with */
  export function pause(): boolean {
    if (runs === 'off') return false;
    runs = runs === 'on' ? 'paused' : 'on';
    return true;
  }
  /** @returns whether there was one to end */
  export function stop(): boolean {
    if (runs === 'off') return false;
    runs = 'off';
    if (document.fullscreenElement) void document.exitFullscreen();
    return true;
  }
</script>

{#if runs !== 'off'}
  <div class="show" role="group" aria-label="Show" data-runs={runs}>
    <button type="button" class="link" onclick={pause}
      >{runs === 'on' ? 'Pause' : 'Go on'} <kbd>Space</kbd></button
    >
    <label
      >each <input
        class="mono"
        type="number"
        min="1"
        max="60"
        value={kept.seconds}
        onchange={(event) => (kept.seconds = Number(event.currentTarget.value) || 4)}
      /> s</label
    >
    <button type="button" class="link" onclick={stop}>End <kbd>Esc</kbd></button>
  </div>
{/if}

<style>
  .show {
    position: absolute;
    top: 10px;
    right: 14px;
    display: flex;
    gap: 10px;
    align-items: center;
    padding: 5px 8px;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--card);
  }
  input {
    min-height: 26px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
    width: 52px;
    padding: 2px 5px;
  }
</style>
