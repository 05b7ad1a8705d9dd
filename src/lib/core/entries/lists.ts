import type {
  AccessEntry,
  ContributorEntry,
  SpotEntry,
  StageEntry,
  StampEntry,
  TermEntry,
} from '../lists/entries';
import type { EntryKind } from './kind';

/** The lists an archive keeps for itself. */
const list = { deed: 'lists', about: ['lists'] } as const;
const name = (entry: { name: string }): string => entry.name;

export const stage: EntryKind<StageEntry> = { ...list, name, said: name };
export const term: EntryKind<TermEntry> = {
  ...list,
  name: ({ label }) => label,
  said: ({ label, labels, broader }) => [label, labels, broader],
};
export const contributor: EntryKind<ContributorEntry> = { ...list, name };
export const stamp: EntryKind<StampEntry> = { ...list, name };
export const spot: EntryKind<SpotEntry> = { ...list, name };
export const access: EntryKind<AccessEntry> = {
  ...list,
  about: ['lists', 'items'],
  fields: ['access'],
  name: ({ subject }) => `Access of a ${subject}`,
  words: (was, is) =>
    was && is && was.state === is.state
      ? { before: `note: ${was.note || 'nothing'}`, after: `note: ${is.note || 'nothing'}` }
      : { before: was?.state ?? 'open', after: is?.state ?? 'open' },
};
