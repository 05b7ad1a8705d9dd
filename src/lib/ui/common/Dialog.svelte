<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    wide?: boolean;
    onclose: () => void;
    children: Snippet;
    foot?: Snippet;
  }
  const { title, wide = false, onclose, children, foot }: Props = $props();
  let dialog: HTMLDialogElement;
  const id = $props.id();

  $effect(() => {
    dialog.showModal();
  });
</script>

<dialog bind:this={dialog} class:wide aria-labelledby={id} {onclose}>
  <header>
    <h2 {id}>{title}</h2>
    <button class="link" type="button" onclick={() => dialog.close()}>Close</button>
  </header>
  <div class="body">{@render children()}</div>
  {#if foot}<footer>{@render foot()}</footer>{/if}
</dialog>

<style>
  dialog {
    width: min(520px, calc(100vw - 48px));
    max-height: calc(100vh - 64px);
    padding: 0;
    border: 1px solid var(--ink);
    border-radius: 5px;
    background: var(--card);
    color: var(--ink);
    box-shadow: var(--shadow);
    overflow: hidden;
  }
  dialog[open] {
    display: flex;
    flex-direction: column;
  }
  dialog.wide {
    width: min(920px, calc(100vw - 48px));
  }
  dialog::backdrop {
    background: rgb(29 35 32 / 0.35);
  }
  header {
    display: flex;
    align-items: baseline;
    justify-content: space-between;
    padding: 16px 20px 8px;
  }
  .body {
    padding: 4px 20px 20px;
    overflow: auto;
  }
  footer {
    display: flex;
    align-items: center;
    gap: 12px;
    padding: 12px 20px;
    border-top: 1px solid var(--ink);
    background: var(--paper);
  }
</style>
