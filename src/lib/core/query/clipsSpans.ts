import { is, isCondition, replaced, type Query } from './tree';

/** What a wall of footage and sound hangs: clips, their spans, or both. */
export const SHOWS = ['clips', 'spans', 'both'] as const;
export type Shows = (typeof SHOWS)[number];

const CLIPS = ['footage', 'sound'];

const kindAt = ({ where }: Query): number =>
  where.findIndex(
    (node) => isCondition(node) && node.field === 'kind' && node.test === 'is' && !node.not,
  );

/** Which of them a query asks for; null where it asks for other kinds too, or for none. */
export function showsOf(query: Query): Shows | null {
  const node = query.where[kindAt(query)];
  if (!node || !isCondition(node)) return null;
  const kinds = node.values.map(String);
  if (!kinds.every((kind) => kind === 'span' || CLIPS.includes(kind))) return null;
  const hasSpans = kinds.includes('span');
  const hasClips = kinds.some((kind) => kind !== 'span');
  return hasSpans && hasClips ? 'both' : hasSpans ? 'spans' : 'clips';
}

/** The same query for others of them; which clips were asked for stays. */
export function showing(query: Query, shows: Shows): Query {
  const at = kindAt(query);
  const node = query.where[at];
  if (!node || !isCondition(node)) return query;
  const asked = node.values.map(String).filter((kind) => CLIPS.includes(kind));
  const clips = asked.length > 0 ? asked : CLIPS;
  const kinds = shows === 'spans' ? ['span'] : shows === 'both' ? [...clips, 'span'] : clips;
  return replaced(query, at, is('kind', ...kinds));
}
