import type { TermLabel } from '../lists/entries';
import { ENTRIES, kindOf, type Entries, type ListKey } from './registry';
import type { Words } from './kind';

/** How the ledger tells what became of an entry of a list: only what changed, in words. */
type Side = Record<string, unknown>;

const LABELS: Record<string, string> = {
  formerly: 'formerly',
  creditLine: 'credit line',
  copyrightNotice: 'copyright notice',
  usageTerms: 'usage terms',
  labels: 'also known as',
  also: 'other spellings',
  query: 'finds',
  radius: 'radius in metres',
  placeId: 'place',
};
/** Lists of references: told by how many there are. */
const COUNTED = ['broader', 'related', 'lines'];

/** Told as a whole. */
const WHOLE: Record<string, string> = {
  query: 'another query',
  plan: 'other choices',
  choices: 'others',
};

function valueWords(key: string, value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (WHOLE[key]) return WHOLE[key];
  if (!Array.isArray(value))
    return typeof value === 'object' ? '' : String(value as string | number);
  if (COUNTED.includes(key)) return String(value.length);
  const texts = value.map((one: string | TermLabel) => (typeof one === 'string' ? one : one.label));
  return texts.join('; ') || 'nothing';
}

/** What became of an entry in words. */
export function changeWords<L extends ListKey>(
  list: L,
  before: Entries[L] | null,
  after: Entries[L] | null,
): Words;
export function changeWords(list: ListKey, was: Side | null, is: Side | null): Words {
  const { name, words } = kindOf(list);
  if (words) return words(was, is);
  if (!was || !is)
    return { before: was ? name(was) : 'not on the list', after: is ? name(is) : 'off the list' };
  const keys = Object.keys(is).filter(
    (key) => JSON.stringify(was[key]) !== JSON.stringify(is[key]),
  );
  const told = (entry: Side): string =>
    keys.map((key) => `${LABELS[key] ?? key}: ${valueWords(key, entry[key])}`).join(' · ');
  return { before: told(was), after: told(is) };
}

/** Both sides of a step that changed an entry; null of one that did not. */
export function entryWords(before: Side, after: Side): Words | null {
  if (!('entry' in before) || !('entry' in after)) return null;
  const [was, is] = [before['entry'] as Side | null, after['entry'] as Side | null];
  const list = String(after['list'] ?? '');
  return Object.hasOwn(ENTRIES, list)
    ? changeWords(list as ListKey, was as never, is as never)
    : { before: '', after: '' };
}
