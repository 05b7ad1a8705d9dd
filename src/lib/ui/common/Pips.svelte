<script lang="ts">
  interface Props {
    rating: number;
  }
  const { rating }: Props = $props();
  const label = $derived(
    rating < 0 ? 'rejected' : rating === 0 ? 'not rated' : `${rating} of 5 pips`,
  );
</script>

<span class="pips" role="img" aria-label={label}>
  {#if rating < 0}
    <svg width="9" height="9" viewBox="0 0 9 9" aria-hidden="true"
      ><path d="M1.5 1.5l6 6m0-6l-6 6" /></svg
    >
  {:else}
    {#each [1, 2, 3, 4, 5] as pip (pip)}<i class:on={pip <= rating}></i>{/each}
  {/if}
</span>

<style>
  .pips {
    display: inline-flex;
    gap: 2px;
    align-items: center;
  }
  i {
    width: 6px;
    height: 6px;
    border: 1px solid var(--ink);
    border-radius: 50%;
  }
  i.on {
    background: var(--ink);
  }
  path {
    stroke: var(--wax);
    stroke-width: 2;
    stroke-linecap: round;
  }
</style>
