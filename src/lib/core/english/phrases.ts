import { ALL_FIELDS, hasWords, lacksWords, leadOf } from '../fields/registry';
import { KIND_WORDS, KINDS } from '../kinds/kinds';
import { MONTHS } from '../text/dateWords';
import { has, is, LAST_UNITS, not, type Node } from '../query/tree';
import { nounOf, NUMBERS, ratedWords } from '../query/words';
import { lower, tokensOf, type Sequence } from './tokens';

type Phrase = { words: Sequence; node: () => Node };
const phrase = (words: string, node: () => Node): Phrase => ({ words: tokensOf(words), node });

/** Phrases that say one thing whatever stands around them. */
function fixedPhrases(): Phrase[] {
  const found = ALL_FIELDS.flatMap((field) => {
    if (field.type === 'words') return [];
    const bare = nounOf(field);
    const short = bare.split(' ')[0]!;
    return [
      phrase(hasWords(field), () => has(field.key)),
      phrase(lacksWords(field), () => not(has(field.key))),
      phrase(`without ${bare}`, () => not(has(field.key))),
      phrase(`no ${bare}`, () => not(has(field.key))),
      ...(field.part === 'record' && !field.languagesOf && short !== bare && short.length > 3
        ? [phrase(`without ${short}`, () => not(has(field.key)))]
        : []),
    ];
  });
  for (let min = -1; min <= 5; min += 1)
    for (let max = min; max <= 5; max += 1) {
      const node = (): Node =>
        min === max
          ? is('rating', min)
          : {
              field: 'rating',
              test: 'range',
              values: [min === -1 && max < 5 ? null : min, max === 5 ? null : max],
            };
      const words = ratedWords(min, max);
      found.push(phrase(words, node));
      const digits = words.replace(/one|two|three|four|five/g, (name) =>
        String(NUMBERS.indexOf(name)),
      );
      if (digits !== words) found.push(phrase(digits, node));
    }
  found.push(
    phrase('at an unknown time', () => not(has('taken'))),
    phrase('undated', () => not(has('taken'))),
    phrase('uncredited', () => not(has('creditLine'))),
    phrase('unrated', () => is('rating', 0)),
  );
  return found;
}

/** Phrases by their first word, the longest first. */
function byFirst<P extends { words: Sequence }>(phrases: P[]): ReadonlyMap<string, P[]> {
  const found = new Map<string, P[]>();
  for (const one of [...phrases].sort((a, b) => b.words.length - a.words.length)) {
    const first = one.words[0]!.lower;
    found.set(first, [...(found.get(first) ?? []), one]);
  }
  return found;
}
export const FIXED = byFirst(fixedPhrases());
export const LEADS = byFirst(
  ALL_FIELDS.filter(({ type }) => type !== 'yes-no').flatMap((field) => [
    { field, words: tokensOf(leadOf(field)) },
    ...(leadOf(field) === nounOf(field) ? [] : [{ field, words: tokensOf(nounOf(field)) }]),
  ]),
);

/** Words sentences are made of, for those who mistype one. */
export const SENTENCE_WORDS: readonly string[] = [
  ...new Set(
    [
      ...[...FIXED.values(), ...LEADS.values()].flat().flatMap(({ words }) => words.map(lower)),
      ...MONTHS,
      ...KINDS.flatMap((kind) => KIND_WORDS[kind].split(' ')),
      ...LAST_UNITS,
    ].filter((word) => /^\p{L}{4,}$/u.test(word)),
  ),
];
