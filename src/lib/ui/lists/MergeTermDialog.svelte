<script lang="ts">
  import type { TermEntry } from '#core/lists/entries';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import Dialog from '../common/Dialog.svelte';
  import { act } from './act';
  import TermPicker from './TermPicker.svelte';

  interface Props {
    card: {
      id: string;
      entry: TermEntry;
      given: number;
      spoken: number;
      narrower: { label: string }[];
    };
    ondone: (id: string) => unknown;
    onclose: () => void;
  }
  const { card, ondone, onclose }: Props = $props();
  let into = $state.raw<{ id: string; label: string } | null>(null);
  const name = $derived(card.entry.label);

  async function merge(): Promise<void> {
    const kept = into!;
    await act(
      `“${name}” is “${kept.label}” now`,
      () => api.post(`/api/lists/terms/${card.id}`, { into: kept.id }),
      ({ id }) => {
        onclose();
        return ondone(id);
      },
    );
  }
</script>

<Dialog title="Merge the term {name}" {onclose}>
  <p class="label">Into</p>
  {#if into}<p class="into">
      {into.label}
      <button class="link" type="button" onclick={() => (into = null)}>another</button>
    </p>
    <ul class="told">
      <li>{counted(card.given, 'item')} given “{name}” get “{into.label}”; their files say so.</li>
      {#if card.narrower.length > 0}<li>
          {card.narrower
            .slice(0, 5)
            .map((one) => one.label)
            .join(', ')}{card.narrower.length > 5 ? ' …' : ''} will stand under “{into.label}”.
        </li>{/if}
      <li>“{into.label}” is also known as “{name}”: files that say so are read as it.</li>
      {#if card.spoken > 0}<li>
          {counted(card.spoken, 'standing collection')} will ask for “{into.label}”.
        </li>{/if}
    </ul>
  {:else}<TermPicker
      label="The term that stays"
      without={[card.id]}
      onpick={(term) => (into = term)}
    />{/if}
  {#snippet foot()}
    <button class="button act" type="button" disabled={!into} onclick={() => void merge()}
      >Merge</button
    >
    <span class="pencil">One step; the ledger takes it back.</span>
  {/snippet}
</Dialog>

<style>
  .into {
    font: 20px/1.3 var(--book);
  }
  .into .link {
    font: 600 13px var(--plain);
  }
  .told {
    margin-top: 12px;
  }
  .told li {
    padding: 3px 0;
  }
</style>
