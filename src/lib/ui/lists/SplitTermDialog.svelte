<script lang="ts">
  import type { TermEntry } from '#core/lists/entries';
  import { formatQuery, parseQuery } from '#core/query/grammar';
  import { EVERYTHING, refTo } from '#core/query/tree';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';

  /** A new term parted from one: it takes over those of its items that a query finds. */
  interface Props {
    card: { id: string; entry: TermEntry; given: number };
    ondone: (id: string) => unknown;
    onclose: () => void;
  }
  const { card, ondone, onclose }: Props = $props();
  let label = $state('');
  let q = $state('');
  let told = $state('');
  let isClear = $state(false);

  /** How many of its items the query finds, narrower terms' items among them. */
  async function count(): Promise<void> {
    const asked = q;
    isClear = false;
    told = '';
    if (asked.trim() === '') return;
    try {
      const where = [
        ...parseQuery(asked).where,
        { field: 'terms', test: 'is' as const, values: [refTo(card.id)] },
      ];
      const query = formatQuery({ ...EVERYTHING, where });
      const { total } = await api.get('/api/catalogue/wall', { q: query });
      if (asked !== q) return;
      told = `${counted(total, 'item')} with “${card.entry.label}” or a narrower term ${total === 1 ? 'is' : 'are'} found by this.`;
      isClear = total > 0;
    } catch (error) {
      if (asked === q) told = (error as Error).message;
    }
  }
  async function split(): Promise<void> {
    await act(
      `“${label.trim()}” parted from “${card.entry.label}”`,
      () => api.post(`/api/lists/terms/${card.id}`, { split: label.trim(), q }),
      ({ id }) => {
        onclose();
        return ondone(id);
      },
    );
  }
</script>

<Dialog title="Part a term from {card.entry.label}" {onclose}>
  <label
    ><span class="label">The new term</span><input
      class="field"
      maxlength="200"
      bind:value={label}
    /></label
  >
  <label class="next"
    ><span class="label">for those of its items that are found by</span><input
      class="field mono"
      placeholder="words dusk; rated 3.."
      bind:value={q}
      oninput={() => void count()}
    /></label
  >
  <p class="told" class:caution={!isClear} aria-live="polite">{told}</p>
  <p class="pencil">
    These items get the new term in place of “{card.entry.label}”; it stands beside it in the tree.
    Items that only have a narrower term keep theirs.
  </p>
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={label.trim() === '' || !isClear}
      onclick={() => void split()}>Part the term</button
    >
    <span class="pencil">One step; the ledger takes it back.</span>
  {/snippet}
</Dialog>

<style>
  .next {
    display: block;
    margin-top: 12px;
  }
  .told {
    min-height: 22px;
    margin-top: 6px;
  }
</style>
