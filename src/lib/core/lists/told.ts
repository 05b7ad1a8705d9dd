import type { TermLabel } from './entries';

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
};
/** Lists of references: told by how many there are. */
const COUNTED = ['broader', 'related', 'lines'];

function valueWords(key: string, value: unknown): string {
  if (value === null || value === undefined || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (key === 'query') return 'another query';
  if (!Array.isArray(value))
    return typeof value === 'object' ? '' : String(value as string | number);
  if (COUNTED.includes(key)) return String(value.length);
  const texts = value.map((one: string | TermLabel) => (typeof one === 'string' ? one : one.label));
  return texts.join('; ') || 'nothing';
}

/** An item that was put into a collection, taken out, or put elsewhere in it. */
function placingWords(was: Side | null, is: Side | null): { before: string; after: string } {
  if (!was || !is)
    return { before: was ? 'in it' : 'not in it', after: is ? 'in it' : 'taken out' };
  if (was['note'] !== is['note'])
    return {
      before: `note: ${valueWords('', was['note'])}`,
      after: `note: ${valueWords('', is['note'])}`,
    };
  return { before: 'in its place', after: 'put elsewhere in it' };
}

/** Both sides of a step that changed an entry; null of one that did not. */
export function entryWords(before: Side, after: Side): { before: string; after: string } | null {
  if (!('entry' in before) || !('entry' in after)) return null;
  const [was, is] = [before['entry'] as Side | null, after['entry'] as Side | null];
  const [one] = [is ?? was];
  if (one && 'collection' in one) return placingWords(was, is);
  const name = (entry: Side): string =>
    String(entry['name'] ?? entry['label'] ?? entry['state'] ?? '');
  if (!was || !is)
    return { before: was ? name(was) : 'not on the list', after: is ? name(is) : 'off the list' };
  const keys = Object.keys(is).filter(
    (key) => JSON.stringify(was[key]) !== JSON.stringify(is[key]),
  );
  const told = (entry: Side): string =>
    keys.map((key) => `${LABELS[key] ?? key}: ${valueWords(key, entry[key])}`).join(' · ');
  return { before: told(was), after: told(is) };
}
