<script lang="ts">
  import { LARGEST, SMALLEST, VIEWS, type View } from './views';

  interface Props {
    view: View;
    /** px a row of the wall is high */
    size: number;
    onview: (view: View) => void;
    onsize: (px: number) => void;
  }
  const { view, size, onview, onsize }: Props = $props();
  const LABELS: Record<View, string> = {
    wall: 'Wall',
    register: 'Register',
    timeline: 'Timeline',
    atlas: 'Atlas',
  };
</script>

<div class="tools">
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
  <div class="views" role="group" aria-label="View">
    {#each VIEWS as one (one)}
      <button type="button" aria-pressed={view === one} onclick={() => onview(one)}
        >{LABELS[one]}</button
      >
    {/each}
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
  .views {
    display: flex;
    border: 1px solid var(--rule);
    border-radius: 4px;
    overflow: hidden;
  }
  .views button {
    border: 0;
    padding: 6px 11px;
    background: none;
  }
  .views button[aria-pressed='true'] {
    background: var(--ink);
    color: var(--card);
  }
</style>
