import type { Named } from '#core/english/dictionary';
import { guessedIn, readingsOf, type Guess, type Readings } from '#core/english/readings';

export interface Typed {
  text: string;
  names: Named[];
  today: string;
  /** What its unread words may have been meant to be. */
  guesses: Guess[];
}

/** Runs in a process of its own: what somebody types must not hold up the pages of others. */
export function readTyped({
  text,
  names,
  today,
  guesses,
}: Typed): Promise<Readings & { guessed: Guess[] }> {
  const found = guessedIn(text, guesses, names, today);
  return Promise.resolve({ ...readingsOf(found.text, names, today), guessed: found.guessed });
}
