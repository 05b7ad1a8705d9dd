/** How near names are to what somebody typed, and where what is searched for hits. */

/** Lower case, without accents. */
export const folded = (text: string): string =>
  text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();

/** Fewer letters than this must be typed as they are. */
const LEAST_LETTERS = 4;
const MOST_LETTERS = 40;
const mistakes = (letters: number): number =>
  letters < LEAST_LETTERS || letters > MOST_LETTERS ? 0 : letters < 8 ? 1 : 2;

/**
 * Mistakes in typing the beginning of a text: letters left out, added, changed, or two swapped (Damerau–Levenshtein,
 * optimal string alignment), least over all lengths of the beginning; more than `most` is told as `most + 1`.
 */
function mistypes(typed: string, text: string, most: number): number {
  const width = Math.min(text.length, typed.length + most);
  let before: number[] = [];
  let row = Array.from({ length: width + 1 }, (_, at) => at);
  for (let i = 1; i <= typed.length; i += 1) {
    const next = [i];
    let least = i;
    for (let j = 1; j <= width; j += 1) {
      const same = typed[i - 1] === text[j - 1] ? 0 : 1;
      let value = Math.min(next[j - 1]! + 1, row[j]! + 1, row[j - 1]! + same);
      if (i > 1 && j > 1 && typed[i - 1] === text[j - 2] && typed[i - 2] === text[j - 1])
        value = Math.min(value, before[j - 2]! + 1);
      next.push(value);
      if (value < least) least = value;
    }
    if (least > most) return most + 1;
    [before, row] = [row, next];
  }
  return Math.min(most + 1, ...row);
}

/** `same`, `begins`, `word` (one of its words begins so), `holds`, `typo`. */
export const CLOSENESS = ['same', 'begins', 'word', 'holds', 'typo'] as const;
export type Closeness = (typeof CLOSENESS)[number];

const isStart = (text: string, at: number): boolean =>
  at === 0 || !/[\p{L}\p{N}]/u.test(text[at - 1]!);

/** How near a name is to what was typed, both folded; null where it is not, typing mistakes left aside. */
export function nearness(name: string, typed: string): Exclude<Closeness, 'typo'> | null {
  const at = name.indexOf(typed);
  if (at < 0) return null;
  if (at === 0) return name.length === typed.length ? 'same' : 'begins';
  for (let one = at; one >= 0; one = name.indexOf(typed, one + 1))
    if (isStart(name, one)) return 'word';
  return 'holds';
}

/** With how few mistakes one of a name's words begins as was typed; null where that is too many. Both folded. */
export function mistakesIn(name: string, typed: string): number | null {
  const most = mistakes(typed.length);
  let least = most + 1;
  if (most === 0) return null;
  for (let at = 0; at < name.length; at += 1)
    // Who types the first letter wrongly types the second rightly.
    if (
      isStart(name, at) &&
      (name[at] === typed[0] || name[at + 1] === typed[1] || name[at] === typed[1])
    )
      least = Math.min(least, mistypes(typed, name.slice(at, at + typed.length + most), most));
  return least > most ? null : least;
}
export const isMistyped = (name: string, typed: string): boolean =>
  mistakesIn(name, typed) !== null;

/** A part of a text, and whether it is what was searched for. */
export interface Part {
  text: string;
  hit: boolean;
}

/** Folding keeps the place of letters only where it keeps their number: each is folded on its own. */
const letters = (text: string): string[] => [...text].map((one) => folded(one));

/** Mark the beginnings of words that were searched for. @param words folded */
export function hitsIn(text: string, words: readonly string[]): Part[] {
  if (words.length === 0 || text === '') return [{ text, hit: false }];
  const all = [...text];
  const plain = letters(text);
  const marks = new Array<boolean>(all.length).fill(false);
  const isLetter = (at: number): boolean => at >= 0 && /[\p{L}\p{N}]/u.test(plain[at] ?? '');
  for (let at = 0; at < all.length; at += 1) {
    if (isLetter(at - 1) || !isLetter(at)) continue;
    for (const word of words) {
      let [to, held] = [at, ''];
      while (to < all.length && held.length < word.length) held += plain[to++];
      if (held === word) marks.fill(true, at, to);
    }
  }
  const parts: Part[] = [];
  all.forEach((letter, at) => {
    const last = parts.at(-1);
    if (last && last.hit === marks[at]) last.text += letter;
    else parts.push({ text: letter, hit: marks[at]! });
  });
  return parts;
}
