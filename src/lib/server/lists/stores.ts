import type { Entries, ListKey } from '#core/entries/registry';
import { marks } from './stores/access';
import { bursts } from './stores/bursts';
import { collections, placings } from './stores/collections';
import { contributors, patterns, plans, sequences, spots, stages, stamps } from './stores/plain';
import { rooms } from './stores/rooms';
import { houseRules, termRules } from './stores/rules';
import { spans } from './stores/spans';
import type { Store } from './stores/store';
import { terms } from './stores/terms';

/** Where each kind of entry is kept. */
const STORES: { [L in ListKey]: Store<Entries[L]> } = {
  stage: stages,
  term: terms,
  contributor: contributors,
  stamp: stamps,
  spot: spots,
  access: marks,
  collection: collections,
  placing: placings,
  room: rooms,
  burst: bursts,
  span: spans,
  sequence: sequences,
  pattern: patterns,
  plan: plans,
  rule: houseRules,
  termRules,
};
export const storeOf = <L extends ListKey>(list: L): Store<Entries[L]> => STORES[list];
