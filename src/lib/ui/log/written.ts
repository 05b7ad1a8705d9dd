import type { RecordChange } from '#core/records/fields';
import { countedUp } from '#core/text/numbered';
import type { ShownSpan } from '#core/wire/spans';

/** What is written of spans in the log, and the key that begins it. */
export const WRITTEN = [
  { key: 't', part: 'title', field: 'title', label: 'Name' },
  { key: 'w', part: 'note', field: 'caption', label: 'Note' },
  { key: 'a', part: 'terms', field: 'terms', label: 'Terms' },
  { key: 'b', part: 'creator', field: 'creator', label: 'By' },
  { key: 's', part: 'scene', field: 'shotScene', label: 'Scene' },
  { key: 'h', part: 'shot', field: 'shot', label: 'Shot' },
  { key: 'e', part: 'take', field: 'take', label: 'Take' },
] as const;
export type Written = (typeof WRITTEN)[number];
export type Part = Written['part'];

export const writtenOf = (part: Part): Written => WRITTEN.find((one) => one.part === part)!;

/** What it says now, as it is written. */
export function textOf(span: ShownSpan, part: Part): string {
  const value = span[part];
  return typeof value === 'string' ? value : value.join(', ');
}

const names = (text: string): string[] =>
  text
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean);

/** The value a text stands for. */
export const valueOf = (part: Part, text: string): string | string[] =>
  part === 'terms' || part === 'creator' ? names(text) : text.trim();

/** The change it is: of several spans terms and names are added, of one they are what was written. */
export function changeOf(part: Part, text: string, isOne: boolean): RecordChange {
  const { field } = writtenOf(part);
  if (isOne || !Array.isArray(valueOf(part, text))) return { [field]: valueOf(part, text) };
  return part === 'terms' ? { addTerms: names(text) } : { add: { creator: names(text) } };
}

/**
 * What is offered where nothing is written yet: scene and shot as of the span before, the take after it.
 * @param before spans that lie before it, in their order
 */
export function offered(part: Part, before: readonly ShownSpan[]): string {
  if (part !== 'scene' && part !== 'shot' && part !== 'take') return '';
  const last = before.findLast((one) => one.scene || one.shot || one.take);
  if (!last) return part === 'take' ? '1' : '';
  return part === 'take' ? countedUp(last.take || '0', 1) : last[part];
}
