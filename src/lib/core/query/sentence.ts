import { KIND_WORDS } from '../kinds/kinds';
import { listed } from '../text/quantities';
import type { ClauseField, Lackable, OrderKey, Query } from './tree';

/** A run of the sentence: plain words, or words that open the choices of a clause. */
export interface Run {
  text: string;
  opens?: ClauseField | 'order';
}

const NUMBERS = ['no', 'one', 'two', 'three', 'four', 'five'];

export const LACK_WORDS: Record<Lackable, string> = {
  title: 'without a title',
  caption: 'without a caption',
  creator: 'without a creator',
  credit: 'not yet credited',
  copyright: 'without a copyright notice',
  terms: 'without terms',
  date: 'without a date',
  place: 'without a position',
};

export const ORDER_WORDS: Record<OrderKey, string> = {
  taken: 'time taken',
  name: 'name',
  rating: 'rating',
  brought: 'time brought in',
  size: 'size',
  title: 'title',
  hand: 'hand',
};

/** `three pips or more`, `rejected`, `one to four pips`. */
export function ratedWords({ min, max }: NonNullable<Query['rated']>): string {
  const pips = (value: number): string => `${NUMBERS[value]} ${value === 1 ? 'pip' : 'pips'}`;
  if (min === max) return min === -1 ? 'rejected' : min === 0 ? 'not rated' : pips(min);
  if (max === 5)
    return min === -1 ? 'any rating' : min === 0 ? 'not rejected' : `${pips(min)} or more`;
  if (min === -1) return max === 0 ? 'not rated or rejected' : `${pips(max)} at most`;
  return min === 0 ? `${pips(max)} at most, not rejected` : `${NUMBERS[min]} to ${pips(max)}`;
}

function dateWords(text: string): string {
  const match = /^(\d{4})(?:-(\d\d))?(?:-(\d\d))?$/.exec(text);
  if (!match) return text;
  const [, year, month, day] = match;
  const date = new Date(Date.UTC(Number(year), Number(month ?? 1) - 1, Number(day ?? 1)));
  return new Intl.DateTimeFormat('en-GB', {
    year: 'numeric',
    ...(month ? { month: 'long' } : {}),
    ...(day ? { day: 'numeric' } : {}),
    timeZone: 'UTC',
  }).format(date);
}

/** `in September 2026`, `on 12 September 2026`, `from … to …`, `at an unknown time`. */
export function takenWords(edtf: string): string {
  if (edtf === 'unknown') return 'at an unknown time';
  const [from, to] = edtf.split('/');
  if (to) return `from ${dateWords(from!)} to ${dateWords(to)}`;
  return `${/^\d{4}-\d\d-\d\d/.test(edtf) ? 'on' : 'in'} ${dateWords(edtf)}`;
}

/** `Wind Week, all levels` */
export function folderWords({ place, path, deep }: NonNullable<Query['folder']>): string {
  const name = path === '' ? place : path.slice(path.lastIndexOf('/') + 1);
  return `${name}, ${deep ? 'all levels' : 'this level'}`;
}

/** The sentence of a query: plain and opening runs, without the count that stands before it. */
export function sentence(query: Query): Run[] {
  const runs: Run[] = [];
  const say = (text: string, opens?: Run['opens']): void => {
    runs.push(opens ? { text, opens } : { text });
  };
  const { kinds, folder, rated, stages, terms, lacking } = query;
  say(
    kinds?.length ? listed(kinds.map((kind) => KIND_WORDS[kind])) : 'items of every kind',
    'kinds',
  );
  say(' in ');
  say(folder ? folderWords(folder) : 'all holdings', 'folder');
  const clause = (before: string, text: string, opens: ClauseField): void => {
    say(`, ${before}`);
    say(text, opens);
  };
  if (query.taken) clause('taken ', takenWords(query.taken), 'taken');
  if (rated) clause('', ratedWords(rated), 'rated');
  if (stages?.length)
    clause(
      'stage ',
      listed(
        stages.map((stage) => stage || 'none yet'),
        'or',
      ),
      'stages',
    );
  if (terms?.length) clause('about ', listed(terms), 'terms');
  if (lacking?.length) clause('', listed(lacking.map((field) => LACK_WORDS[field])), 'lacking');
  if (query.words) clause('saying ', `“${query.words}”`, 'words');
  if (query.accession) clause('from accession ', query.accession, 'accession');
  if (query.number) clause('numbered ', query.number, 'number');
  if (query.collection) clause('collected in ', query.collection, 'collection');
  say(', ordered by ');
  const direction =
    query.order.by === 'taken' || query.order.by === 'brought' ? 'latest first' : 'downwards';
  say(`${ORDER_WORDS[query.order.by]}${query.order.down ? `, ${direction}` : ''}`, 'order');
  return runs;
}
