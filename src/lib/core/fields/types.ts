import type { FieldType } from './field';

/** What a condition may ask of a field. */
export const TESTS = [
  'is',
  'contains',
  'begins',
  'range',
  'within',
  'before',
  'after',
  'overlaps',
  'last',
  'each',
  'in',
  'only',
  'near',
  'box',
  'has',
  'says',
] as const;
export type Test = (typeof TESTS)[number];

/**
 * What a type of fields gives to all that have it. Whoever does something of their own for each type keeps a table by
 * type beside it: the compiler asks for every one, so that a new type is forgotten nowhere.
 */
export interface TypeTraits {
  /** What can be asked of it, the usual first. */
  tests: readonly Test[];
  /** What one value of a record is made of. */
  shape: 'text' | 'number' | 'languages';
  /** What is counted where a value is chosen. */
  choices: 'values' | 'times' | 'folders' | 'colours' | 'none';
  /** How its values are written where they stand below each other: words, or figures. */
  face: 'words' | 'figures';
}

/** Something for each type of fields. */
export type ByType<T> = Readonly<Record<FieldType, T>>;

const plain = { shape: 'text', choices: 'values', face: 'words' } as const;
const texts = ['is', 'contains', 'begins', 'has'] as const;

export const TYPES: ByType<TypeTraits> = {
  text: { ...plain, tests: texts },
  'long-text': { ...plain, tests: ['contains', 'begins', 'is', 'has'], choices: 'none' },
  names: { ...plain, tests: texts },
  number: { ...plain, tests: ['range', 'is', 'has'], shape: 'number', face: 'figures' },
  enum: { ...plain, tests: ['is', 'has'] },
  'yes-no': { ...plain, tests: ['has'], choices: 'none' },
  date: {
    ...plain,
    tests: ['within', 'before', 'after', 'overlaps', 'last', 'each', 'has'],
    choices: 'times',
  },
  ref: { ...plain, tests: ['is', 'has'] },
  folder: { ...plain, tests: ['in', 'only'], choices: 'folders' },
  position: { ...plain, tests: ['near', 'box', 'has'], choices: 'none', face: 'figures' },
  languages: { ...plain, tests: ['has'], shape: 'languages', choices: 'none' },
  colour: { ...plain, tests: ['near', 'has'], choices: 'colours' },
  words: { ...plain, tests: ['says'], choices: 'none' },
};
