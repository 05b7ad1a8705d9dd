<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    /** The element it hangs from. */
    anchor: HTMLElement;
    onclose: () => void;
    children: Snippet;
  }
  const { label, anchor, onclose, children }: Props = $props();
  let sheet: HTMLDivElement;
  let left = $state(0);
  let top = $state(0);
  let room = $state(400);

  $effect(() => {
    const at = anchor.getBoundingClientRect();
    left = Math.max(8, Math.min(at.left, window.innerWidth - sheet.offsetWidth - 8));
    top = at.bottom + 6;
    room = Math.max(160, window.innerHeight - top - 16);
    sheet.querySelector<HTMLElement>('input, button, [tabindex]')?.focus();
    const away = (event: PointerEvent): void => {
      const target = event.target as Node;
      if (!sheet.contains(target) && !anchor.contains(target)) onclose();
    };
    document.addEventListener('pointerdown', away, true);
    return () => {
      document.removeEventListener('pointerdown', away, true);
      if (document.body.contains(anchor)) anchor.focus();
    };
  });

  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape') {
      event.stopPropagation();
      onclose();
    }
    if (event.key !== 'ArrowDown' && event.key !== 'ArrowUp') return;
    const stops = [...sheet.querySelectorAll<HTMLElement>('button:not(:disabled), input')];
    const at = stops.indexOf(document.activeElement as HTMLElement);
    const next = stops[(at + (event.key === 'ArrowDown' ? 1 : -1) + stops.length) % stops.length];
    event.preventDefault();
    event.stopPropagation();
    next?.focus();
  }
</script>

<div
  bind:this={sheet}
  class="sheet"
  role="dialog"
  tabindex="-1"
  aria-label={label}
  style="left:{left}px;top:{top}px;max-height:{room}px"
  onkeydown={keys}
>
  {@render children()}
</div>

<style>
  .sheet {
    position: fixed;
    z-index: 40;
    min-width: 240px;
    max-width: 360px;
    overflow: auto;
    padding: 8px 0;
    border: 1px solid var(--ink);
    border-radius: 4px;
    background: var(--card);
    box-shadow: var(--shadow);
    font: 13px/1.45 var(--plain);
    font-style: normal;
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .sheet {
      max-width: calc(100vw - 16px);
    }
  }
</style>
