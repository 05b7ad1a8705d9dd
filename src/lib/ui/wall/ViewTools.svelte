<script lang="ts">
  import { SHOWS, type Shows } from '#core/query/clipsSpans';
  import Segments from '../common/Segments.svelte';
  import { LARGEST, SMALLEST, VIEWS, type View } from './views';

  interface Props {
    view: View;
    /** px a row of the wall is high */
    size: number;
    /** Clips, their spans, or both, where the sentence asks for footage or sound alone. */
    shows: Shows | null;
    onshows: (shows: Shows) => void;
    onview: (view: View) => void;
    onsize: (px: number) => void;
  }
  const { view, size, shows, onshows, onview, onsize }: Props = $props();
  const LABELS: Record<View, string> = {
    wall: 'Wall',
    register: 'Register',
    timeline: 'Timeline',
    atlas: 'Atlas',
  };
</script>

<div class="tools">
  {#if shows}
    <Segments
      label="Clips or spans"
      options={SHOWS.map((value) => ({ value, words: value }))}
      value={shows}
      onchange={onshows}
    />
  {/if}
  {#if view !== 'register'}
    <label class="size"
      ><span class="unseen">Size of pictures</span><input
        type="range"
        min={SMALLEST}
        max={LARGEST}
        step="10"
        value={size}
        onchange={(event) => onsize(Number(event.currentTarget.value))}
      /></label
    >
  {/if}
  <div class="views">
    <Segments
      label="View"
      options={VIEWS.map((value) => ({ value, words: LABELS[value] }))}
      value={view}
      onchange={onview}
    />
  </div>
</div>

<style>
  .tools {
    display: flex;
    gap: 16px;
    align-items: center;
    flex: none;
  }
  .size input {
    width: 90px;
    accent-color: var(--verdigris);
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .tools {
      flex-wrap: wrap;
      gap: 8px;
    }
  }
</style>
