<script lang="ts">
  import { dismiss, notices, sayWrong } from './notices.svelte';

  async function act(id: number, run: () => void | Promise<void>): Promise<void> {
    dismiss(id);
    try {
      await run();
    } catch (error) {
      sayWrong(error);
    }
  }
</script>

<div class="notices" role="status" aria-live="polite">
  {#each notices as notice (notice.id)}
    <p class:bad={notice.kind === 'wrong'}>
      <span>{notice.text}</span>
      {#if notice.action}
        {@const action = notice.action}
        <button type="button" onclick={() => act(notice.id, action.run)}>{action.label}</button>
      {/if}
      <button type="button" onclick={() => dismiss(notice.id)}>Dismiss</button>
    </p>
  {/each}
</div>

<style>
  .notices {
    position: fixed;
    left: 16px;
    bottom: 16px;
    z-index: 60;
    display: grid;
    gap: 8px;
    max-width: 440px;
  }
  /* Above the verbs of a selection, not on them. */
  :global(body:has([role='toolbar'][aria-label='Selection'])) .notices {
    bottom: 62px;
  }
  p {
    display: flex;
    gap: 12px;
    align-items: baseline;
    padding: 10px 14px;
    border-left: 3px solid var(--verdigris);
    border-radius: 3px;
    background: var(--bar);
    color: var(--bar-ink);
  }
  p.bad {
    border-color: #e58a7a;
  }
  span {
    flex: 1;
  }
  button {
    border: 0;
    background: none;
    color: #9fd6ca;
    font-weight: 600;
  }
</style>
