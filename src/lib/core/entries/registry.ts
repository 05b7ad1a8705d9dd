import { burst } from './burst';
import { collection, placing } from './collections';
import { pattern, plan } from './kept';
import type { EntryKind } from './kind';
import { access, contributor, spot, stage, stamp, term } from './lists';
import { room } from './room';
import { sequence } from './sequence';
import { span } from './span';
import { rule, termRules } from './rules';

/** Every kind of entry the journal holds. A new one is a module, a line here, and its store on the server. */
export const ENTRIES = {
  stage,
  term,
  contributor,
  stamp,
  spot,
  access,
  collection,
  placing,
  room,
  burst,
  span,
  sequence,
  pattern,
  plan,
  rule,
  termRules,
};
type Kinds = typeof ENTRIES;
export type ListKey = keyof Kinds;
export type Entries = { [L in ListKey]: Kinds[L] extends EntryKind<infer E> ? E : never };

/** A kind of entry, by its key. */
export const kindOf = (list: ListKey): EntryKind<object> => ENTRIES[list] as EntryKind<object>;
