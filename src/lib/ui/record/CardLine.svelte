<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A line of the record card: what it is called, and what it says. */
  interface Props {
    label: string;
    /** Key of the field, where the caret can come into it. */
    field?: string;
    children: Snippet;
  }
  const { label, field, children }: Props = $props();
</script>

<div class="line" data-field={field}>
  <span class="name">{label}</span>
  <div>{@render children()}</div>
</div>

<style>
  .line {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr);
    gap: 4px;
    align-items: start;
    padding: 2px 0;
  }
  .name {
    color: var(--pencil);
    overflow-wrap: anywhere;
  }
</style>
