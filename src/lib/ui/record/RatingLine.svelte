<script lang="ts">
  import Pips from '../common/Pips.svelte';
  import CardLine from './CardLine.svelte';

  interface Props {
    rating: { value: number; mixed: number };
    disabled: boolean;
    onpick: (rating: number) => void;
  }
  const { rating, disabled, onpick }: Props = $props();
  const shared = $derived(rating.mixed ? 0 : rating.value);
  const toggle = (wanted: number): void => onpick(shared === wanted ? 0 : wanted);
</script>

<CardLine label="Rating">
  <span class="pick" role="group" aria-label="Rating">
    {#if rating.mixed}<em class="caution">{rating.mixed} different</em>{/if}
    {#if !disabled}
      {#each [1, 2, 3, 4, 5] as pips (pips)}
        <button
          type="button"
          aria-label="{pips} of 5"
          aria-pressed={shared === pips}
          onclick={() => toggle(pips)}><i class:on={pips <= shared}></i></button
        >
      {/each}
      <button
        type="button"
        class="reject"
        aria-label="N, reject"
        aria-pressed={shared === -1}
        onclick={() => toggle(-1)}>N</button
      >
    {:else if !rating.mixed}<Pips rating={rating.value} />{/if}
  </span>
</CardLine>

<style>
  .pick {
    display: flex;
    align-items: center;
    flex-wrap: wrap;
    margin-left: -7px;
  }
  .pick em {
    width: 100%;
    margin-left: 7px;
  }
  button {
    display: grid;
    place-items: center;
    width: 24px;
    height: 24px;
    border: 0;
    border-radius: 3px;
    padding: 0;
    background: none;
    color: var(--pencil);
    font-size: 16.5px;
  }
  button:hover {
    background: var(--wash);
  }
  .reject[aria-pressed='true'] {
    color: var(--wax);
    font-weight: 700;
  }
  i {
    width: 9px;
    height: 9px;
    border: 1px solid var(--ink);
    border-radius: 50%;
  }
  i.on {
    background: var(--ink);
  }
</style>
