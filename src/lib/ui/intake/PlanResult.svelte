<script lang="ts">
  interface Row {
    key: string | number;
    left: string;
    right: string;
    problem?: string | null;
  }
  /** What a pattern makes: a line for each, `even` where both sides are long. */
  const { rows, even = false }: { rows: Row[]; even?: boolean } = $props();
</script>

<ul class="mono" class:even>
  {#each rows as { key, left, right, problem } (key)}
    <li>
      <span class:pencil={even}>{left}</span><span
        >{right}{#if problem}<em> {problem}</em>{/if}</span
      >
    </li>
  {/each}
</ul>

<style>
  ul {
    margin-top: 6px;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 10px;
    overflow-wrap: anywhere;
  }
  .even li {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.3fr);
  }
  em {
    color: var(--wax);
  }
</style>
