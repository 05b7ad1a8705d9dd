<script lang="ts">
  import ChevronsRight from '@lucide/svelte/icons/chevrons-right';
  import ChevronsLeft from '@lucide/svelte/icons/chevrons-left';
  import { onMount, type Snippet } from 'svelte';

  /** A side of the page that folds to a spine, and stays as it was left. */
  interface Props {
    label: string;
    /** What the choice is remembered under in this browser. */
    name: string;
    /** px */
    width: number;
    children: Snippet;
  }
  const { label, name, width, children }: Props = $props();
  let folded = $state(false);
  const key = $derived(`mindful.folded.${name}`);

  onMount(() => {
    const kept = localStorage.getItem(key);
    // Where there is little room what lies below goes first, until somebody unfolds it.
    folded = kept === null ? matchMedia('(max-width: 760px)').matches : kept === 'yes';
  });
  function fold(next: boolean): void {
    folded = next;
    localStorage.setItem(key, next ? 'yes' : 'no');
  }
</script>

<div class="side" class:folded style="width:{folded ? 34 : width}px">
  <button
    type="button"
    aria-expanded={!folded}
    aria-label="{folded ? 'Unfold' : 'Fold away'}: {label}"
    title="{folded ? 'Unfold' : 'Fold away'}: {label}"
    onclick={() => fold(!folded)}
  >
    {#if folded}<ChevronsLeft size={16} /><span class="spine">{label}</span>
    {:else}<ChevronsRight size={16} />{/if}
  </button>
  <div class="held" hidden={folded}>{@render children()}</div>
</div>

<style>
  .side {
    position: relative;
    min-height: 0;
    height: 100%;
  }
  .held {
    height: 100%;
  }
  .folded {
    border-left: 1px solid var(--ink);
    background: var(--card);
  }
  button {
    position: absolute;
    top: 12px;
    right: 8px;
    z-index: 2;
    display: grid;
    padding: 3px;
    border: 0;
    border-radius: 3px;
    background: none;
    color: var(--pencil);
    line-height: 0;
    cursor: pointer;
  }
  button:hover {
    color: var(--ink);
    background: var(--wash);
  }
  .folded button {
    inset: 0;
    justify-items: center;
    align-content: start;
    gap: 12px;
    padding: 14px 0;
    border-radius: 0;
  }
  .spine {
    writing-mode: vertical-rl;
    font: 13px/1 var(--plain);
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .side {
      width: auto !important;
      max-height: inherit;
      overflow: auto;
    }
    .held {
      height: auto;
    }
    .folded {
      height: 38px;
      border-top: 1px solid var(--ink);
      border-left: 0;
      overflow: hidden;
    }
    .folded button {
      grid-auto-flow: column;
      justify-content: start;
      align-items: center;
      padding: 8px 12px;
    }
    .spine {
      writing-mode: horizontal-tb;
    }
  }
</style>
