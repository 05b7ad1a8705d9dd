<script lang="ts">
  import { FIELDS, type RecordChange } from '#core/records/fields';
  import type { Balance, Merged } from '#core/records/merge';
  import { isBlank } from '#core/records/takeOver';
  import { writtenAs } from '#core/records/written';
  import { counted } from '#core/text/quantities';
  import Dialog from '../common/Dialog.svelte';
  import type { Copied } from './copied';

  /** A copied record, put onto others field by field. What is a fact of one picture is not ticked. */
  interface Props {
    copied: Copied;
    merged: Merged;
    terms: readonly Balance[];
    count: number;
    onchange: (values: RecordChange) => Promise<void>;
    onclose: () => void;
  }
  const { copied, merged, terms, count, onchange, onclose }: Props = $props();
  type Line = Copied['values'][number];
  /** Rating, stage and time are verdicts on and facts of one picture. */
  const OWN = ['rating', 'stage', 'taken', 'title', 'titleIn', 'position'];
  let chosen = $derived<string[]>(
    copied.values.map(({ key }) => key).filter((key) => !OWN.includes(key)),
  );

  function now({ key, value }: Line): string {
    if (key === 'terms') {
      const lacking = (value as string[]).filter(
        (term) => !terms.some((one) => one.term === term && one.all),
      );
      return lacking.length > 0 ? `adds ${lacking.join(', ')}` : 'all have them';
    }
    const told = merged[key];
    if (told.mixed > 0) return `replaces ${told.mixed} different`;
    if (isBlank(told.value)) return 'fills what is empty';
    const held = writtenAs(told.value);
    return held === writtenAs(value) ? 'the same' : `replaces ${held}`;
  }
  async function put(): Promise<void> {
    const taken = copied.values.filter(({ key }) => chosen.includes(key));
    const change = Object.fromEntries(
      taken.map(({ key, value }) => [key === 'terms' ? 'addTerms' : key, value]),
    ) as RecordChange;
    onclose();
    await onchange(change);
  }
</script>

<Dialog
  title={copied.number
    ? `Put the record of ${copied.number} onto ${counted(count, 'item')}`
    : 'Nothing is copied yet'}
  wide
  {onclose}
>
  {#if copied.values.length === 0}
    <p>
      {copied.number
        ? 'This record says nothing.'
        : 'Choose one item and copy its record; then choose those it is to be put onto.'}
    </p>
  {:else}
    <ul>
      {#each copied.values as line (line.key)}
        <li>
          <label>
            <input type="checkbox" bind:group={chosen} value={line.key} />
            <span class="name">{FIELDS[line.key].label}</span>
            <span class="value"
              >{FIELDS[line.key].values?.find(({ key }) => key === line.value)?.label ??
                writtenAs(line.value)}</span
            >
            <span class="pencil">{now(line)}</span>
          </label>
        </li>
      {/each}
    </ul>
  {/if}
  {#snippet foot()}
    <button
      class="button act"
      type="button"
      disabled={chosen.length === 0}
      onclick={() => void put()}
      >Put {counted(chosen.length, 'field')} onto {counted(count, 'item')}</button
    >
    <span class="pencil">Terms are added; other fields are replaced. Undo takes it back.</span>
  {/snippet}
</Dialog>

<style>
  ul {
    max-height: 360px;
    overflow: auto;
    border: 1px solid var(--rule);
  }
  label {
    display: grid;
    grid-template-columns: auto 130px minmax(0, 1.2fr) minmax(0, 1fr);
    gap: 12px;
    align-items: baseline;
    padding: 5px 10px;
    border-bottom: 1px solid color-mix(in srgb, var(--rule) 60%, transparent);
  }
  .value,
  label .pencil {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
