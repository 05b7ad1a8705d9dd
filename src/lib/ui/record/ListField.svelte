<script lang="ts">
  import type { Among } from '#core/records/merge';
  import CardLine from './CardLine.svelte';
  import { columnIn, type Caret } from './caret.svelte';

  /** A list of names, edited element by element; what others added stays. */
  interface Props {
    name: string;
    label: string;
    elements: readonly Among[];
    /** How many items it is about. */
    of: number;
    missing?: string;
    disabled: boolean;
    caret: Caret;
    onadd: (element: string) => void;
    onremove: (element: string) => void;
    oncolumn?: ((text: string) => boolean) | undefined;
  }
  const {
    name,
    label,
    elements,
    of,
    missing = '—',
    disabled,
    caret,
    onadd,
    onremove,
    oncolumn,
  }: Props = $props();
  const editing = $derived(caret.at === name && !disabled);
  let text = $state('');

  $effect.pre(() => {
    void caret.item;
    if (editing) text = '';
  });
  const begin = (node: HTMLElement): void => node.focus();
  function add(): void {
    const element = text.trim();
    text = '';
    if (element) onadd(element);
  }
  function leave(): void {
    if (caret.at !== name) return;
    caret.at = null;
    add();
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Escape') {
      text = '';
      caret.at = null;
    } else if (event.key === 'Enter' || event.key === ';') {
      event.preventDefault();
      if (text.trim()) add();
      else caret.at = null;
    } else caret.moves(event, name, add);
  }
  function paste(event: ClipboardEvent): void {
    const column = columnIn(event);
    if (column !== null && oncolumn?.(column)) event.preventDefault();
  }
</script>

<CardLine {label} field={name}>
  {#if elements.length > 0}
    <ul aria-label={label}>
      {#each elements as { text: element, count } (element)}
        <li class:some={count < of}>
          {element}{#if count < of}<span class="mono">{count}</span>{/if}
          {#if !disabled}
            {#if count < of}<button
                type="button"
                aria-label="Give {element} to all"
                onclick={() => onadd(element)}>+</button
              >{/if}
            <button type="button" aria-label="Take {element} away" onclick={() => onremove(element)}
              >×</button
            >
          {/if}
        </li>
      {/each}
    </ul>
  {/if}
  {#if editing}
    <input
      {@attach begin}
      bind:value={text}
      class="field"
      aria-label={label}
      placeholder="one more"
      onkeydown={keys}
      onpaste={paste}
      onblur={leave}
    />
  {:else if elements.length === 0 || !disabled}
    <button
      class="more"
      type="button"
      {disabled}
      aria-label="{label}: {elements.length > 0 ? 'add …' : missing}"
      onclick={() => (caret.at = name)}
    >
      {#if elements.length > 0}<span class="pencil">add …</span>{:else}<span
          class:wrong={missing === 'missing'}
          class:pencil={missing !== 'missing'}>{missing}</span
        >{/if}
    </button>
  {/if}
</CardLine>

<style>
  ul {
    display: grid;
    gap: 1px;
  }
  li {
    overflow-wrap: anywhere;
  }
  li.some {
    color: var(--ochre);
    font-style: italic;
  }
  li .mono {
    margin-left: 5px;
    font-style: normal;
  }
  li button {
    min-width: 24px;
    min-height: 24px;
    border: 0;
    padding: 0;
    background: none;
    color: var(--pencil);
    opacity: 0;
  }
  li:hover button,
  li button:focus-visible {
    opacity: 1;
  }
  li button:hover {
    color: var(--wax);
  }
  .more {
    width: 100%;
    border: 0;
    border-radius: 2px;
    margin: 0 -4px;
    padding: 1px 4px;
    background: none;
    text-align: left;
  }
  .more:hover:not(:disabled) {
    background: var(--wash);
  }
  .more:disabled {
    opacity: 1;
  }
</style>
