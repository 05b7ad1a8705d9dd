<script lang="ts">
  import type { Film } from '#core/footage/film';
  import { frameWords, lengthWords, type Counting } from '#core/footage/span';
  import { MARK_NAMES, MARK_SIGNS } from '#core/footage/marks';
  import type { ShownSpan } from '#core/wire/spans';
  import { formatCount } from '#core/text/quantities';
  import Pips from '../common/Pips.svelte';
  import StageMark from '../common/StageMark.svelte';
  import StripFrame from '../film/StripFrame.svelte';
  import { offered, textOf, writtenOf, type Part } from './written';

  interface Props {
    /** The clip they are of. */
    id: string;
    strip: Film['strip'] | undefined;
    /** Part of the clip's length at which a frame is shown, 0 … 1. */
    partAt: (frame: number) => number;
    spans: readonly ShownSpan[];
    counting: Counting;
    selected: string | null;
    /** Frames of the clip, once they are known: it may be shorter than when it was logged. */
    count: number | null;
    /** All that are chosen. */
    chosen: ReadonlySet<string>;
    /** What of the chosen ones is being written. */
    writes: Part | null;
    onselect: (id: string, how: 'one' | 'more' | 'upto') => void;
    /** Written; null: given up. */
    onwritten: (id: string, text: string | null) => void;
  }
  const props: Props = $props();
  const { id, strip, partAt, spans, counting, selected, chosen, count, writes } = $derived(props);
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
  function keys(event: KeyboardEvent, span: string): void {
    const input = event.currentTarget as HTMLInputElement;
    event.stopPropagation();
    if (event.key === 'Enter') props.onwritten(span, input.value);
    else if (event.key === 'Escape') props.onwritten(span, null);
  }
  /** What stands in the line while it is written: of several what all say, else what is offered. */
  function begun(at: number, part: Part): string {
    const own = spans.filter((one) => chosen.has(one.id));
    const texts = new Set(own.map((one) => textOf(one, part)));
    const [said = ''] = texts;
    const isAdded = own.length > 1 && (part === 'terms' || part === 'creator');
    if (texts.size > 1 || isAdded) return '';
    return said || offered(part, spans.slice(0, at));
  }
  const labelOf = (part: Part): string => {
    const { label } = writtenOf(part);
    const many = part === 'terms' || part === 'creator' ? ', parted by commas' : '';
    const up = part === 'take' ? ', counted up' : '';
    return chosen.size > 1 ? `${label} of ${chosen.size} spans${many}${up}` : `${label}${many}`;
  };
</script>

<ol bind:this={list} aria-label="Spans and markers">
  {#each spans as span, at (span.id)}
    {@const { from, to, isMarker, mark } = span}
    <li
      class:selected={span.id === selected}
      class:chosen={chosen.has(span.id)}
      data-id={span.id}
      data-number={span.number}
    >
      <button
        type="button"
        onclick={(event) =>
          props.onselect(
            span.id,
            event.shiftKey ? 'upto' : event.ctrlKey || event.metaKey ? 'more' : 'one',
          )}
        tabindex="-1"
      >
        <span class="sign">
          {#if mark}<StageMark stage={{ ...MARK_SIGNS[mark], name: MARK_NAMES[mark] }} />
          {:else}<i class:point={isMarker}></i>{/if}
        </span>
        {#if strip && !isMarker}
          <span class="ends">
            <StripFrame {id} {strip} part={partAt(from)} height={32} />
            <StripFrame {id} {strip} part={partAt(to - 1)} height={32} />
          </span>
        {/if}
        <span class="told">
          <strong class:pencil={!span.title}
            >{span.title || (isMarker ? 'Marker' : 'No name yet')}</strong
          >
          <span class="mono pencil times">
            <span
              >{frameWords(counting, from)}{isMarker
                ? ''
                : ` – ${frameWords(counting, to - 1)}`}</span
            >
            {#if !isMarker}<span>{lengthWords(to - from, counting.rate)}</span>{/if}
          </span>
          {#if count !== null && to > count}
            <span class="outside"
              >{from >= count
                ? `lies ${formatCount(from - count + 1)} frames after the end`
                : `ends ${formatCount(to - count)} frames after the end`}</span
            >
          {/if}
          {#if span.scene || span.shot || span.take}
            <span class="pencil"
              >{[
                span.scene && `scene ${span.scene}`,
                span.shot && `shot ${span.shot}`,
                span.take && `take ${span.take}`,
              ]
                .filter(Boolean)
                .join(' · ')}</span
            >
          {/if}
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
        <label>
          <span class="pencil">{labelOf(writes)}</span>
          <input
            aria-label={labelOf(writes)}
            maxlength="2000"
            value={begun(at, writes)}
            use:focused
            onkeydown={(event) => keys(event, span.id)}
            onblur={(event) => props.onwritten(span.id, event.currentTarget.value)}
          />
        </label>
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
  li.chosen {
    background: var(--wash);
  }
  li.selected {
    box-shadow: inset 3px 0 var(--verdigris);
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
  .ends {
    display: flex;
    flex: none;
    gap: 4px;
    padding-top: 2px;
  }
  .told {
    display: grid;
    gap: 2px;
    min-width: 0;
  }
  .times {
    display: flex;
    flex-wrap: wrap;
    gap: 0 10px;
  }
  .times span {
    white-space: nowrap;
  }
  .outside {
    color: var(--ochre);
  }
  .said {
    display: flex;
    gap: 6px;
    align-items: center;
  }
  .note {
    overflow-wrap: anywhere;
  }
  label {
    display: grid;
    gap: 2px;
    margin: 0 16px 10px;
  }
  input {
    padding: 4px 8px;
    background: var(--paper);
    border: 1px solid var(--ink);
    border-radius: 3px;
    font: inherit;
  }
</style>
