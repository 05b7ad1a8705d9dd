<script lang="ts">
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
    void fetch(`/api/items/${wished}/peaks`)
      .then((response) => (response.ok ? response.arrayBuffer() : null))
      .then((bytes) => {
        if (bytes && wished === id) samples = new Int8Array(bytes);
      })
      .catch(() => undefined);
  });

  $effect(() => {
    const pen = canvas?.getContext('2d');
    if (!canvas || !pen || wide === 0) return;
    canvas.width = wide * devicePixelRatio;
    canvas.height = height * devicePixelRatio;
    pen.scale(devicePixelRatio, devicePixelRatio);
    const style = getComputedStyle(canvas);
    const middle = height / 2;
    pen.fillStyle = style.getPropertyValue('--rule');
    pen.fillRect(0, middle - 0.5, wide, 1);
    pen.fillStyle = style.getPropertyValue('--verdigris');
    const count = samples ? samples.length / 2 : 0;
    for (let x = 0; samples && x < wide; x += 1) {
      const from = Math.floor((x / wide) * count);
      const to = Math.max(from + 1, Math.floor(((x + 1) / wide) * count));
      let [low, high] = [0, 0];
      for (let stretch = from; stretch < to; stretch += 1) {
        low = Math.min(low, samples[stretch * 2]!);
        high = Math.max(high, samples[stretch * 2 + 1]!);
      }
      const top = middle - (high / 127) * middle;
      pen.fillRect(x, top, 1, Math.max(1, middle - (low / 127) * middle - top));
    }
    pen.fillStyle = style.getPropertyValue('--slate');
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
