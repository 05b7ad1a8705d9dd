<script lang="ts">
  import type { Completion } from '#core/catalogue/tile';
  import { formatQuery, parseQuery } from '#core/query/grammar';
  import { sentence } from '#core/query/sentence';
  import type { ClauseField, Query } from '#core/query/tree';
  import { formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import Sheet from '../common/Sheet.svelte';
  import Choices from './Choices.svelte';

  interface Props {
    query: Query;
    total: number;
    onchange: (query: Query) => void;
  }
  const { query, total, onchange }: Props = $props();
  const runs = $derived(sentence(query));
  let opened = $state<{ field: ClauseField | 'order' | 'more'; anchor: HTMLElement } | null>(null);
  let typing = $state(false);
  let typed = $state('');
  let found = $state<Completion[]>([]);
  let at = $state(0);
  let wrong = $state('');
  let input = $state<HTMLInputElement>();

  const MORE: { field: ClauseField; label: string }[] = [
    { field: 'taken', label: 'taken …' },
    { field: 'rated', label: 'with pips …' },
    { field: 'stages', label: 'at stage …' },
    { field: 'terms', label: 'about a term …' },
    { field: 'lacking', label: 'lacking …' },
    { field: 'words', label: 'saying words …' },
    { field: 'accession', label: 'from accession …' },
    { field: 'collection', label: 'collected in …' },
  ];
  const more = $derived(MORE.filter(({ field }) => query[field] === undefined));

  /** Put the caret into the sentence. */
  export function type(): void {
    typing = true;
    typed = '';
    found = [];
    wrong = '';
    queueMicrotask(() => input?.focus());
  }

  $effect(() => {
    if (input) input.focus();
  });

  async function ask(): Promise<void> {
    const text = typed;
    wrong = '';
    const words = await api
      .get<Completion[]>('/api/catalogue/complete', { typed: text })
      .catch(() => []);
    if (text !== typed) return;
    found = words;
    at = 0;
  }

  /** A clause typed in the compact form counts as it stands; anything else as what is marked. */
  function accept(): void {
    const text = typed.trim();
    if (!text) return void (typing = false);
    if (
      /^(kind|in|taken|rated|stage|term|lacking|words|accession|number|collection|order)\s/.test(
        text,
      )
    ) {
      try {
        merge(parseQuery(text), /(^|;)\s*order\s/.test(text));
      } catch (error) {
        wrong = (error as Error).message;
      }
      return;
    }
    const choice = found[at];
    merge(parseQuery(choice ? choice.clause : `words "${text.replaceAll('"', '""')}"`), false);
  }

  function merge(part: Query, withOrder: boolean): void {
    const next: Query = { ...query, ...part, order: withOrder ? part.order : query.order };
    if (part.terms && query.terms) next.terms = [...new Set([...query.terms, ...part.terms])];
    typing = false;
    onchange(next);
  }

  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape') typing = false;
    else if (event.key === 'ArrowDown') at = Math.min(found.length - 1, at + 1);
    else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
    else if (event.key === 'Enter') accept();
    else return;
    event.preventDefault();
  }

  function change(next: Query): void {
    opened = null;
    if (formatQuery(next) !== formatQuery(query)) onchange(next);
  }
</script>

<div class="sentence">
  <p>
    <strong aria-live="polite">{formatCount(total)}</strong
    >&#32;{#each runs as run, index (index)}{#if run.opens}{@const field = run.opens}<button
          class="choice"
          type="button"
          aria-haspopup="dialog"
          aria-expanded={opened?.field === field}
          onclick={(event) =>
            (opened = opened?.field === field ? null : { field, anchor: event.currentTarget })}
          >{run.text}</button
        >{:else}{run.text}{/if}{/each}
    {#if typing}
      <span class="typing">
        <input
          bind:this={input}
          bind:value={typed}
          oninput={() => void ask()}
          onkeydown={keys}
          onblur={() => setTimeout(() => (typing = false), 150)}
          role="combobox"
          aria-label="Type into the sentence"
          aria-expanded={found.length > 0}
          aria-controls="completions"
          aria-activedescendant={found.length ? `completion-${at}` : undefined}
          placeholder="a word, a term, a folder, or: taken 2026-09"
        />
        {#if found.length}
          <span class="completions" id="completions" role="listbox" aria-label="What it may mean">
            {#each found as one, index (one.clause)}
              <span
                class="one"
                class:at={index === at}
                id="completion-{index}"
                role="option"
                tabindex="-1"
                aria-selected={index === at}
                onpointerdown={(event) => (event.preventDefault(), (at = index), accept())}
                ><em
                  >{{
                    terms: 'term',
                    folder: 'in',
                    stages: 'stage',
                    collection: 'collected in',
                    words: 'words',
                  }[one.field]}</em
                >
                {one.label}{#if one.count >= 0}<b class="mono">{formatCount(one.count)}</b
                  >{/if}</span
              >
            {/each}
          </span>
        {/if}
        {#if wrong}<span class="wrong says" role="alert">{wrong}</span>{/if}
      </span>
    {:else}
      <button
        class="more"
        type="button"
        aria-haspopup="dialog"
        onclick={(event) => (opened = { field: 'more', anchor: event.currentTarget })}>and…</button
      >
    {/if}
  </p>
</div>

{#if opened}
  {@const { field, anchor } = opened}
  <Sheet
    label={field === 'more' ? 'Add to the sentence' : 'Choices'}
    {anchor}
    onclose={() => (opened = null)}
  >
    {#if field === 'more'}
      {#each more as one (one.field)}
        <button class="row" type="button" onclick={() => (opened = { field: one.field, anchor })}
          >{one.label}</button
        >
      {/each}
      <button class="row" type="button" onclick={() => ((opened = null), type())}
        >type it <kbd>/</kbd></button
      >
      <button class="row" type="button" onclick={() => change({ order: query.order })}
        >begin again with everything</button
      >
    {:else}
      {#key field}<Choices {query} {field} onchange={change} />{/key}
    {/if}
  </Sheet>
{/if}

<style>
  .sentence p {
    font: 20px/1.36 var(--book);
    text-wrap: pretty;
  }
  strong {
    font-weight: 650;
  }
  .more {
    margin-left: 6px;
    border: 0;
    border-bottom: 2px dashed var(--rule);
    padding: 0 1px;
    background: none;
    color: var(--pencil);
    font: inherit;
    font-size: 16.5px;
  }
  .typing {
    position: relative;
  }
  input {
    width: 330px;
    border: 0;
    border-bottom: 2px solid var(--verdigris);
    background: none;
    font: italic 16.5px var(--book);
    outline: none;
  }
  .completions,
  .says {
    position: absolute;
    left: 0;
    top: 30px;
    z-index: 40;
    min-width: 300px;
    padding: 6px 0;
    border: 1px solid var(--ink);
    border-radius: 4px;
    background: var(--card);
    box-shadow: var(--shadow);
    font: 13px/1.45 var(--plain);
  }
  .says {
    padding: 8px 14px;
  }
  .one {
    display: flex;
    gap: 8px;
    padding: 4px 14px;
    cursor: default;
  }
  .one.at {
    background: var(--wash);
  }
  .one em {
    width: 72px;
    color: var(--pencil);
  }
  .one b {
    margin-left: auto;
    font-weight: 400;
  }
  .row {
    display: block;
    width: 100%;
    padding: 5px 14px;
    border: 0;
    background: none;
    text-align: left;
  }
  .row:hover {
    background: var(--wash);
  }
</style>
