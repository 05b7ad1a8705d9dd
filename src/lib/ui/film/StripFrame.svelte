<script lang="ts">
  import type { Film } from '#core/footage/film';

  /** One of the frames side by side that a clip is shown by: the nearest to a part of its length. */
  interface Props {
    id: string;
    strip: NonNullable<Film['strip']>;
    /** Part of the length, 0 … 1. */
    part: number;
    /** px */
    height: number;
  }
  const { id, strip, part, height }: Props = $props();
  const at = $derived(
    Math.min(strip.count - 1, Math.max(0, Math.floor(Math.min(1, part) * strip.count))),
  );
  const rows = $derived(Math.ceil(strip.count / strip.columns));
  const column = $derived(at % strip.columns);
  const row = $derived(Math.floor(at / strip.columns));
</script>

<i
  style:width="{Math.round((height * strip.width) / strip.height)}px"
  style:height="{height}px"
  style:background-image="url(/api/items/{id}/strip)"
  style:background-size="{strip.columns * 100}% {rows * 100}%"
  style:background-position="{strip.columns > 1 ? (column / (strip.columns - 1)) * 100 : 0}% {rows >
  1
    ? (row / (rows - 1)) * 100
    : 0}%"
></i>

<style>
  i {
    display: block;
    flex: none;
    background-color: var(--well);
    border: 1px solid var(--rule);
  }
</style>
