<script lang="ts">
  import type { Completion } from '#core/catalogue/tile';
  import { formatQuery, parseQuery } from '#core/query/grammar';
  import { sentence, type Opens } from '#core/query/sentence';
  import { isCondition, type Query } from '#core/query/tree';
  import { searchWords } from '#core/text/words';
  import { formatCount } from '#core/text/quantities';
  import { api } from '../common/api';
  import Marked from '../common/Marked.svelte';
  import Sheet from '../common/Sheet.svelte';
  import FieldSheet from './FieldSheet.svelte';
  import GroupSheet from './GroupSheet.svelte';
  import MoreSheet from './MoreSheet.svelte';
  import OrderSheet from './OrderSheet.svelte';
  import Recent from './Recent.svelte';

  interface Understood {
    clause: string;
    words: string;
    unread: string[];
    guessed: { typed: string; meant: string }[];
    count: number;
  }
  interface Props {
    query: Query;
    /** Labels of what it names, by reference. */
    labels: Record<string, string>;
    total: number;
    /** Compact texts asked lately, the latest first. */
    recent?: string[];
    onchange: (query: Query) => void;
    /** The place word was pressed: holdings open. */
    onfolder?: (from: HTMLElement) => void;
    onkeep?: () => void;
    /** It has no order: what it finds is counted, not shown. */
    isCounted?: boolean;
  }
  const {
    query,
    labels,
    total,
    recent = [],
    onchange,
    onfolder,
    onkeep,
    isCounted = false,
  }: Props = $props();
  /** Folders by their own name: the shelf line tells the way. */
  const labelOf = (reference: string): string | undefined => labels[reference]?.split('/').at(-1);
  const isUsualOrder = $derived(
    query.group === undefined && formatQuery({ ...query, where: [] }) === '',
  );
  /** The usual order goes without saying. */
  /** Ids, as of bursts, are told by their ends. */
  const brief = (text: string): string =>
    text.replace(/“[0-9a-f]{8}-[0-9a-f-]{23}([0-9a-f]{4})”/g, '…$1');
  const runs = $derived.by(() => {
    const all = sentence(query, labelOf);
    return isUsualOrder || isCounted
      ? all.filter(({ opens }, at) => opens !== 'order' && all[at + 1]?.opens !== 'order')
      : all;
  });
  type Opened = { at: Opens | 'more' | 'field' | 'recent'; field?: string; anchor: HTMLElement };
  let opened = $state<Opened | null>(null);
  let typing = $state(false);
  let typed = $state('');
  let found = $state<Completion[]>([]);
  let understood = $state<Understood[]>([]);
  let at = $state(0);
  let wrong = $state('');
  let input = $state<HTMLInputElement>();
  let more = $state<HTMLElement>();

  /** Put the caret into the sentence. */
  export function type(): void {
    typing = true;
    typed = '';
    found = [];
    understood = [];
    wrong = '';
  }
  $effect(() => input?.focus());

  let asking: ReturnType<typeof setTimeout>;
  function ask(): void {
    const text = typed;
    wrong = '';
    clearTimeout(asking);
    asking = setTimeout(() => {
      void api
        .get('/api/catalogue/complete', {
          typed: text,
        })
        .then((answer) => {
          if (text !== typed) return;
          ({ found, understood } = answer);
          at = 0;
        })
        .catch((error: Error) => (wrong = error.message));
    }, 60);
  }

  /**
   * What is offered: the whole as a sentence first, where it was understood without guessing; then what its letters
   * may name; then the rest.
   */
  const offers = $derived.by((): Completion[] => {
    if (understood.length === 0) return found;
    const whole = understood.map(({ words: label, clause, count }): Completion => ({
      about: 'all of it',
      label,
      clause,
      count,
    }));
    const isGuessed = understood[0]!.guessed.length > 0;
    const named = isGuessed ? found.findIndex(({ about }) => about === 'words') : 0;
    // The same by another way is offered once; what finds nothing stands behind what does.
    const same = new Set(whole.map(({ clause }) => clause));
    const others = found.filter(({ clause }) => clause === '' || !same.has(clause));
    const all = [...others.slice(0, named), ...whole, ...others.slice(named)];
    return [...all.filter(({ count }) => count !== 0), ...all.filter(({ count }) => count === 0)];
  });

  const CLAUSE =
    /^[a-z]+\s*(?:[(".#\d]|.+;)|^(?:not|any|all|none|has|lacking|kind|in|taken|rated|stage|term|words|accession|number|collection|order|group)\s/i;

  /** A clause typed in the compact form counts as it stands; anything else as what is marked. */
  function accept(): void {
    const text = typed.trim();
    if (!text) return void (typing = false);
    const choice = offers[at];
    if (choice?.field) {
      typing = false;
      opened = { at: 'field', field: choice.field, anchor: more ?? document.body };
      return;
    }
    try {
      if (CLAUSE.test(text) && at === 0 && understood[0]?.unread.length !== 0) return merge(text);
      merge(choice ? choice.clause : `words "${text.replaceAll('"', '""')}"`);
    } catch (error) {
      wrong = (error as Error).message;
    }
  }

  function merge(clauses: string): void {
    const part = parseQuery(clauses);
    const says = (word: string): boolean => new RegExp(`(^|;)\\s*${word}\\s`, 'i').test(clauses);
    typing = false;
    onchange({
      where: [...query.where, ...part.where],
      order: says('order') ? part.order : query.order,
      ...(says('group') ? { group: part.group! } : query.group ? { group: query.group } : {}),
    });
  }

  function keys(event: KeyboardEvent): void {
    if (event.key === 'Escape') typing = false;
    else if (event.key === 'ArrowDown') at = Math.min(offers.length - 1, at + 1);
    else if (event.key === 'ArrowUp') at = Math.max(0, at - 1);
    else if (event.key === 'Enter') accept();
    else return;
    event.preventDefault();
  }

  function change(next: Query): void {
    opened = null;
    if (formatQuery(next) !== formatQuery(query)) onchange(next);
  }
  function open(opens: Opens, anchor: HTMLElement): void {
    const node = typeof opens === 'number' ? query.where[opens] : undefined;
    const isFolder = opens === 'folder' || (node && isCondition(node) && node.field === 'folder');
    if (isFolder && onfolder) return onfolder(anchor);
    opened = opened?.at === opens ? null : { at: opens, anchor };
  }
</script>

<div class="sentence">
  <p>
    <strong aria-live="polite">{formatCount(total)}</strong
    >&#32;{#each runs as run, index (index)}{#if run.opens !== undefined}{@const opens =
          run.opens}<button
          class="choice"
          type="button"
          aria-haspopup="dialog"
          aria-expanded={opened?.at === opens}
          onclick={(event) => open(opens, event.currentTarget)}>{brief(run.text)}</button
        >{:else}{brief(run.text)}{/if}{/each}
    {#if typing}
      <span class="typing">
        <input
          bind:this={input}
          bind:value={typed}
          oninput={ask}
          onkeydown={keys}
          onblur={() => setTimeout(() => (typing = false), 150)}
          role="combobox"
          aria-label="Type into the sentence"
          aria-expanded={offers.length > 0}
          aria-controls="completions"
          aria-activedescendant={offers.length ? `completion-${at}` : undefined}
          placeholder="words, a sentence, or: taken 2026-09"
        />
        {#if offers.length || understood[0]?.unread.length}
          <span class="completions">
            <span id="completions" role="listbox" aria-label="What it may mean">
              {#each offers as one, index (index)}
                <span
                  class="one"
                  class:at={index === at}
                  id="completion-{index}"
                  role="option"
                  tabindex="-1"
                  aria-selected={index === at}
                  onpointerdown={(event) => (event.preventDefault(), (at = index), accept())}
                  ><em>{one.about}</em>
                  <span class="means"><Marked text={one.label} words={searchWords(typed)} /></span
                  >{#if one.count >= 0}<b class="mono">{formatCount(one.count)}</b>{/if}</span
                >
              {/each}
            </span>
            {#each understood[0]?.guessed ?? [] as guess (guess.typed)}<span
                class="one unread"
                role="note">“{guess.typed}” read as {guess.meant}</span
              >{/each}
            {#if understood[0]?.unread.length}<span class="one unread" role="note"
                >not understood: {understood[0].unread.join(' · ')}</span
              >{/if}
          </span>
        {/if}
        {#if wrong}<span class="wrong says" role="alert">{wrong}</span>{/if}
      </span>
    {:else}
      <button
        bind:this={more}
        class="more"
        type="button"
        aria-haspopup="dialog"
        onclick={(event) => (opened = { at: 'more', anchor: event.currentTarget })}>and…</button
      >
      {#if isUsualOrder && !isCounted}<button
          class="more aside"
          type="button"
          aria-haspopup="dialog"
          title="ordered by time taken, latest first"
          onclick={(event) => open('order', event.currentTarget)}>order</button
        >{/if}
      {#if recent.length > 1}<button
          class="more aside"
          type="button"
          aria-haspopup="dialog"
          onclick={(event) => (opened = { at: 'recent', anchor: event.currentTarget })}
          >lately</button
        >{/if}
      {#if onkeep && query.where.length > 0}<button
          class="more aside"
          type="button"
          onclick={onkeep}>keep</button
        >{/if}
    {/if}
  </p>
</div>

{#if opened}
  {@const { at: opens, field, anchor } = opened}
  {@const node = typeof opens === 'number' ? query.where[opens] : undefined}
  <Sheet
    label={opens === 'more'
      ? 'Add to the sentence'
      : opens === 'recent'
        ? 'Asked lately'
        : 'Choices'}
    {anchor}
    onclose={() => (opened = null)}
  >
    {#if opens === 'more'}
      <MoreSheet
        {query}
        onfield={(key) => (opened = { at: 'field', field: key, anchor })}
        ontype={() => ((opened = null), type())}
        onchange={change}
      />
    {:else if opens === 'recent'}
      <Recent {recent} onchoose={(text) => change(parseQuery(text))} />
    {:else if opens === 'order'}
      <OrderSheet {query} onchange={change} />
    {:else if opens === 'field'}
      {#key field}<FieldSheet {query} at={-1} field={field!} onchange={change} />{/key}
    {:else if node && !isCondition(node)}
      <GroupSheet {query} at={opens as number} onchange={change} />
    {:else if node && isCondition(node)}
      <FieldSheet {query} at={opens as number} field={node.field} onchange={change} />
    {:else}
      <FieldSheet {query} at={-1} field={String(opens)} onchange={change} />
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
  .means {
    flex: 1;
  }
  .unread {
    color: var(--ochre);
  }
  .aside {
    border-bottom-color: transparent;
    font-size: 14px;
  }
  .one b {
    margin-left: auto;
    font-weight: 400;
  }
  /* A phone, or a narrow window beside another program. */
  @media (max-width: 760px) {
    .sentence p {
      font-size: 16.5px;
    }
    input {
      width: min(330px, 80vw);
    }
    .completions,
    .says {
      position: fixed;
      left: 8px;
      right: 8px;
      top: auto;
      min-width: 0;
      max-height: 60dvh;
      overflow: auto;
    }
  }
</style>
