<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A plain table of lines to read, with its head and body. */
  const { children }: { children: Snippet } = $props();
</script>

<table>{@render children()}</table>

<style>
  table {
    width: 100%;
    margin-top: 6px;
    border-collapse: collapse;
  }
  table :global(th) {
    color: var(--pencil);
    font-size: 11.5px;
    text-align: left;
  }
  table :global(td) {
    padding: 3px 10px 3px 0;
    border-top: 1px solid var(--rule);
    overflow-wrap: anywhere;
    vertical-align: top;
  }
</style>
