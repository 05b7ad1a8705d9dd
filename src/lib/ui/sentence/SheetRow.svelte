<script lang="ts">
  import type { Snippet } from 'svelte';
  import { formatCount } from '#core/text/quantities';

  interface Props {
    /** Items it would leave; null where they are not counted. */
    count?: number | null;
    /** It is what the sentence says now; undefined where nothing is said by it. */
    on?: boolean;
    depth?: number;
    onclick: () => void;
    children: Snippet;
  }
  const { count = null, on, depth = 0, onclick, children }: Props = $props();
</script>

<button
  class:on
  class:none={count === 0}
  type="button"
  aria-pressed={on}
  style="padding-left:{14 + depth * 14}px"
  {onclick}
>
  <span>{@render children()}</span>
  {#if count !== null}<span class="mono">{formatCount(count)}</span>{/if}
</button>

<style>
  button {
    display: flex;
    justify-content: space-between;
    gap: 16px;
    width: 100%;
    min-height: 24px;
    border: 0;
    padding: 4px 14px;
    background: none;
    text-align: left;
  }
  button:hover,
  .on {
    background: var(--wash);
  }
  .on {
    color: var(--verdigris);
    font-weight: 700;
  }
  .none {
    color: var(--pencil);
  }
</style>
