<script lang="ts">
  import { FIELDS, type FieldKey, type RecordValues } from '#core/records/fields';
  import type { Disputes } from '#core/records/reconcile';
  import { writtenAs } from '#core/records/written';
  import { counted } from '#core/text/quantities';
  import { api } from '../common/api';
  import { sayDone, sayWrong } from '../common/notices.svelte';
  import { sayUndoable } from '../common/undoing';

  /** Fields that were changed here and by another program in the file: three sides of each, and who is right. */
  interface Props {
    id: string;
    version: number;
    record: RecordValues;
    disputes: Disputes;
    canDescribe: boolean;
    onsettled: () => unknown;
  }
  const { id, version, record, disputes, canDescribe, onsettled }: Props = $props();
  const keys = $derived(Object.keys(disputes) as FieldKey[]);

  const words = (key: FieldKey, value: unknown): string => {
    const known = FIELDS[key].values?.find((one) => one.key === value);
    return known?.label ?? (writtenAs(value) || 'nothing');
  };
  async function settle(side: 'ours' | 'theirs', which: readonly FieldKey[]): Promise<void> {
    try {
      const wish = Object.fromEntries(which.map((key) => [key, side]));
      const { operation } = await api.post('/api/records/settle', {
        id,
        version,
        wish,
      });
      if (operation) sayUndoable('Taken from the file.', operation);
      else sayDone('What is here will be written.');
    } catch (error) {
      sayWrong(error);
    }
    await onsettled();
  }
</script>

<section aria-label="Changed on both sides">
  <p class="caution">
    Another program wrote into the file what was changed here as well. Nothing is written until it
    is settled.
  </p>
  {#each keys as key (key)}
    {@const { theirs, before } = disputes[key]!}
    <div class="one">
      <h4>{FIELDS[key].label}</h4>
      <dl>
        <dt>here</dt>
        <dd>{words(key, record[key])}</dd>
        <dt>file</dt>
        <dd>{words(key, theirs)}</dd>
        {#if before !== null}<dt>before</dt>
          <dd class="pencil">{words(key, before)}</dd>{/if}
      </dl>
      {#if canDescribe}
        <p>
          <button
            class="link"
            type="button"
            aria-label="Keep what is here: {FIELDS[key].label}"
            onclick={() => void settle('ours', [key])}>Keep what is here</button
          >
          <button
            class="link"
            type="button"
            aria-label="Take the file’s: {FIELDS[key].label}"
            onclick={() => void settle('theirs', [key])}>Take the file’s</button
          >
        </p>
      {/if}
    </div>
  {/each}
  {#if canDescribe && keys.length > 1}
    <p class="all">
      <button class="button" type="button" onclick={() => void settle('ours', keys)}
        >Keep all {counted(keys.length, 'field')}</button
      >
      <button class="button" type="button" onclick={() => void settle('theirs', keys)}
        >Take all from the file</button
      >
    </p>
  {/if}
</section>

<style>
  section {
    margin: 12px 0;
    padding: 10px 12px;
    border: 1px solid var(--ochre);
    border-radius: 3px;
    background: var(--card);
  }
  .one {
    margin-top: 8px;
    padding-top: 6px;
    border-top: 1px solid var(--rule);
  }
  h4 {
    margin: 0;
    font: 600 13px var(--plain);
  }
  dl {
    display: grid;
    grid-template-columns: 48px minmax(0, 1fr);
    gap: 2px 8px;
  }
  dt {
    color: var(--pencil);
  }
  dd {
    overflow-wrap: anywhere;
  }
  p button.link {
    min-height: 24px;
    margin-right: 14px;
  }
  .all {
    display: flex;
    flex-wrap: wrap;
    gap: 8px;
    margin-top: 10px;
  }
</style>
