<script lang="ts">
  import type { Languages } from '#core/records/fields';
  import CardLine from './CardLine.svelte';

  /** What a text says in other languages, a line for each; one more is begun by its language. */
  interface Props {
    name: string;
    label: string;
    texts: Languages;
    mixed: number;
    long: boolean;
    disabled: boolean;
    onchange: (texts: Languages) => void;
  }
  const { name, label, texts, mixed, long, disabled, onchange }: Props = $props();
  const NAMES = new Intl.DisplayNames('en', { type: 'language', fallback: 'code' });
  const USUAL = [
    'da',
    'de',
    'en',
    'es',
    'fi',
    'fr',
    'it',
    'ja',
    'nb',
    'nl',
    'pl',
    'pt',
    'sv',
    'zh',
  ];
  const list = $props.id();
  let language = $state('');
  let text = $state('');
  const LANGUAGE = /^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,4}$/;
  function nameOf(code: string): string {
    try {
      return NAMES.of(code) ?? code;
    } catch {
      return code;
    }
  }
  const isNew = $derived(LANGUAGE.test(language.trim()) && text.trim() !== '');

  function set(code: string, next: string): void {
    if (next.trim() !== (texts[code] ?? '')) onchange({ ...texts, [code]: next.trim() });
  }
  function add(): void {
    if (!isNew) return;
    set(language.trim(), text);
    language = text = '';
  }
  function keys(event: KeyboardEvent, run: () => void): void {
    event.stopPropagation();
    if (event.key !== 'Enter' || (long && !event.ctrlKey && !event.metaKey)) return;
    event.preventDefault();
    run();
  }
</script>

<CardLine {label} field={name}>
  {#if mixed}<em>{mixed} different</em>
  {:else}
    {#each Object.entries(texts) as [code, said] (code)}
      <label title={nameOf(code)}>
        <span class="mono">{code}</span>
        {#if long}
          <textarea
            class="field"
            rows="2"
            {disabled}
            aria-label="{label} in {nameOf(code)}"
            value={said}
            onkeydown={(event) => keys(event, () => event.currentTarget.blur())}
            onchange={(event) => set(code, event.currentTarget.value)}></textarea>
        {:else}
          <input
            class="field"
            {disabled}
            aria-label="{label} in {nameOf(code)}"
            value={said}
            onkeydown={(event) => keys(event, () => event.currentTarget.blur())}
            onchange={(event) => set(code, event.currentTarget.value)}
          />
        {/if}
      </label>
    {:else}{#if disabled}<span class="pencil">—</span>{/if}{/each}
    {#if !disabled}
      <span class="new">
        <input
          class="field"
          list="{list}-languages"
          bind:value={language}
          maxlength="35"
          placeholder="de"
          aria-label="Another language of {label}"
          onkeydown={(event) => keys(event, add)}
        />
        <input
          class="field"
          bind:value={text}
          placeholder="translation"
          aria-label="{label} in that language"
          onkeydown={(event) => keys(event, add)}
          onblur={add}
        />
        <datalist id="{list}-languages">
          {#each USUAL as code (code)}<option value={code}>{nameOf(code)}</option>{/each}
        </datalist>
      </span>
    {/if}
  {/if}
</CardLine>

<style>
  label,
  .new {
    display: grid;
    grid-template-columns: 44px minmax(0, 1fr);
    gap: 4px;
    align-items: baseline;
    margin-bottom: 3px;
  }
  .mono {
    color: var(--pencil);
  }
  .field {
    min-height: 24px;
    padding: 1px 5px;
  }
  em {
    color: var(--ochre);
  }
</style>
