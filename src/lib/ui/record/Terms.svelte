<script lang="ts">
  import { formatCount } from '#core/text/quantities';
  import { termUnder } from '#core/terms/path';
  import { api } from '../common/api';
  import type { Balance } from '#core/records/merge';

  interface Props {
    terms: Balance[];
    /** How many more there are than these. */
    more?: number;
    many: boolean;
    /** Where it is one item. */
    item: string | null;
    disabled: boolean;
    onadd: (term: string) => void;
    onremove: (term: string) => void;
  }
  const { terms, more = 0, many, item, disabled, onadd, onremove }: Props = $props();
  let text = $state('');
  let found = $state<{ label: string; broader: string | null; by: string | null }[]>([]);

  /** What this person gave last: Alt and a digit gives it again. */
  const RECENT = 'mindful-recent-terms';
  const MOST_RECENT = 6;
  let recent = $state.raw<string[]>([]);
  /** What its neighbours in time and folder have. */
  let near = $state.raw<string[]>([]);
  const given = $derived(terms.filter(({ all }) => all).map(({ term }) => term));
  const offered = $derived(recent.filter((term) => !given.includes(term)));
  const suggested = $derived(
    near.filter((term) => !given.includes(term) && !offered.includes(term)),
  );
  $effect(() => {
    recent = JSON.parse(localStorage.getItem(RECENT) ?? '[]') as string[];
  });
  $effect(() => {
    const asked = item;
    near = [];
    if (!asked || disabled) return;
    const timer = setTimeout(() => {
      api
        .get('/api/terms/near', { item: asked })
        .then((found) => {
          if (asked === item) near = found;
        })
        .catch(() => undefined);
    }, 300);
    return () => clearTimeout(timer);
  });

  async function ask(): Promise<void> {
    const typed = text;
    const list = typed.trim()
      ? await api.get('/api/terms', { typed: typed.trim() }).catch(() => [])
      : [];
    if (typed === text) found = list;
  }
  function add(term: string): void {
    const wished = term.trim();
    if (wished) {
      onadd(wished);
      recent = [wished, ...recent.filter((one) => one !== wished)].slice(0, MOST_RECENT);
      localStorage.setItem(RECENT, JSON.stringify(recent));
    }
    text = '';
    found = [];
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
    const digit = event.altKey ? Number(event.key) : 0;
    if (offered[digit - 1]) {
      event.preventDefault();
      return add(offered[digit - 1]!);
    }
    if (event.key === 'Enter' || event.key === ',') {
      event.preventDefault();
      add(text);
    } else if (event.key === 'Escape') text = '';
  }
</script>

<ul>
  {#each terms as { term, count, all } (term)}
    <li class:some={!all}>
      {term}{#if many && !all}<span class="mono">{count}</span>{/if}
      {#if !disabled}
        {#if !all}<button type="button" aria-label="Give {term} to all" onclick={() => onadd(term)}
            >+</button
          >{/if}
        <button type="button" aria-label="Take {term} away" onclick={() => onremove(term)}>×</button
        >
      {/if}
    </li>
  {:else}<li class="none">no terms yet</li>{/each}
</ul>
{#if more > 0}<p class="pencil">
    and {formatCount(more)} less frequent ones; choose fewer items to see them
  </p>{/if}
{#if !disabled}
  <input
    class="field"
    list="known-terms"
    bind:value={text}
    oninput={() => void ask()}
    onkeydown={keys}
    aria-label="Add a term"
    placeholder="add a term, or Box kite under Kite"
  />
  <datalist id="known-terms">
    {#each found as { label, broader, by } (label)}<option value={label}
        >{by ? `${by}: ` : ''}{termUnder(label, broader)}</option
      >{/each}
  </datalist>
  {#if offered.length + suggested.length > 0}
    <p class="offers">
      {#each offered as term, at (term)}<button
          type="button"
          title="Alt {at + 1} in the field above"
          onclick={() => add(term)}><kbd>{at + 1}</kbd>{term}</button
        >{/each}
      {#each suggested as term (term)}<button
          class="near"
          type="button"
          title="Neighbours in time and folder have it"
          onclick={() => add(term)}>+ {term}</button
        >{/each}
    </p>
  {/if}
{/if}

<style>
  ul {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
    margin-bottom: 8px;
  }
  li {
    display: inline-flex;
    align-items: center;
    padding: 0 0 0 7px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
  }
  li.some {
    border-style: dashed;
  }
  .offers {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    margin-top: 6px;
  }
  .offers button {
    background: none;
    display: inline-flex;
    gap: 5px;
    align-items: center;
    min-height: 24px;
    padding: 0 6px;
    border: 1px dashed var(--rule);
    border-radius: 3px;
    color: var(--pencil);
  }
  .offers button:hover {
    border-color: var(--verdigris);
    color: var(--verdigris);
  }
  li.none {
    border: 0;
    padding-left: 0;
    background: none;
    color: var(--pencil);
  }
  li .mono {
    margin-left: 4px;
  }
  li button {
    min-width: 24px;
    min-height: 24px;
    border: 0;
    padding: 0;
    background: none;
    color: var(--pencil);
  }
  li button:hover {
    color: var(--wax);
  }
</style>
