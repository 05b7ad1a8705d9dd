<script lang="ts" generics="T extends string">
  interface Props {
    label: string;
    options: readonly { value: T; words: string }[];
    value: T;
    onchange: (value: T) => void;
    /** As wide as there is room. */
    wide?: boolean;
  }
  const { label, options, value, onchange, wide = false }: Props = $props();
</script>

<div class:wide role="group" aria-label={label}>
  {#each options as one (one.value)}
    <button
      type="button"
      aria-pressed={one.value === value}
      onclick={() => one.value !== value && onchange(one.value)}>{one.words}</button
    >
  {/each}
</div>

<style>
  div {
    display: flex;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--card);
    overflow: hidden;
  }
  button {
    border: 0;
    padding: 6px 11px;
    background: none;
  }
  .wide button {
    flex: 1;
    padding: 4px;
  }
  button[aria-pressed='true'] {
    background: var(--ink);
    color: var(--card);
  }
</style>
