<script lang="ts">
  interface Props {
    label: string;
    value: string;
    mixed: number;
    long?: boolean;
    book?: 'title' | 'caption';
    missing?: string;
    disabled: boolean;
    hint?: string;
    onsave: (value: string) => void;
  }
  const {
    label,
    value,
    mixed,
    long = false,
    book,
    missing = '—',
    disabled,
    hint,
    onsave,
  }: Props = $props();
  let editing = $state(false);
  let text = $state('');
  let field = $state<HTMLInputElement | HTMLTextAreaElement>();

  function edit(): void {
    text = mixed ? '' : value;
    editing = true;
  }
  $effect(() => {
    if (editing) field?.focus();
  });
  function save(): void {
    if (!editing) return;
    editing = false;
    if (mixed ? text.trim() !== '' : text.trim() !== value) onsave(text.trim());
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
    if (event.key === 'Escape') editing = false;
    else if (event.key === 'Enter' && (!long || event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      save();
    }
  }
</script>

<div class="line {book ?? ''}">
  {#if !book}<span class="name">{label}</span>{/if}
  {#if editing}
    {#if long}
      <textarea
        bind:this={field}
        bind:value={text}
        class="field"
        rows="4"
        aria-label={label}
        onkeydown={keys}
        onblur={save}></textarea>
    {:else}
      <input
        bind:this={field}
        bind:value={text}
        class="field"
        aria-label={label}
        placeholder={hint ?? (mixed ? 'one value for all' : '')}
        onkeydown={keys}
        onblur={save}
      />
    {/if}
  {:else}
    <button
      type="button"
      {disabled}
      aria-label="{label}: {mixed ? `${mixed} different` : value || missing}"
      onclick={edit}
    >
      {#if mixed}<em>{mixed} different</em>{:else if value}{value}{:else}<span
          class:wrong={missing === 'missing'}
          class:pencil={missing !== 'missing'}>{missing}</span
        >{/if}
    </button>
  {/if}
</div>

<style>
  .line {
    display: grid;
    grid-template-columns: 86px minmax(0, 1fr);
    gap: 4px;
    padding: 2px 0;
  }
  .title,
  .caption {
    display: block;
  }
  .title button {
    font: 500 20px/1.25 var(--book);
  }
  .caption button {
    font: 14px/1.45 var(--book);
  }
  .name {
    color: var(--pencil);
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
