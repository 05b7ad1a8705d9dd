<script lang="ts">
  interface Props {
    /** Nothing was asked: the archive itself holds nothing. */
    isEmpty: boolean;
    canIntake: boolean;
    oneverything: () => void;
  }
  const { isEmpty, canIntake, oneverything }: Props = $props();
</script>

<div>
  {#if isEmpty}
    <h2>The archive is empty</h2>
    <p>Bring a card or a folder in, and its pictures hang here.</p>
    {#if canIntake}<a class="button act" href="/intake">To the intake</a>{/if}
  {:else}
    <h2>Nothing says all of this</h2>
    <p>Leave a part of the sentence out: open its underlined words.</p>
    <button class="button" type="button" onclick={oneverything}>Show everything</button>
  {/if}
</div>

<style>
  div {
    display: grid;
    gap: 10px;
    justify-items: start;
    max-width: 420px;
    margin: 80px auto 0;
    font: 16.5px/1.45 var(--book);
  }
  h2 {
    font-size: 28px;
  }
  .button {
    font: 600 13px var(--plain);
  }
</style>
