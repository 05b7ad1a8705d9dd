import { FIELD_KEYS, type FieldKey, type Languages } from '#core/records/fields';
import type { Balance, Merged } from '#core/records/merge';
import { isBlank } from '#core/records/takeOver';
import type { Taken } from '#core/records/taken';
import { sayDone } from '../common/notices.svelte';

/** A record that was copied to be put onto others, field by field; it is kept while the browser is open. */
export interface Copied {
  number: string;
  values: { key: FieldKey; value: string | number | string[] | Languages }[];
}

const KEY = 'mindful.record.copied';

export function copyRecord(number: string, merged: Merged, terms: readonly Balance[]): void {
  const values = FIELD_KEYS.flatMap((key): Copied['values'] => {
    if (key === 'terms')
      return terms.length > 0 ? [{ key, value: terms.map(({ term }) => term) }] : [];
    const { value } = merged[key];
    if (isBlank(value)) return [];
    return [{ key, value: key === 'taken' ? (value as Taken).edtf : (value as string) }];
  });
  sessionStorage.setItem(KEY, JSON.stringify({ number, values } satisfies Copied));
  sayDone(`The record of ${number} is copied.`);
}

export function copiedRecord(): Copied | null {
  try {
    return JSON.parse(sessionStorage.getItem(KEY) ?? 'null') as Copied | null;
  } catch {
    return null;
  }
}
