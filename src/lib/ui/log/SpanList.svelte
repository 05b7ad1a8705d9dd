<script lang="ts">
  import { frameWords, lengthWords, type Counting } from '#core/footage/span';
  import { MARK_NAMES, MARK_SIGNS } from '#core/footage/marks';
  import type { ShownSpan } from '#core/wire/spans';
  import Pips from '../common/Pips.svelte';
  import StageMark from '../common/StageMark.svelte';

  interface Props {
    spans: readonly ShownSpan[];
    counting: Counting;
    selected: string | null;
    /** What of the chosen one is being written. */
    writes: 'title' | 'note' | null;
    onselect: (id: string) => void;
    /** Written; null: given up. */
    onwritten: (id: string, text: string | null) => void;
  }
  const { spans, counting, selected, writes, onselect, onwritten }: Props = $props();
  let list = $state<HTMLElement>();

  $effect(() => {
    void spans;
    if (selected)
      list?.querySelector(`[data-id="${selected}"]`)?.scrollIntoView({ block: 'nearest' });
  });
  const focused = (node: HTMLInputElement): void => {
    node.focus();
    node.select();
  };
  function keys(event: KeyboardEvent, id: string): void {
    const input = event.currentTarget as HTMLInputElement;
    event.stopPropagation();
    if (event.key === 'Enter') onwritten(id, input.value);
    else if (event.key === 'Escape') onwritten(id, null);
  }
</script>

<ol bind:this={list} aria-label="Spans and markers">
  {#each spans as span (span.id)}
    {@const { from, to, isMarker, mark } = span}
    <li class:selected={span.id === selected} data-id={span.id} data-number={span.number}>
      <button type="button" onclick={() => onselect(span.id)} tabindex="-1">
        <span class="sign">
          {#if mark}<StageMark stage={{ ...MARK_SIGNS[mark], name: MARK_NAMES[mark] }} />
          {:else}<i class:point={isMarker}></i>{/if}
        </span>
        <span class="told">
          <strong class:pencil={!span.title}
            >{span.title || (isMarker ? 'Marker' : 'No name yet')}</strong
          >
          <span class="mono pencil"
            >{frameWords(counting, from)}{isMarker
              ? ''
              : ` – ${frameWords(counting, to - 1)} · ${lengthWords(to - from, counting.rate)}`}</span
          >
          {#if span.rating !== 0 || span.terms.length > 0 || span.stage}
            <span class="said"
              ><Pips rating={span.rating} />{[span.stage, ...span.terms]
                .filter(Boolean)
                .join(' · ')}</span
            >
          {/if}
          {#if span.note}<span class="note">{span.note}</span>{/if}
        </span>
      </button>
      {#if writes && span.id === selected}
        <input
          aria-label={writes === 'title' ? 'Name' : 'Note'}
          maxlength="2000"
          value={writes === 'title' ? span.title : span.note}
          use:focused
          onkeydown={(event) => keys(event, span.id)}
          onblur={(event) => onwritten(span.id, event.currentTarget.value)}
        />
      {/if}
    </li>
  {/each}
</ol>

<style>
  ol {
    min-width: 0;
    margin: 0;
    padding: 0;
    list-style: none;
    overflow-y: auto;
  }
  li {
    border-bottom: 1px solid var(--rule);
  }
  li.selected {
    background: var(--wash);
  }
  button {
    display: flex;
    width: 100%;
    gap: 8px;
    padding: 9px 16px;
    background: none;
    border: 0;
    color: inherit;
    font: inherit;
    text-align: left;
    cursor: pointer;
  }
  .sign {
    flex: none;
    width: 14px;
    padding-top: 2px;
  }
  .sign i {
    display: block;
    width: 11px;
    height: 5px;
    margin-top: 5px;
    background: var(--slate);
    border-radius: 2px;
  }
  .sign i.point {
    width: 7px;
    height: 7px;
    transform: rotate(45deg);
  }
  .told {
    display: grid;
    gap: 2px;
    min-width: 0;
  }
  .said {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .note {
    overflow-wrap: anywhere;
  }
  input {
    width: calc(100% - 32px);
    margin: 0 16px 10px;
    padding: 4px 8px;
    background: var(--paper);
    border: 1px solid var(--ink);
    border-radius: 3px;
    font: inherit;
  }
</style>
