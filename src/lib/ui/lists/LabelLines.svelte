<script lang="ts">
  import type { TermLabel } from '#core/lists/entries';

  /** What else a term is called: in other languages, also known as, and what it is only found by. */
  interface Props {
    labels: readonly TermLabel[];
    mayManage: boolean;
    onchange: (labels: TermLabel[]) => void;
  }
  const { labels, mayManage, onchange }: Props = $props();
  const KINDS: { kind: TermLabel['kind']; words: string }[] = [
    { kind: 'also', words: 'also known as' },
    { kind: 'preferred', words: 'in another language' },
    { kind: 'hidden', words: 'found by, never shown' },
  ];
  let kind = $state<TermLabel['kind']>('also');
  let lang = $state('');
  let label = $state('');
  const isWhole = $derived(label.trim() !== '' && (kind !== 'preferred' || lang.trim() !== ''));

  function add(): void {
    if (!isWhole) return;
    onchange([...labels, { kind, lang: lang.trim(), label: label.trim() }]);
    label = '';
  }
  function keys(event: KeyboardEvent): void {
    if (event.key !== 'Enter') return;
    event.preventDefault();
    add();
  }
</script>

<div class="part">
  <h3 class="label">Other labels</h3>
  <ul>
    {#each labels as one, at (`${one.kind} ${one.lang} ${one.label}`)}
      <li>
        <span>{one.label}</span>
        <span class="pencil"
          >{KINDS.find((each) => each.kind === one.kind)!.words}{one.lang
            ? `, ${one.lang}`
            : ''}</span
        >
        {#if mayManage}<button
            type="button"
            aria-label="Not called {one.label}"
            onclick={() => onchange(labels.filter((_, index) => index !== at))}>×</button
          >{/if}
      </li>
    {:else}<li class="pencil">none</li>{/each}
  </ul>
  {#if mayManage}
    <div class="new">
      <input
        class="field"
        aria-label="Another label"
        placeholder="another label"
        maxlength="200"
        bind:value={label}
        onkeydown={keys}
      />
      <select class="field" aria-label="What kind of label" bind:value={kind}>
        {#each KINDS as one (one.kind)}<option value={one.kind}>{one.words}</option>{/each}
      </select>
      <input
        class="field lang"
        aria-label="Language"
        placeholder="de"
        maxlength="20"
        bind:value={lang}
        onkeydown={keys}
      />
      <button class="button" type="button" disabled={!isWhole} onclick={add}>Add</button>
    </div>
  {/if}
</div>

<style>
  .part {
    margin-bottom: 18px;
  }
  h3 {
    font-family: var(--plain);
  }
  ul {
    max-height: 200px;
    overflow: auto;
  }
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto 24px;
    gap: 8px;
    align-items: center;
    min-height: 28px;
    border-top: 1px solid color-mix(in srgb, var(--rule) 60%, transparent);
  }
  li button {
    min-height: 24px;
    border: 0;
    background: none;
    color: var(--pencil);
  }
  li button:hover {
    color: var(--wax);
  }
  .new {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 64px auto;
    gap: 6px;
    margin-top: 6px;
  }
  .new select {
    grid-row: 2;
  }
  .new .lang {
    grid-row: 2;
  }
</style>
