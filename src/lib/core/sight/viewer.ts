import type { Role } from '../people/roles';
import { conditionsOf, is, refTo, type Node, type Query } from '../query/tree';
import { ACCESS, MAY, type Access, type Purpose } from '../access/access';

/** Who looks: every read of what is held takes one. `house` is the archive's own work, which sees all. */
export interface Viewer {
  role: Role | 'guest' | 'house';
  /** The person, where it is one. */
  id?: string;
  /** Of a guest: the collection that hangs in the room. */
  room?: string;
  /** What a token may do; absent or null: all that its person may. */
  scopes?: readonly string[] | null;
}
export const HOUSE: Viewer = { role: 'house' };

/** What of all items somebody may see: items in these states, those waiting that they brought themselves, in one room. */
export interface Sight {
  states: readonly Access[];
  /** Person whose waiting items are seen as well. */
  own: string | null;
  /** Id of a collection; null: wherever they lie. */
  room: string | null;
}

/** Whether a token lets files out. */
const gives = ({ scopes }: Viewer, purpose: Purpose): boolean =>
  purpose !== 'take' || !scopes || scopes.includes('original');

/** @returns null where all is seen */
export function sightOf(viewer: Viewer, purpose: Purpose): Sight | null {
  const { role, id, room } = viewer;
  if (role === 'house') return null;
  const states = gives(viewer, purpose)
    ? ACCESS.filter((state) => MAY[state][purpose].includes(role))
    : [];
  const own = id && states.length > 0 && !states.includes('waiting') ? id : null;
  if (states.length === ACCESS.length && !room) return null;
  return { states, own, room: room ?? null };
}

/** Dormant items leave the way: they are listed where a sentence asks for access. */
const asksForAccess = ({ where }: Query): boolean =>
  [...conditionsOf(where)].some(({ field }) => field === 'access');

/** What somebody is listed of what a query finds. @returns null where all is */
export function sightOfQuery(viewer: Viewer, query: Query): Sight | null {
  const sight = sightOf(viewer, 'list');
  if (viewer.role === 'house' || asksForAccess(query)) return sight;
  const { states, own, room } = sight ?? { states: ACCESS, own: null, room: null };
  return { states: states.filter((state) => state !== 'dormant'), own, room };
}

/**
 * The same as conditions of a query.
 * @param present states that any item is in; null: unknown
 * @returns none where all items are seen
 */
export function nodesOfSight(sight: Sight | null, present: readonly string[] | null): Node[] {
  if (!sight) return [];
  const { states, own, room } = sight;
  const nodes: Node[] = room === null ? [] : [is('collection', refTo(room))];
  if (present?.every((one) => states.includes(one as Access))) return nodes;
  const listed: Node = { field: 'access', test: 'is', values: [...states] };
  const theirs: Node = { all: [is('access', 'waiting'), is('broughtBy', refTo(own ?? ''))] };
  return [...nodes, own === null ? listed : { any: [listed, theirs] }];
}
