<script lang="ts">
  import { area, scaleSqrt } from 'd3';
  import { kept } from './kept.svelte';
  import { tonesOf, type Tones } from './tones';

  interface Props {
    /** Address of a picture. */
    picture: string;
    /** Called with a picture of the light that is lost, to be laid over it; null where none is. */
    onlost: (url: string | null) => void;
    /** Light can be lost in it: it was seen by a lens. */
    seen: boolean;
  }
  const { picture, onlost, seen }: Props = $props();
  const [WIDE, HIGH] = [256, 90];
  let found = $state.raw<Tones | null>(null);
  $effect(() => {
    const wished = picture;
    let url: string | null = null;
    void tonesOf(wished).then((tones) => {
      if (wished !== picture) return;
      found = tones;
      url = tones && tones.black + tones.white > 0 ? URL.createObjectURL(tones.lost) : null;
      onlost(url);
    });
    return () => {
      onlost(null);
      if (url) URL.revokeObjectURL(url);
    };
  });
  const most = $derived(
    found
      ? Math.max(
          1,
          ...[found.histogram.red, found.histogram.green, found.histogram.blue].map((one) =>
            one.subarray(2, 253).reduce((top, value) => Math.max(top, value), 0),
          ),
        )
      : 1,
  );
  const height = $derived(scaleSqrt([0, most], [0, HIGH]).clamp(true));
  const path = (values: Uint32Array): string =>
    area<number>()
      .x((_, at) => at)
      .y0(HIGH)
      .y1((value) => HIGH - height(value))(Array.from(values)) ?? '';
  const part = (value: number): string =>
    value === 0 ? 'none' : `${(value * 100).toFixed(value < 0.1 ? 1 : 0)} %`;
</script>

<figure>
  <svg viewBox="0 0 {WIDE} {HIGH}" role="img" aria-label="How bright its pixels are">
    {#if found}
      <path class="red" d={path(found.histogram.red)} />
      <path class="green" d={path(found.histogram.green)} />
      <path class="blue" d={path(found.histogram.blue)} />
    {/if}
  </svg>
  <figcaption class="mono">
    {found && seen ? `lost: black ${part(found.black)}, white ${part(found.white)}` : ' '}
    {#if seen && found && found.black + found.white > 0}<button
        class="link"
        type="button"
        aria-pressed={kept.lost}
        onclick={() => (kept.lost = !kept.lost)}>Mark <kbd>#</kbd></button
      >{/if}
  </figcaption>
</figure>

<style>
  figure {
    position: absolute;
    left: 14px;
    bottom: 12px;
    width: 276px;
    padding: 8px 10px;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--card);
  }
  svg {
    display: block;
    width: 100%;
    background: var(--well);
  }
  path {
    mix-blend-mode: multiply;
    opacity: 0.75;
  }
  .red {
    fill: #c4473a;
  }
  .green {
    fill: #3f8f5d;
  }
  .blue {
    fill: #4a6fb0;
  }
  figcaption {
    display: flex;
    justify-content: space-between;
    padding-top: 5px;
    white-space: nowrap;
    font-size: 11.5px;
  }
</style>
