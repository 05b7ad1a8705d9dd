<script lang="ts">
  import { drawWave, peaksOf, penOf } from '../film/wave';

  /** A sound drawn over its length, where other scenes begin, and where one is. */
  interface Props {
    id: string;
    /** Stretches drawn; 0 where there is no sound. */
    peaks: number;
    tall: boolean;
    scenes: readonly number[];
    /** seconds */
    length: number;
    seconds: number;
    /** 0 … 1 of the length */
    onseek: (part: number) => void;
  }
  const { id, peaks, tall, scenes, length, seconds, onseek }: Props = $props();
  let canvas = $state<HTMLCanvasElement>();
  let wide = $state(0);
  let samples = $state.raw<Int8Array | null>(null);
  const height = $derived(tall ? 180 : 44);
  const at = $derived(length > 0 ? Math.min(1, seconds / length) : 0);

  $effect(() => {
    samples = null;
    if (peaks === 0) return;
    const wished = id;
    void peaksOf(wished).then((found) => {
      if (wished === id) samples = found;
    });
  });

  $effect(() => {
    const pen = penOf(canvas, wide, height);
    if (!pen) return;
    drawWave(pen, samples, { wide, height, colour: '--verdigris' }, (x) => x / wide);
    pen.fillStyle = getComputedStyle(pen.canvas).getPropertyValue('--slate');
    for (const scene of scenes) if (length > 0) pen.fillRect((scene / length) * wide, 0, 1, height);
  });

  const seek = (event: PointerEvent): void => {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    onseek(Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)));
  };
  let holds = false;
  const STEP = 0.01;
</script>

<div
  class="wave"
  role="slider"
  tabindex="0"
  aria-label="Where one is"
  aria-valuemin={0}
  aria-valuemax={Math.round(length)}
  aria-valuenow={Math.round(seconds)}
  style:height="{height}px"
  bind:clientWidth={wide}
  onpointerdown={(event) => {
    holds = true;
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    seek(event);
  }}
  onpointermove={(event) => holds && seek(event)}
  onpointerup={() => (holds = false)}
  onkeydown={(event) => {
    if (event.key !== 'Home' && event.key !== 'End' && !/^Page/.test(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Home') onseek(0);
    else if (event.key === 'End') onseek(1);
    else onseek(at + (event.key === 'PageDown' ? STEP * 5 : -STEP * 5));
  }}
>
  <canvas bind:this={canvas} style:width="{wide}px" style:height="{height}px"></canvas>
  <i style:left="{at * 100}%"></i>
</div>

<style>
  .wave {
    position: relative;
    cursor: pointer;
    touch-action: none;
  }
  i {
    position: absolute;
    top: 0;
    bottom: 0;
    width: 2px;
    margin-left: -1px;
    background: var(--wax);
  }
</style>
