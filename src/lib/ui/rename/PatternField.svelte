<script lang="ts">
  import { formatPattern, parsePattern } from '#core/naming/grammar';
  import type { Alternative, Piece } from '#core/naming/piece';
  import { INTAKE_GROUPS, pieceWords, SOURCE_GROUPS } from '#core/naming/words';
  import ChoiceEditor from './ChoiceEditor.svelte';

  /** A pattern as chips, with its text below: each says what the other says. */
  interface Props {
    value: string;
    label: string;
    /** Folders part at slashes. */
    folders?: boolean;
    /** Only what is known of a file before it is brought in. */
    early?: boolean;
    onchange: (value: string) => void;
  }
  const { value, label, folders = false, early = false, onchange }: Props = $props();
  const groups = $derived(early ? INTAKE_GROUPS : SOURCE_GROUPS);
  const pieces = $derived.by((): Piece[] | null => {
    try {
      return parsePattern(value);
    } catch {
      return null;
    }
  });
  let open = $state<number | null>(null);
  const opened = $derived(open === null ? undefined : pieces?.[open]);

  function set(next: Piece[]): void {
    onchange(formatPattern(next));
  }
  const put = (at: number, piece: Piece): void =>
    set(pieces!.map((one, index) => (index === at ? piece : one)));
  function remove(at: number): void {
    open = null;
    set(pieces!.toSpliced(at, 1));
  }
  function move(at: number, by: number): void {
    const to = at + by;
    if (!pieces || to < 0 || to >= pieces.length) return;
    const next = pieces.toSpliced(at, 1);
    next.splice(to, 0, pieces[at]!);
    open = to;
    set(next);
  }
  function add(key: string): void {
    const made = groups.flatMap(({ choices }) => choices).find((one) => one.key === key);
    if (!made) return;
    const next = [...(pieces ?? []), { choices: [{ source: made.make(), changes: [] }] }];
    open = next.length - 1;
    set(next);
  }
  const choices = $derived(opened && 'choices' in opened ? opened.choices : []);
  const setChoices = (next: Alternative[]): void =>
    next.length === 0 ? remove(open!) : put(open!, { choices: next });
  function keys(event: KeyboardEvent, at: number): void {
    if (event.altKey && event.key === 'ArrowLeft') move(at, -1);
    else if (event.altKey && event.key === 'ArrowRight') move(at, 1);
    else if (event.key === 'Delete' || event.key === 'Backspace') remove(at);
    else return;
    event.preventDefault();
  }
  const isToday = (piece: Piece): boolean =>
    'choices' in piece &&
    piece.choices.some(({ source }) => source.of === 'date' && source.date === 'today');
</script>

<div class="pattern">
  <div class="chips" role="group" aria-label="Pieces of {label}">
    {#each pieces ?? [] as piece, at (at)}
      {#if 'text' in piece}
        <input
          class="text mono"
          aria-label="Text {at + 1}"
          value={piece.text}
          style:width="calc({Math.max(1, piece.text.length)}ch + 14px)"
          onchange={({ currentTarget: { value: text } }) =>
            text === '' ? remove(at) : put(at, { text })}
        />
      {:else}
        <button
          class="chip"
          class:today={isToday(piece)}
          type="button"
          aria-expanded={open === at}
          title="Alt and arrows move it, Delete takes it out"
          onclick={() => (open = open === at ? null : at)}
          onkeydown={(event) => keys(event, at)}>{pieceWords(piece)}</button
        >
      {/if}
    {/each}
    {#if pieces}
      <select
        aria-label="Add a piece to {label}"
        value=""
        onchange={(event) => (add(event.currentTarget.value), (event.currentTarget.value = ''))}
      >
        <option value="">+ piece</option>
        {#each groups as { label: group, choices: all } (group)}
          <optgroup label={group}>
            {#each all as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
          </optgroup>
        {/each}
      </select>
      <button
        class="link"
        type="button"
        onclick={() => set([...(pieces ?? []), { text: folders ? '/' : '-' }])}
        >+ {folders ? 'folder below' : 'text'}</button
      >
    {/if}
  </div>
  {#if opened && choices.length}
    <div class="editor" role="group" aria-label="The piece">
      {#each choices as choice, at (at)}
        <ChoiceEditor
          {choice}
          {groups}
          isElse={at > 0}
          onchange={(next) => setChoices(choices.map((one, index) => (index === at ? next : one)))}
          onremove={at > 0 ? () => setChoices(choices.toSpliced(at, 1)) : undefined}
        />
      {/each}
      <p>
        <button
          class="link"
          type="button"
          onclick={() =>
            setChoices([...choices, { source: { of: 'text', text: 'unknown' }, changes: [] }])}
          >else, where that is empty …</button
        >
        <button class="link" type="button" onclick={() => move(open!, -1)}>to the left</button>
        <button class="link" type="button" onclick={() => move(open!, 1)}>to the right</button>
        <button class="link" type="button" onclick={() => remove(open!)}>take it out</button>
      </p>
    </div>
  {/if}
  <input
    class="field mono"
    aria-label={label}
    {value}
    oninput={(event) => onchange(event.currentTarget.value)}
    spellcheck="false"
    autocomplete="off"
  />
</div>

<style>
  .chips {
    display: flex;
    flex-wrap: wrap;
    gap: 4px;
    align-items: center;
    margin-bottom: 6px;
  }
  .chip,
  .text,
  select {
    min-height: 26px;
    padding: 1px 8px;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--card);
    font: 12.5px/1.5 var(--mono);
  }
  .chip {
    background: var(--wash);
    border-color: color-mix(in srgb, var(--verdigris) 45%, var(--rule));
  }
  .chip[aria-expanded='true'] {
    border-color: var(--verdigris);
    box-shadow: inset 0 -2px 0 var(--verdigris);
  }
  .chip.today {
    background: color-mix(in srgb, var(--ochre) 16%, var(--card));
    border-color: var(--ochre);
  }
  .text {
    min-width: 26px;
    padding: 1px 5px;
    text-align: center;
  }
  select {
    max-width: 110px;
    border-style: dashed;
  }
  .editor {
    display: grid;
    gap: 8px;
    margin-bottom: 8px;
    padding: 8px 10px;
    border: 1px solid var(--rule);
    border-radius: 4px;
    background: var(--paper);
  }
  .editor p {
    display: flex;
    gap: 14px;
  }
  .field {
    font-size: 13px;
  }
</style>
