import { readingsOf, type Readings } from '#core/query/readings';
import type { Named } from '#core/query/english';

/** Runs in a process of its own: what somebody types must not hold up the pages of others. */
export const readTyped = (typed: {
  text: string;
  names: Named[];
  today: string;
}): Promise<Readings> => Promise.resolve(readingsOf(typed.text, typed.names, typed.today));
