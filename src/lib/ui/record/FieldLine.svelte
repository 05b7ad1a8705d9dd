<script lang="ts">
  import {
    LIST_KEYS,
    FIELDS,
    type FieldKey,
    type Languages,
    type ListKey,
    type RecordChange,
  } from '#core/records/fields';
  import type { Merged } from '#core/records/merge';
  import { formatOffset, takenFromText, type Taken } from '#core/records/taken';
  import { shownDate } from '#core/text/dateWords';
  import { moment } from '../wall/dates';
  import CardLine from './CardLine.svelte';
  import type { Caret } from './caret.svelte';
  import EditField from './EditField.svelte';
  import LanguagesField from './LanguagesField.svelte';
  import ListField from './ListField.svelte';

  /** One field of the registry, written into as its type asks. */
  interface Props {
    key: FieldKey;
    merged: Merged;
    /** How many items it is about. */
    of: number;
    disabled: boolean;
    caret: Caret;
    onchange: (change: RecordChange) => void;
    oncolumn?: ((key: FieldKey, text: string) => boolean) | undefined;
  }
  const { key, merged, of, disabled, caret, onchange, oncolumn }: Props = $props();
  const field = $derived(FIELDS[key]);
  const told = $derived(merged[key]);
  /** What teams must not forget is named where it is not there. */
  const missing = $derived(['creator', 'creditLine'].includes(key) ? 'missing' : '—');
  const column = $derived(oncolumn && ((text: string): boolean => oncolumn(key, text)));

  function takenText(taken: Taken | null): string {
    if (!taken) return '';
    return /T/.test(taken.edtf)
      ? `${moment(taken.from)}${taken.offset === null ? '' : ` ${formatOffset(taken.offset)}`}`
      : shownDate(taken.edtf);
  }
  /** What was understood of a date while it is written. */
  function understood(text: string): string {
    if (text.trim() === '') return '2026, September 2026, about 1974, the 1970s, from 2019 to 2021';
    const taken = takenFromText(text);
    return taken ? `${shownDate(taken.edtf)} · ${taken.edtf}` : 'no date yet';
  }
  /** As it can be read back: `2026-09-12 19:42:00 +01:00`, or EDTF. */
  const takenWritten = (taken: Taken | null): string =>
    (taken?.edtf ?? '').replace(/(\d)T(\d)/, '$1 $2').replace(/(:\d\d)([+-]\d\d:\d\d)$/, '$1 $2');
</script>

{#if LIST_KEYS.includes(key as ListKey)}
  <ListField
    name={key}
    label={field.label}
    elements={told.among}
    {of}
    {missing}
    {disabled}
    {caret}
    onadd={(element) => onchange({ add: { [key]: [element] } })}
    onremove={(element) => onchange({ remove: { [key]: [element] } })}
    oncolumn={column}
  />
{:else if field.languagesOf}
  <LanguagesField
    name={key}
    label={FIELDS[field.languagesOf as FieldKey].label}
    texts={told.value as Languages}
    mixed={told.mixed}
    long={FIELDS[field.languagesOf as FieldKey].type === 'long-text'}
    {disabled}
    onchange={(texts) => onchange({ [key]: texts })}
  />
{:else if field.values}
  <CardLine label={field.label} field={key}>
    <select
      aria-label={field.label}
      {disabled}
      value={told.mixed ? 'mixed' : told.value}
      onchange={(event) => onchange({ [key]: event.currentTarget.value })}
    >
      {#if told.mixed}<option value="mixed" disabled>{told.mixed} different</option>{/if}
      <option value="">—</option>
      {#each field.values as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
    </select>
  </CardLine>
{:else}
  <EditField
    name={key}
    label={field.label}
    value={key === 'taken' ? takenText(merged.taken.value) : String(told.value)}
    mixed={told.mixed}
    among={told.among}
    long={field.type === 'long-text'}
    missing={key === 'taken' ? 'unknown' : missing}
    {...key === 'taken'
      ? {
          hint: '2026-09-12 19:42, about 1974 …',
          written: takenWritten(merged.taken.value),
          echo: understood,
        }
      : key === 'position'
        ? { hint: '54.3207, 10.1349' }
        : {}}
    {disabled}
    {caret}
    onsave={(text) => onchange({ [key]: text })}
    oncolumn={column}
  />
{/if}

<style>
  select {
    width: 100%;
    min-height: 24px;
    border: 0;
    margin-left: -4px;
    padding: 0;
    background: none;
  }
  select:disabled {
    opacity: 1;
    color: var(--ink);
  }
  option {
    background: var(--card);
  }
</style>
