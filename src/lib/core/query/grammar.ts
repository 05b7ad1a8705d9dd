import { parseNumber } from '../catalogue/number';
import { ArchiveError } from '../errors';
import { KINDS, type Kind } from '../kinds/kinds';
import { takenFromText } from '../records/taken';
import { DEFAULT_ORDER, LACKABLE, ORDERS, type Lackable, type OrderKey, type Query } from './tree';

/**
 * The compact form of a query: clauses joined by semicolons, each a word and its values,
 * `kind photo, footage; in "Studio shelf/Wind Week"; taken 2026-09; rated 3..; order name`.
 * Grammar: docs/query.md.
 */
const unclear = (sentence: string): ArchiveError => new ArchiveError('query-unclear', sentence);

interface Token {
  text: string;
  quoted: boolean;
}
type Symbol = ';' | ',';

function* tokens(text: string): Generator<Token | Symbol> {
  const pattern = /\s*(?:([;,])|"((?:[^"]|"")*)"|([^\s;,"]+))/gy;
  while (pattern.lastIndex < text.trimEnd().length) {
    const at = pattern.lastIndex;
    const match = pattern.exec(text);
    if (!match) throw unclear(`“${text.slice(at).trim()}” has a quotation mark that is not closed`);
    if (match[1]) yield match[1] as Symbol;
    else if (match[2] !== undefined) yield { text: match[2].replaceAll('""', '"'), quoted: true };
    else yield { text: match[3]!, quoted: false };
  }
}

interface Clause {
  word: string;
  /** Comma-separated values, each of one or more tokens. */
  values: Token[][];
}

/** Nobody says more in one sentence; a program that does is told so. */
export const LONGEST_QUERY = 20_000;
const MOST_CLAUSES = 40;
const MOST_VALUES = 100;
const LONGEST_VALUE = 1000;
const MOST_WORDS = 20;

/** @throws ArchiveError query-unclear where a query is larger than any sentence */
function checkBounds(found: Clause[]): void {
  if (found.length > MOST_CLAUSES)
    throw unclear(`The query has more than ${MOST_CLAUSES} clauses; ask in parts`);
  for (const { word, values } of found) {
    if (values.length > MOST_VALUES)
      throw unclear(`“${shortened(word)}” takes ${MOST_VALUES} values at most; ask in parts`);
    if (values.some((value) => joined(value).length > LONGEST_VALUE))
      throw unclear(`A value of “${shortened(word)}” is longer than ${LONGEST_VALUE} characters`);
  }
}

const shortened = (text: string): string => (text.length > 60 ? `${text.slice(0, 60)}…` : text);

function clauses(text: string): Clause[] {
  if (text.length > LONGEST_QUERY)
    throw unclear(`The query is longer than ${LONGEST_QUERY} characters; ask in parts`);
  const found: Clause[] = [];
  let current: Clause | null = null;
  for (const token of tokens(text)) {
    if (token === ';') current = null;
    else if (token === ',') current?.values.push([]);
    else if (current) current.values.at(-1)!.push(token);
    else {
      current = { word: token.text.toLowerCase(), values: [[]] };
      found.push(current);
    }
  }
  checkBounds(found);
  return found;
}

const joined = (value: Token[]): string => value.map((token) => token.text).join(' ');
const all = (clause: Clause): string[] => clause.values.map(joined).filter((value) => value !== '');

function oneOf<T extends string>(clause: Clause, known: readonly T[]): T[] {
  return all(clause).map((value) => {
    const match = known.find((candidate) => candidate === value.toLowerCase());
    if (!match) throw unclear(`“${clause.word} ${value}”: there are ${known.join(', ')}`);
    return match;
  });
}

function single(clause: Clause): string {
  const values = all(clause);
  if (values.length !== 1) throw unclear(`“${clause.word}” takes one value`);
  return values[0]!;
}

function parseFolder(clause: Clause): NonNullable<Query['folder']> {
  const value = [...clause.values[0]!];
  if (clause.values.length !== 1 || value.length === 0)
    throw unclear('“in” takes one place or folder');
  const last = value.at(-1)!;
  const only = value.length > 1 && !last.quoted && last.text === 'only';
  const path = joined(only ? value.slice(0, -1) : value).replace(/\/+$/, '');
  const slash = path.indexOf('/');
  return slash < 0
    ? { place: path, path: '', deep: !only }
    : { place: path.slice(0, slash), path: path.slice(slash + 1), deep: !only };
}

function parseRated(clause: Clause): NonNullable<Query['rated']> {
  const value = single(clause)
    .replace(/rejected/g, '-1')
    .replace(/none/g, '0');
  const match = /^(-?\d)?(\.\.)?(-?\d)?$/.exec(value);
  const low = match?.[1];
  const high = match?.[2] ? match[3] : low;
  if (
    !match ||
    value === '' ||
    (!match[2] && match[3]) ||
    (low === undefined && high === undefined)
  )
    throw unclear(
      `“rated ${single(clause)}”: write rated 3, rated 3.., rated 1..4, rated rejected`,
    );
  const min = Number(low ?? -1);
  const max = Number(high ?? 5);
  if (min < -1 || max > 5 || min > max) throw unclear(`“rated ${value}” lies outside rejected..5`);
  return { min, max };
}

function parseTaken(clause: Clause): string {
  const value = single(clause);
  if (value !== 'unknown' && !takenFromText(value))
    throw unclear(
      `“taken ${value}” is no date; write 2026, 2026-09, 2026-09-12 or 2026-09-01/2026-09-12`,
    );
  return value;
}

function parseOrder(clause: Clause): Query['order'] {
  const [by = '', direction] = joined(clause.values[0]!).toLowerCase().split(' ');
  if (!ORDERS.includes(by as OrderKey) || (direction && direction !== 'down' && direction !== 'up'))
    throw unclear(
      `“order ${joined(clause.values[0]!)}”: there are ${ORDERS.join(', ')}, with up or down`,
    );
  return { by: by as OrderKey, down: direction === 'down' };
}

function apply(query: Query, clause: Clause): void {
  switch (clause.word) {
    case 'kind':
      query.kinds = oneOf<Kind>(clause, KINDS);
      return;
    case 'in':
      query.folder = parseFolder(clause);
      return;
    case 'taken':
      query.taken = parseTaken(clause);
      return;
    case 'rated':
      query.rated = parseRated(clause);
      return;
    case 'stage':
      query.stages = clause.values
        .filter((value) => value.length > 0)
        .map((value) =>
          value.length === 1 && !value[0]!.quoted && value[0]!.text === 'none' ? '' : joined(value),
        );
      return;
    case 'term':
      query.terms = all(clause);
      return;
    case 'lacking':
      query.lacking = oneOf<Lackable>(clause, LACKABLE);
      return;
    case 'words':
      query.words = all(clause).join(' ');
      if (query.words.split(/\s+/).length > MOST_WORDS)
        throw unclear(`“words” takes ${MOST_WORDS} words at most`);
      return;
    case 'accession':
      query.accession = single(clause);
      return;
    case 'number': {
      const number = single(clause);
      if (!parseNumber(number))
        throw unclear(`“${number}” is no catalogue number like 2026.014.0237`);
      query.number = number;
      return;
    }
    case 'collection':
      query.collection = single(clause);
      return;
    case 'order':
      query.order = parseOrder(clause);
      return;
    default:
      throw unclear(
        `“${shortened(clause.word)}” begins no clause; there are kind, in, taken, rated, stage, term, lacking, words, accession, number, collection and order`,
      );
  }
}

/**
 * Read the compact form. Empty text asks for everything.
 * @throws ArchiveError query-unclear, naming the clause
 */
export function parseQuery(text: string): Query {
  const query: Query = { order: DEFAULT_ORDER };
  for (const clause of clauses(text)) apply(query, clause);
  // A clause without a value asks for nothing.
  const asked = Object.entries(query).filter(
    ([, value]) => !(hasLength(value) && value.length === 0),
  );
  return Object.fromEntries(asked) as Query;
}

const hasLength = (value: unknown): value is string | unknown[] =>
  typeof value === 'string' || Array.isArray(value);

const PLAIN_WORD = /^[^\s;,"]+$/;
const quote = (value: string, plain = false): string =>
  plain && PLAIN_WORD.test(value) && value !== 'none' ? value : `"${value.replaceAll('"', '""')}"`;

function formatRated({ min, max }: NonNullable<Query['rated']>): string {
  const side = (value: number): string => (value === -1 ? 'rejected' : String(value));
  if (min === max) return side(min);
  return `${side(min)}..${max === 5 ? '' : side(max)}`;
}

/** Write the compact form; `parseQuery` reads it back to the same query. */
export function formatQuery(query: Query): string {
  const parts: string[] = [];
  const { folder, order } = query;
  if (query.kinds?.length) parts.push(`kind ${query.kinds.join(', ')}`);
  if (folder) {
    const path = folder.path ? `${folder.place}/${folder.path}` : folder.place;
    parts.push(`in ${quote(path)}${folder.deep ? '' : ' only'}`);
  }
  if (query.taken) parts.push(`taken ${query.taken}`);
  if (query.rated) parts.push(`rated ${formatRated(query.rated)}`);
  if (query.stages?.length)
    parts.push(
      `stage ${query.stages.map((stage) => (stage === '' ? 'none' : quote(stage, true))).join(', ')}`,
    );
  if (query.terms?.length)
    parts.push(`term ${query.terms.map((term) => quote(term, true)).join(', ')}`);
  if (query.lacking?.length) parts.push(`lacking ${query.lacking.join(', ')}`);
  if (query.words) parts.push(`words ${quote(query.words)}`);
  if (query.accession) parts.push(`accession ${quote(query.accession, true)}`);
  if (query.number) parts.push(`number ${query.number}`);
  if (query.collection) parts.push(`collection ${quote(query.collection, true)}`);
  if (order.by !== DEFAULT_ORDER.by || order.down !== DEFAULT_ORDER.down)
    parts.push(`order ${order.by}${order.down ? ' down' : ''}`);
  return parts.join('; ');
}
