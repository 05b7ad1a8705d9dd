import type { Role } from '../people/roles';

/**
 * Who may see what: an item has one state of access, the strictest that anything says of it: its place, a folder above
 * it, its accession, a hand-picked collection it lies in, or the item itself. From the mildest to the strictest.
 */
export const ACCESS = ['open', 'dormant', 'restricted', 'waiting', 'closed'] as const;
export type Access = (typeof ACCESS)[number];

export const ACCESS_LABELS: Record<Access, string> = {
  open: 'open',
  dormant: 'dormant',
  restricted: 'restricted',
  waiting: 'waiting for review',
  closed: 'closed',
};

/** `list`: that it is there and what is said of it; `show`: its picture; `play`: what moves, sounds, or is read closely; `take`: its file. */
export const PURPOSES = ['list', 'show', 'play', 'take'] as const;
export type Purpose = (typeof PURPOSES)[number];

/** Whom the table speaks of: people by their role, and guests of a reading room. */
export type Looker = Role | 'guest';

const TEAM: readonly Looker[] = ['keeper', 'contributor', 'teammate', 'rights-desk'];
const ALL: readonly Looker[] = [...TEAM, 'guest'];
const DESK: readonly Looker[] = ['keeper', 'rights-desk'];
const KEEPER: readonly Looker[] = ['keeper'];
const same = (who: readonly Looker[]): Record<Purpose, readonly Looker[]> => ({
  ...{ list: who, show: who, play: who, take: who },
});

/** The one table. Whoever brought a waiting item in sees it besides, for every purpose. */
export const MAY: Record<Access, Record<Purpose, readonly Looker[]>> = {
  open: same(ALL),
  // Out of the way, not hidden: who asks for it by name finds it.
  dormant: same(TEAM),
  restricted: { list: TEAM, show: TEAM, play: DESK, take: DESK },
  waiting: { list: DESK, show: DESK, play: KEEPER, take: KEEPER },
  closed: same(KEEPER),
};

/** What may say how an item is seen, and in which words it is told. */
export const SUBJECTS = ['place', 'folder', 'accession', 'collection', 'item'] as const;
export type Subject = (typeof SUBJECTS)[number];

/** What one of them says. */
export interface Said {
  subject: Subject;
  /** What it is called. */
  name: string;
  state: Access;
  note: string;
}

const strictness = (state: Access): number => ACCESS.indexOf(state);

/** The strictest of some states; of none: open. */
export const strictest = (states: readonly Access[]): Access =>
  states.reduce((most, one) => (strictness(one) > strictness(most) ? one : most), 'open');

const told = ({ subject, name, note }: Said): string =>
  `${subject === 'item' ? 'the item itself' : `the ${subject} “${name}”`}${note ? ` (${note})` : ''}`;

/** Why an item is seen as it is, as a sentence. */
export function accessInWords(all: readonly Said[]): string {
  const state = strictest(all.map((one) => one.state));
  const deciding = all.filter((one) => one.state === state);
  if (deciding.length === 0) return 'It is open: nothing says otherwise.';
  const others = all.filter((one) => one.state !== state);
  const also = others.map((one) => `${told(one)} says ${ACCESS_LABELS[one.state]}`);
  return `It is ${ACCESS_LABELS[state]}, as ${deciding.map(told).join(' and ')} ${deciding.length > 1 ? 'say' : 'says'}${
    also.length > 0 ? `; ${also.join(', ')}, which is milder` : ''
  }.`;
}
