<script lang="ts">
  import type { TermEntry } from '#core/lists/entries';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import { act } from './act';
  import { withEntry } from './address';
  import LabelLines from './LabelLines.svelte';
  import TermPicker from './TermPicker.svelte';

  /** What a term is called, where it stands, and what it was given to. */
  interface Card {
    id: string;
    entry: TermEntry;
    names: Record<string, string>;
    given: number;
    items: number;
    narrower: { id: string; label: string }[];
    spoken: number;
  }
  interface Props {
    card: Card;
    mayManage: boolean;
    onmake: () => void;
    /** Settled once the page shows it: what is loaded anew meanwhile would break it off. */
    onopen: (id: string | null) => Promise<void>;
    onchanged: () => unknown;
  }
  const { card, mayManage, onmake, onopen, onchanged }: Props = $props();
  // What is being written stays while the lists are loaded anew: only another entry begins anew.
  const held = $derived(JSON.stringify(card.entry));
  let entry = $derived<TermEntry>(JSON.parse(held) as TermEntry);
  /** Names of terms that were chosen since it was read. */
  let chosen = $state.raw<Record<string, string>>({});
  const nameOf = (id: string): string => chosen[id] ?? card.names[id] ?? '';
  const isChanged = $derived(JSON.stringify(entry) !== JSON.stringify(card.entry));
  const change = (part: Partial<TermEntry>): void => void (entry = { ...entry, ...part });
  let dialog = $state<'merge' | 'split' | null>(null);

  const saved = (wish: TermEntry, words: string): Promise<unknown> =>
    act(
      words,
      () => api.patch(`/api/lists/terms/${card.id}`, { entry: wish, seen: card.entry }),
      onchanged,
    );
  async function drop(): Promise<void> {
    await act(
      'Taken off the list',
      () => api.delete(`/api/lists/terms/${card.id}`),
      async () => {
        await onopen(null);
        return onchanged();
      },
    );
  }
</script>

{#snippet references(key: 'broader' | 'related', label: string)}
  <div class="part">
    <h3 class="label">{label}</h3>
    <ul class="chips">
      {#each entry[key] as id (id)}
        <li>
          <button class="link" type="button" onclick={() => void onopen(id)}>{nameOf(id)}</button>
          {#if mayManage}<button
              class="away"
              type="button"
              aria-label="Not {label.toLowerCase()}: {nameOf(id)}"
              onclick={() => change({ [key]: entry[key].filter((one) => one !== id) })}>×</button
            >{/if}
        </li>
      {:else}<li class="none pencil">
          {key === 'broader' ? 'none: it stands at the top' : 'none'}
        </li>
      {/each}
    </ul>
    {#if mayManage}
      <TermPicker
        label="Add {label.toLowerCase()}"
        without={[card.id, ...entry[key]]}
        onpick={({ id, label: name }) => {
          chosen = { ...chosen, [id]: name };
          change({ [key]: [...entry[key], id].sort() });
        }}
      />
    {/if}
  </div>
{/snippet}

<article>
  <header>
    {#if mayManage}<input
        class="title"
        aria-label="Label"
        maxlength="200"
        value={entry.label}
        oninput={(event) => change({ label: event.currentTarget.value })}
      />{:else}<h1 class="title">{entry.label}</h1>{/if}
    <p class="pencil">
      <a href={withEntry('terms', card.id)}>{counted(card.items, 'item')}</a> with it or a narrower
      term, {counted(card.given, 'item')} given it directly{card.spoken > 0
        ? `, ${counted(card.spoken, 'standing collection')} ask for it`
        : ''}{entry.retired ? '. Retired: not offered any more' : ''}.
    </p>
  </header>
  <div class="columns">
    <div>
      {@render references('broader', 'Broader')}
      {@render references('related', 'Related')}
      <div class="part">
        <h3 class="label">Narrower</h3>
        <ul class="chips">
          {#each card.narrower as one (one.id)}
            <li>
              <button class="link" type="button" onclick={() => void onopen(one.id)}
                >{one.label}</button
              >
            </li>
          {:else}<li class="none pencil">none</li>{/each}
        </ul>
        {#if mayManage}<button class="link make" type="button" onclick={onmake}
            >Make a narrower term …</button
          >{/if}
      </div>
    </div>
    <div>
      <LabelLines labels={entry.labels} {mayManage} onchange={(labels) => change({ labels })} />
      <label class="part"
        ><span class="label">Scope note: what it is for, and what not</span>
        <textarea
          class="field"
          rows="4"
          maxlength="5000"
          disabled={!mayManage}
          value={entry.note}
          oninput={(event) => change({ note: event.currentTarget.value })}></textarea></label
      >
    </div>
  </div>
  {#if mayManage}
    <footer>
      <button
        class="button act"
        type="button"
        disabled={!isChanged || entry.label.trim() === ''}
        onclick={() => void saved({ ...entry, label: entry.label.trim() }, 'Term changed')}
        >Save the term</button
      >
      {#if isChanged}<button
          class="link"
          type="button"
          onclick={() => (entry = structuredClone(card.entry))}>As it was</button
        >
        {#if card.items > 0 && (entry.label !== card.entry.label || String(entry.broader) !== String(card.entry.broader))}
          <span class="caution">{counted(card.items, 'item')} and their files follow.</span>
        {/if}
      {:else}
        <button class="link" type="button" onclick={() => (dialog = 'merge')}
          >Merge into another …</button
        >
        <button class="link" type="button" onclick={() => (dialog = 'split')}
          >Part a term from it …</button
        >
        <button
          class="link"
          type="button"
          onclick={() =>
            void saved(
              { ...card.entry, retired: !card.entry.retired },
              card.entry.retired ? 'Offered again' : 'Retired',
            )}>{card.entry.retired ? 'Offer it again' : 'Retire'}</button
        >
        {#if card.given === 0 && card.spoken === 0}<button
            class="link"
            type="button"
            onclick={() => void drop()}>Take it off the list</button
          >{/if}
      {/if}
    </footer>
  {/if}
</article>

{#if dialog === 'merge'}
  {#await import('./MergeTermDialog.svelte') then { default: MergeTermDialog }}
    <MergeTermDialog
      {card}
      ondone={async (id) => {
        await onopen(id);
        await onchanged();
      }}
      onclose={() => (dialog = null)}
    />
  {/await}
{:else if dialog === 'split'}
  {#await import('./SplitTermDialog.svelte') then { default: SplitTermDialog }}
    <SplitTermDialog
      {card}
      ondone={async (id) => {
        await onopen(id);
        await onchanged();
      }}
      onclose={() => (dialog = null)}
    />
  {/await}
{/if}

<style>
  article {
    display: grid;
    grid-template-rows: auto minmax(0, 1fr) auto;
    min-height: 0;
    background: var(--card);
  }
  header {
    padding: 20px 32px 12px;
  }
  .title {
    width: 100%;
    border: 0;
    border-bottom: 1px solid transparent;
    padding: 0;
    background: none;
    font: 500 28px/1.25 var(--book);
  }
  input.title:hover,
  input.title:focus {
    border-bottom-color: var(--rule);
  }
  .columns {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    gap: 0 32px;
    align-content: start;
    padding: 8px 32px 20px;
    overflow: auto;
  }
  .part {
    display: block;
    margin-bottom: 18px;
  }
  h3 {
    font-family: var(--plain);
  }
  .chips {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
    max-height: 168px;
    margin-bottom: 6px;
    overflow: auto;
  }
  .chips li {
    display: inline-flex;
    align-items: center;
    min-height: 26px;
    padding: 0 4px 0 8px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--paper);
  }
  .chips .none {
    border: 0;
    padding: 0;
    background: none;
  }
  .chips .link {
    min-height: 24px;
    padding-right: 4px;
    font-weight: 400;
  }
  .away {
    min-width: 24px;
    min-height: 24px;
    border: 0;
    background: none;
    color: var(--pencil);
  }
  .away:hover {
    color: var(--wax);
  }
  .make {
    min-height: 24px;
  }
  footer {
    display: flex;
    flex-wrap: wrap;
    gap: 6px 18px;
    align-items: center;
    padding: 10px 32px;
    border-top: 1px solid var(--rule);
  }
  footer .link {
    min-height: 28px;
  }
</style>
