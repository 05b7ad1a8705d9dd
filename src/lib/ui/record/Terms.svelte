<script lang="ts">
  import { termUnder } from '#core/terms/path';
  import { api } from '../common/api';
  import type { Balance } from '#core/records/merge';

  interface Props {
    terms: Balance[];
    many: boolean;
    disabled: boolean;
    onadd: (term: string) => void;
    onremove: (term: string) => void;
  }
  const { terms, many, disabled, onadd, onremove }: Props = $props();
  let text = $state('');
  let found = $state<{ label: string; broader: string | null }[]>([]);

  async function ask(): Promise<void> {
    const typed = text;
    const list = typed.trim()
      ? await api.get<typeof found>('/api/terms', { typed: typed.trim() }).catch(() => [])
      : [];
    if (typed === text) found = list;
  }
  function add(term: string): void {
    if (term.trim()) onadd(term.trim());
    text = '';
    found = [];
  }
  function keys(event: KeyboardEvent): void {
    event.stopPropagation();
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
    {#each found as { label, broader } (label)}<option value={label}
        >{termUnder(label, broader)}</option
      >{/each}
  </datalist>
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
    gap: 4px;
    align-items: center;
    padding: 1px 4px 1px 7px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
  }
  li.some {
    border-style: dashed;
  }
  li.none {
    border: 0;
    padding-left: 0;
    background: none;
    color: var(--pencil);
  }
  button {
    border: 0;
    padding: 0 3px;
    background: none;
    color: var(--pencil);
  }
  button:hover {
    color: var(--wax);
  }
</style>
