import type { ContributorEntry } from '../lists/entries';
import type { RecordValues } from '../records/fields';

/** What a contributor is, or was, called in records. */
export const spellingsOf = (before: ContributorEntry | null, after: ContributorEntry): string[] => [
  ...new Set([...(before ? [before.name, ...before.also] : []), after.name, ...after.also]),
];

const DEFAULTS = ['creditLine', 'copyrightNotice', 'usageTerms'] as const;

/**
 * The values of a record that follow where a contributor is called or credited otherwise: every spelling of the name becomes the
 * name; a credit, notice or terms that said the old default say the new one. What was written by hand otherwise stays.
 */
export function corrected(
  values: RecordValues,
  before: ContributorEntry | null,
  after: ContributorEntry,
): Partial<RecordValues> {
  const spellings = new Set(spellingsOf(before, after));
  const creator = [
    ...new Set(values.creator.map((name) => (spellings.has(name) ? after.name : name))),
  ];
  const told: Partial<RecordValues> = { creator };
  for (const key of DEFAULTS)
    if (before?.[key] && after[key] && before[key] !== after[key] && values[key] === before[key])
      told[key] = after[key];
  return told;
}
