import { isMistyped, folded } from '../text/close';
import { dictionaryOf, possibleNames, type Named } from './dictionary';
import { SENTENCE_WORDS } from './phrases';
import { readSentence, type Understood } from './read';
import { formatQuery } from '../query/grammar';

/** What a text may mean as a sentence, each way it may be read, and what its unread words may have been meant to be. */
export interface Readings {
  /** The first is how it is read when nothing speaks against it. */
  ways: Understood[];
  /** Runs of words that were not read, with the word of sentences one of them was meant to be, if any. */
  runs: { words: string; meant: string | null }[];
}

/** Ways in which one text is read. */
const MOST_WAYS = 6;
/** Words nobody understood that are looked at again. */
const MOST_UNREAD = 4;
const LONGEST_RUN = 3;
/** Shorter words may mean anything: they are told, not guessed. */
const LEAST_LETTERS = 4;
const MOST_LETTERS = 40;

/** Words that follow each other in a text, the longest runs first: `box kitez`, then `box`, `kitez`. */
function runsOf(words: readonly string[], text: string): string[] {
  const runs: string[] = [];
  for (let length = Math.min(LONGEST_RUN, words.length); length > 0; length -= 1)
    for (let from = 0; from + length <= words.length; from += 1) {
      const run = words.slice(from, from + length).join(' ');
      if (run.length >= LEAST_LETTERS && run.length <= MOST_LETTERS && text.includes(run))
        runs.push(run);
    }
  return runs;
}

const wordMeant = (run: string): string | null =>
  SENTENCE_WORDS.find(
    (one) => one.length >= run.length - 1 && isMistyped(folded(one), folded(run)),
  ) ?? null;

/** What a run of words may have been meant to be, quoted where it is a name. */
export interface Guess {
  typed: string;
  meant: string;
}

/**
 * Put in the place of unread words what they may have been meant to be, each where less is left unread with it.
 * @param names everything the text and the guesses may name
 */
export function guessedIn(
  text: string,
  guesses: readonly Guess[],
  names: readonly Named[],
  today: string,
): { text: string; guessed: Guess[] } {
  const dictionary = dictionaryOf(names);
  let [best, unread] = [text, readSentence(text, dictionary, today).unread.length];
  const guessed: Guess[] = [];
  for (const guess of guesses) {
    if (!best.includes(guess.typed)) continue;
    const next = best.replace(guess.typed, () => guess.meant);
    const left = readSentence(next, dictionary, today).unread.length;
    if (left >= unread) continue;
    [best, unread] = [next, left];
    guessed.push(guess);
  }
  return { text: best, guessed };
}

/**
 * Read a text in every way in which its names may be meant: “night kites” may be a folder, a term and a collection.
 * @param names everything the text may name
 * @param today `2026-11-25`
 */
export function readingsOf(text: string, names: readonly Named[], today: string): Readings {
  const first = readSentence(text, dictionaryOf(names), today);
  const ways = [first];
  const seen = new Set([formatQuery(first.query)]);
  const possible = new Set(possibleNames(text));
  const all = new Map<string, Named[]>();
  for (const one of names) {
    const key = one.label.toLowerCase();
    if (possible.has(key)) all.set(key, [...(all.get(key) ?? []), one]);
  }
  for (const several of all.values())
    for (const meant of several.slice(1)) {
      if (ways.length >= MOST_WAYS) break;
      const way = readSentence(text, dictionaryOf([meant, ...names]), today);
      const clause = formatQuery(way.query);
      if (!seen.has(clause) && way.unread.length <= first.unread.length) ways.push(way);
      seen.add(clause);
    }
  const runs = runsOf(first.unread.slice(0, MOST_UNREAD), text);
  return { ways, runs: runs.map((words) => ({ words, meant: wordMeant(words) })) };
}
