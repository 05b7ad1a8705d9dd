import { asksForSpans, conditionsOf, type Query } from '../query/tree';

/** What open windows are told: what changed, so that each asks only for what it shows. */
export type LiveMessage =
  | {
      about: 'items';
      /** Ids; empty: many. */
      ids: string[];
      /** Keys of the registry's fields whose values changed; empty: anything, also whether they are held at all. */
      fields: string[];
      /** The operation of the ledger that changed them; null: none. */
      operation: string | null;
    }
  /** The index has taken in what changed of these items: counts are other ones from now on. Empty: of many. */
  | { about: 'counted'; ids: string[] }
  | { about: 'job'; id: string; state: JobState }
  | { about: 'scan'; id: string }
  | { about: 'collections' | 'rooms' | 'lists' | 'places' }
  /** What happened meanwhile was missed: ask for everything anew. */
  | { about: 'again' };
export type JobState = 'waiting' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled';
export type ItemsMessage = Extract<LiveMessage, { about: 'items' }>;

/** Fields that follow from what is described. */
export const FROM_RECORD = ['unready', 'words', 'writing'];
/** Where files lie is counted in every window, whatever it asks for. */
const ALWAYS = new Set(['folder', 'file', 'access']);
/** What is found in a standing collection may hang on any field but these. */
const APART = new Set(['writing', 'picture', 'bytes']);

/** Whether what a query finds, counts or orders may be another result once values of these fields changed. */
export function dependsOn({ where, order, group }: Query, fields: readonly string[]): boolean {
  if (fields.length === 0 || fields.some((key) => ALWAYS.has(key))) return true;
  const asked = new Set([...conditionsOf(where)].map(({ field }) => field as string));
  if (asksForSpans(where)) asked.add('span');
  asked.add(order.by);
  if (group) asked.add(group);
  const isAny = asked.has('collection') && fields.some((key) => !APART.has(key));
  return isAny || fields.some((key) => asked.has(key));
}

/** Whether a message tells of one of these items, or of many. */
export const isAboutAny = ({ ids }: { ids: string[] }, own: Iterable<string>): boolean => {
  if (ids.length === 0) return true;
  const told = new Set(ids);
  for (const id of own) if (told.has(id)) return true;
  return false;
};
