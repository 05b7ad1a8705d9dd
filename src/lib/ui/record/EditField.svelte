<script lang="ts">
  import { untrack } from 'svelte';
  import type { Among } from '#core/records/merge';
  import CardLine from './CardLine.svelte';
  import { columnIn, type Caret } from './caret.svelte';

  interface Props {
    /** Key of the field, by which the caret finds it. */
    name: string;
    label: string;
    value: string;
    /** What one writes, where it is shown in other words. */
    written?: string;
    mixed: number;
    /** Where it is mixed, what most of them say. */
    among?: readonly Among[];
    long?: boolean;
    book?: 'title' | 'caption';
    missing?: string;
    disabled: boolean;
    hint?: string;
    /** What is understood of what is being written. */
    echo?: ((text: string) => string) | undefined;
    caret: Caret;
    onsave: (value: string) => void;
    /** A column of a spreadsheet was pasted. @returns whether it was taken */
    oncolumn?: ((text: string) => boolean) | undefined;
  }
  const {
    name,
    label,
    value,
    written = value,
    mixed,
    among = [],
    long = false,
    book,
    missing = '—',
    disabled,
    hint,
    echo,
    caret,
    onsave,
    oncolumn,
  }: Props = $props();
  const editing = $derived(caret.at === name && !disabled);
  let text = $state('');
  const list = $props.id();

  // Fresh for every item the caret comes to; typing is not disturbed by what others change meanwhile.
  $effect.pre(() => {
    void caret.item;
    if (editing) text = untrack(() => (mixed ? '' : written));
  });
  const begin = (node: HTMLElement): void => node.focus();
  function save(): void {
    if (mixed ? text.trim() !== '' : text.trim() !== written) onsave(text.trim());
  }
  function leave(): void {
    if (caret.at !== name) return;
    caret.at = null;
    save();
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Escape') caret.at = null;
    else if (event.key === 'Enter' && (!long || event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      leave();
    } else caret.moves(event, name, save);
  }
  function paste(event: ClipboardEvent): void {
    const column = columnIn(event);
    if (column !== null && oncolumn?.(column)) event.preventDefault();
  }
</script>

{#snippet content()}
  {#if editing}
    {#if long}
      <textarea
        {@attach begin}
        bind:value={text}
        class="field"
        rows="4"
        aria-label={label}
        placeholder={mixed ? 'one value for all' : ''}
        onkeydown={keys}
        onpaste={paste}
        onblur={leave}></textarea>
    {:else}
      <input
        {@attach begin}
        bind:value={text}
        class="field"
        list={among.length > 0 ? list : undefined}
        aria-label={label}
        placeholder={hint ?? (mixed ? 'one value for all' : '')}
        onkeydown={keys}
        onpaste={paste}
        onblur={leave}
      />
      {#if echo}<span class="pencil" aria-live="polite">{echo(text)}</span>{/if}
      {#if among.length > 0}<datalist id={list}>
          {#each among.filter(({ text: one }) => one !== '') as one (one.text)}<option
              value={one.text}>{one.count} of them</option
            >{/each}
        </datalist>{/if}
    {/if}
  {:else}
    <button
      type="button"
      {disabled}
      aria-label="{label}: {mixed ? `${mixed} different` : value || missing}"
      title={mixed
        ? among.map((one) => `${one.count} × ${one.text || 'nothing'}`).join('\n')
        : undefined}
      onclick={() => (caret.at = name)}
    >
      {#if mixed}<em>{mixed} different</em>{:else if value}{value}{:else}<span
          class:wrong={missing === 'missing'}
          class:pencil={missing !== 'missing'}>{missing}</span
        >{/if}
    </button>
  {/if}
{/snippet}

{#if book}
  <div class={book} data-field={name}>{@render content()}</div>
{:else}
  <CardLine {label} field={name}>{@render content()}</CardLine>
{/if}

<style>
  .title,
  .caption {
    padding: 2px 0;
  }
  .title button {
    font: 500 20px/1.25 var(--book);
  }
  .caption button {
    font: 14px/1.45 var(--book);
  }
  button {
    width: 100%;
    border: 0;
    border-radius: 2px;
    margin: 0 -4px;
    padding: 1px 4px;
    background: none;
    text-align: left;
    overflow-wrap: anywhere;
  }
  button:hover:not(:disabled) {
    background: var(--wash);
  }
  button:disabled {
    opacity: 1;
  }
  em {
    color: var(--ochre);
  }
</style>
