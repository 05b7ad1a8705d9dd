import { ALL_FIELDS, knownField } from '../fields/registry';
import { COLUMN_FIELDS } from '../register/columns';
import { DATE_FORMAT, formatChoice } from './grammar';
import type { Change, Alternative, DateWord, Piece, PlainWord, Source } from './piece';
import type { ClashRule, LineFilter } from './rename';

/** Pieces as people read them on chips and choose them from lists. */
export const DATE_LABELS: Record<DateWord, string> = {
  taken: 'taken',
  brought: 'brought in',
  changed: 'file changed',
  today: 'today',
};
export const WORD_LABELS: Record<PlainWord, string> = {
  name: 'present name',
  original: 'original name',
  extension: 'extension',
  place: 'place',
  hash: 'content hash',
};

const lower = (label: string): string =>
  /^[A-Z]{2}/.test(label) ? label : label[0]!.toLowerCase() + label.slice(1);

/** What a source is called. */
export function sourceLabel(source: Source): string {
  switch (source.of) {
    case 'date':
      return DATE_LABELS[source.date];
    case 'counter':
      return 'counter';
    case 'word':
      return WORD_LABELS[source.word];
    case 'folder':
      return 'folder';
    case 'term':
      return 'term under';
    case 'field':
      return lower(knownField(source.key).label);
    case 'text':
      return 'text';
  }
}

/** What a chip says of one way to fill it. */
export function choiceWords({ source, changes }: Alternative): string {
  const text = formatChoice({ source, changes });
  const [first = ''] = /^[a-zA-Z]+/.exec(text) ?? [];
  return source.of === 'text' ? text : sourceLabel(source) + text.slice(first.length);
}
export const pieceWords = (piece: Piece): string =>
  'text' in piece ? piece.text : piece.choices.map(choiceWords).join(', else ');

/** A source that can be chosen, by a key of its own. */
interface SourceChoice {
  key: string;
  label: string;
  make: () => Source;
}
const date = (word: DateWord): SourceChoice => ({
  key: word,
  label: DATE_LABELS[word],
  make: () => ({ of: 'date', date: word, format: DATE_FORMAT, zone: null }),
});
const word = (key: PlainWord): SourceChoice => ({
  key,
  label: WORD_LABELS[key],
  make: () => ({ of: 'word', word: key }),
});
const field = (key: string): SourceChoice => ({
  key: `field ${key}`,
  label: knownField(key).label,
  make: () => ({ of: 'field', key }),
});
const counter: SourceChoice = {
  key: 'counter',
  label: 'counter',
  make: () => ({
    of: 'counter',
    start: 1,
    width: 3,
    step: 1,
    numerals: 'digits',
    scope: 'all',
    named: null,
  }),
};
const text: SourceChoice = { key: 'text', label: 'text', make: () => ({ of: 'text', text: '' }) };

/** Fields whose own words mean something else in a pattern. */
const OTHERWISE = ['taken', 'brought', 'name', 'originalName', 'folder', 'terms', 'burst'];
const isField = (part: string) => (key: string) =>
  ALL_FIELDS.some((one) => one.key === key && one.part === part) && !OTHERWISE.includes(key);
const fieldKeys = COLUMN_FIELDS.map(({ key }) => key);

/** Everything a piece can be filled from, in groups. */
export const SOURCE_GROUPS: readonly { label: string; choices: SourceChoice[] }[] = [
  {
    label: 'Dates',
    choices: ['taken', 'brought', 'changed', 'today'].map((one) => date(one as DateWord)),
  },
  { label: 'Counting', choices: [counter] },
  {
    label: 'The file',
    choices: [
      ...(['name', 'original', 'extension', 'place', 'hash'] as const).map(word),
      { key: 'folder', label: 'folder', make: () => ({ of: 'folder', level: -1 }) },
      ...['number', 'accession'].map(field),
    ],
  },
  {
    label: 'The record',
    choices: [
      { key: 'term', label: 'term under …', make: () => ({ of: 'term', under: 'A term' }) },
      ...['terms', ...fieldKeys.filter(isField('record'))].map(field),
    ],
  },
  { label: 'How it was made', choices: fieldKeys.filter(isField('technical')).map(field) },
  {
    label: 'The archive',
    choices: fieldKeys
      .filter(isField('archive'))
      .filter((key) => !['number', 'accession'].includes(key))
      .map(field),
  },
  { label: 'Else', choices: [text] },
];
/** What an intake knows before files are brought in. */
export const INTAKE_GROUPS: typeof SOURCE_GROUPS = [
  { label: 'Dates', choices: [date('taken')] },
  { label: 'Counting', choices: [counter] },
  { label: 'The file', choices: (['name', 'original', 'extension'] as const).map(word) },
  { label: 'The record', choices: ['camera', 'creator', 'title'].map(field) },
  { label: 'Else', choices: [text] },
];

/** Key of a source among the choices. */
export function sourceKey(source: Source): string {
  switch (source.of) {
    case 'date':
      return source.date;
    case 'word':
      return source.word;
    case 'field':
      return `field ${source.key}`;
    default:
      return source.of;
  }
}

/** What can be done to a text, each as it begins. */
export const CHANGE_CHOICES: readonly {
  does: Change['does'];
  label: string;
  make: () => Change;
}[] = [
  { does: 'upper', label: 'in capitals', make: () => ({ does: 'upper' }) },
  { does: 'lower', label: 'in small letters', make: () => ({ does: 'lower' }) },
  { does: 'capitals', label: 'Each Word Large', make: () => ({ does: 'capitals' }) },
  { does: 'trim', label: 'trimmed', make: () => ({ does: 'trim' }) },
  { does: 'ascii', label: 'in plain letters (ASCII)', make: () => ({ does: 'ascii' }) },
  { does: 'first', label: 'first characters', make: () => ({ does: 'first', count: 8 }) },
  { does: 'last', label: 'last characters', make: () => ({ does: 'last', count: 4 }) },
  { does: 'from', label: 'characters from … to', make: () => ({ does: 'from', from: 1, to: 4 }) },
  { does: 'part', label: 'part between', make: () => ({ does: 'part', number: 1, by: '_' }) },
  { does: 'replace', label: 'replace', make: () => ({ does: 'replace', what: '_', with: '-' }) },
  {
    does: 'match',
    label: 'what an expression finds',
    make: () => ({ does: 'match', regex: '\\d+', as: null }),
  },
  {
    does: 'rewrite',
    label: 'rewrite by an expression',
    make: () => ({ does: 'rewrite', regex: '_+', as: ' ' }),
  },
];

export const CLASH_WORDS: Record<ClashRule, string> = {
  refuse: 'say so and wait',
  number: 'put -2, -3 … behind',
  letter: 'put a, b … behind',
  leave: 'leave the later one as it is',
};
export const FILTER_WORDS: Record<LineFilter, string> = {
  all: 'all',
  changed: 'changed',
  unchanged: 'unchanged',
  settled: 'settled',
  empty: 'empty',
  clashing: 'clashing',
  long: 'too long',
  reserved: 'refused by some systems',
  far: 'long paths',
};
