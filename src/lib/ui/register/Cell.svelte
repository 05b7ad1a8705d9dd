<script lang="ts">
  import { cellWords, isPlain } from '#core/register/columns';
  import { writtenAs } from '#core/records/written';
  import type { Field } from '#core/fields/field';
  import { TYPES } from '#core/fields/types';
  import type { Stage } from '#core/stages/stages';
  import Marked from '../common/Marked.svelte';
  import Pips from '../common/Pips.svelte';
  import StageMark from '../common/StageMark.svelte';

  interface Props {
    id: string;
    field: Field;
    value: unknown;
    /** Its values were fetched. */
    known: boolean;
    stages: Stage[];
    /** Folded words that were searched for. */
    words: readonly string[];
    /** The keyboard stands here. */
    marked: boolean;
    writes: boolean;
    onpoint: () => void;
    /** Somebody wants to write here; undefined where nobody may. */
    onwrite?: (() => void) | undefined;
    /** Text as written, null to leave it; and whether to go on to the next row. */
    onsave: (text: string | null, next: boolean) => void;
  }
  const {
    id,
    field,
    value,
    known,
    stages,
    words,
    marked,
    writes,
    onpoint,
    onwrite,
    onsave,
  }: Props = $props();
  const told = $derived(cellWords(field, value));
  const stage = $derived(
    field.key === 'stage' ? stages.find(({ name }) => name === value) : undefined,
  );
  /** What teams must not forget is named where it is not there. */
  const lacking = $derived(known && told === '' && field.key === 'creditLine');
  const isBook = $derived(['title', 'caption', 'headline'].includes(field.key));
  const isMono = $derived(
    TYPES[field.type].face === 'figures' ||
      ['number', 'name', 'originalName', 'timecode'].includes(field.key),
  );

  let done = false;
  function begin(node: HTMLInputElement | HTMLSelectElement): void {
    done = false;
    node.focus();
    if (node instanceof HTMLInputElement) node.select();
  }
  function end(text: string | null, next: boolean): void {
    if (done) return;
    done = true;
    onsave(text === null || text.trim() === writtenAs(value) ? null : text, next);
  }
  function keys(
    event: KeyboardEvent & { currentTarget: HTMLInputElement | HTMLSelectElement },
  ): void {
    event.stopPropagation();
    if (event.key === 'Escape') end(null, false);
    else if (event.key === 'Enter') {
      event.preventDefault();
      end(event.currentTarget.value, true);
    }
  }
</script>

<div
  {id}
  class="cell"
  class:book={isBook}
  class:mono={isMono}
  class:end={field.type === 'number' && field.key !== 'rating'}
  class:marked
  role="gridcell"
  tabindex="-1"
  aria-readonly={!isPlain(field)}
  title={told}
  onpointerdown={onpoint}
  ondblclick={(event) => {
    if (!onwrite) return;
    event.stopPropagation();
    onwrite();
  }}
>
  {#if writes && field.values}
    <select
      aria-label={field.label}
      use:begin
      value={writtenAs(value)}
      onkeydown={keys}
      onblur={(event) => end(event.currentTarget.value, false)}
    >
      <option value="">—</option>
      {#each field.values as { key, label } (key)}<option value={key}>{label}</option>{/each}
    </select>
  {:else if writes}
    <input
      class="field"
      aria-label={field.label}
      use:begin
      value={writtenAs(value)}
      onkeydown={keys}
      onblur={(event) => end(event.currentTarget.value, false)}
      ondblclick={(event) => event.stopPropagation()}
    />
  {:else if field.key === 'rating'}<Pips rating={Number(value ?? 0)} />
  {:else if stage}<StageMark {stage} /> {stage.name}
  {:else if lacking}<span class="wrong">missing</span>
  {:else}<Marked text={told} words={field.type === 'number' ? [] : words} />{/if}
</div>

<style>
  .cell {
    min-width: 0;
    min-height: 24px;
    line-height: 24px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .cell.marked {
    outline: 2px solid var(--verdigris);
    outline-offset: 1px;
  }
  .book {
    font: 14px/24px var(--book);
  }
  .end {
    text-align: right;
  }
  input,
  select {
    width: 100%;
    min-height: 28px;
    padding: 2px 6px;
  }
</style>
