import { parseNumber } from '../catalogue/number';
import { colourFrom } from '../colour/palette';
import type { Field } from '../fields/field';
import { ALL_FIELDS, fieldOf } from '../fields/registry';
import { TESTS, TYPES, type ByType, type Test } from '../fields/types';
import {
  checkQuery,
  DEFAULT_ORDER,
  groupNode,
  groupOf,
  GROUPS,
  has,
  idOfRef,
  is,
  isCondition,
  LONGEST_QUERY,
  not,
  shortened,
  unclear,
  type Condition,
  type Node,
  type Query,
} from './tree';

/**
 * The compact form of a query: clauses joined by semicolons, each a field, perhaps a test, and values parted by
 * commas, `kind photo, footage; in "Studio shelf/Wind Week"; any (rated 4..; term Kite)`. Grammar: docs/query.md.
 */
interface Word {
  text: string;
  quoted: boolean;
}
type Token = Word | ';' | ',' | '(' | ')';
const isWord = (token: Token | undefined): token is Word => typeof token === 'object';
const isBare = (token: Token | undefined, text: string): boolean =>
  isWord(token) && !token.quoted && token.text.toLowerCase() === text;

/** Brackets count after the word of a group only, and close only what they opened: names may hold them. */
function tokens(text: string): Token[] {
  const found: Token[] = [];
  const pattern = /\s*(?:([;,])|"((?:[^"]|"")*)"|([^\s;,"]+))/gy;
  let open = 0;
  while (pattern.lastIndex < text.trimEnd().length) {
    const at = pattern.lastIndex;
    const match = pattern.exec(text);
    if (!match)
      throw unclear(
        `“${shortened(text.slice(at).trim())}” has a quotation mark that is not closed`,
      );
    const [, symbol, quoted, bare] = match;
    if (symbol) found.push(symbol as ';' | ',');
    else if (quoted !== undefined) found.push({ text: quoted.replaceAll('""', '"'), quoted: true });
    else {
      let word = bare!;
      const before = /^(all|any|none|spans)\(/i.exec(word);
      if (before && startsClause(found)) {
        found.push({ text: before[1]!, quoted: false }, '(');
        open += 1;
        word = word.slice(before[0].length);
      }
      while (word.startsWith('(') && opensGroup(found)) {
        found.push('(');
        open += 1;
        word = word.slice(1);
      }
      let closing = 0;
      while (open > closing && word.endsWith(')')) {
        word = word.slice(0, -1);
        closing += 1;
      }
      if (word) found.push({ text: word, quoted: false });
      for (; closing > 0; closing -= 1, open -= 1) found.push(')');
    }
  }
  return found;
}
const startsClause = (found: Token[]): boolean => {
  const last = found.at(-1);
  return last === undefined || last === ';' || last === '(' || isBare(last, 'not');
};
const opensGroup = (found: Token[]): boolean =>
  GROUPS.some((word) => isBare(found.at(-1), word)) && startsClause(found.slice(0, -1));

/** Words of the compact form that are not the key of their field. */
const ALIASES: Record<string, string> = {
  in: 'folder',
  rated: 'rating',
  term: 'terms',
  size: 'bytes',
  credit: 'creditLine',
  copyright: 'copyrightNotice',
  date: 'taken',
  place: 'position',
};
const WORD_OF: Record<string, string> = { folder: 'in', rating: 'rated', terms: 'term' };
const BY_LOWER = new Map(ALL_FIELDS.map((field) => [field.key.toLowerCase(), field]));
const fieldNamed = (word: string): Field | undefined =>
  fieldOf(ALIASES[word.toLowerCase()] ?? '') ?? BY_LOWER.get(word.toLowerCase());

const joined = (words: Word[]): string => words.map(({ text }) => text).join(' ');

class Reader {
  #at = 0;
  order = DEFAULT_ORDER;
  group: string | undefined;

  constructor(readonly all: Token[]) {}

  /** Clauses up to the end, or to the bracket that closes them. */
  clauses(inGroup: boolean): Node[] {
    const nodes: Node[] = [];
    for (;;) {
      while (this.all[this.#at] === ';' || this.all[this.#at] === ',') this.#at += 1;
      const token = this.all[this.#at];
      if (token === undefined || token === ')') {
        if (inGroup !== (token === ')'))
          throw unclear(inGroup ? 'A bracket is not closed' : 'A bracket closes nothing');
        this.#at += 1;
        return nodes;
      }
      nodes.push(...this.clause(inGroup));
    }
  }

  clause(inGroup: boolean): Node[] {
    const word = this.word();
    const group = GROUPS.find((name) => !word.quoted && name === word.text.toLowerCase());
    if (group && this.all[this.#at] === '(') {
      this.#at += 1;
      const nodes = this.clauses(true);
      if (nodes.length === 0 && group !== 'spans') return [];
      return (group === 'all' || group === 'any') && nodes.length === 1
        ? nodes
        : [groupNode(group, nodes)];
    }
    if (isBare(word, 'not')) {
      const nodes = this.clause(inGroup);
      if (nodes.length !== 1) return nodes.length === 0 ? [] : [{ none: [{ all: nodes }] }];
      const [node] = nodes;
      if (!isCondition(node!)) return [{ none: [node!] }];
      const { not: negated, ...plain } = node;
      return [negated ? plain : not(plain)];
    }
    const values = this.values();
    if (isBare(word, 'spans') && values.length === 0) return [{ spans: [] }];
    // A clause without a value asks for nothing.
    if (values.length === 0) return [];
    const name = word.text.toLowerCase();
    if (name === 'order' || name === 'group') {
      if (inGroup) throw unclear(`“${name}” stands outside of groups`);
      this.say(name, values[0]!);
      return [];
    }
    return conditionsFrom(word.text, values);
  }

  say(name: 'order' | 'group', value: Word[]): void {
    const [key = '', direction = '', ...rest] = value.map(({ text }) => text);
    const by = key.toLowerCase() === 'hand' ? 'hand' : (fieldNamed(key)?.key ?? key);
    if (name === 'group') this.group = by;
    else {
      if (!['', 'up', 'down'].includes(direction.toLowerCase()) || rest.length > 0)
        throw unclear(`“order ${shortened(joined(value))}”: after the field comes up or down`);
      this.order = { by, down: direction.toLowerCase() === 'down' };
    }
  }

  word(): Word {
    const token = this.all[this.#at];
    if (!isWord(token)) throw unclear(`“${String(token)}” stands where a clause begins`);
    this.#at += 1;
    return token;
  }

  /** Values parted by commas, each of one or more words. */
  values(): Word[][] {
    const values: Word[][] = [[]];
    for (;;) {
      const token = this.all[this.#at];
      if (token === undefined || token === ';' || token === ')') break;
      this.#at += 1;
      if (token === ',') values.push([]);
      else if (token === '(') throw unclear('A bracket stands within a value; put it in quotes');
      else values.at(-1)!.push(token);
    }
    return values.filter((value) => value.length > 0 && joined(value) !== '');
  }
}

/** The conditions one clause makes; lists of terms, and of what is lacking, mean all of them. */
function conditionsFrom(word: string, values: Word[][]): Node[] {
  const name = word.toLowerCase();
  if (name === 'lacking' || name === 'has')
    return values.map((value) => {
      const field = fieldNamed(joined(value));
      if (!field) throw unclear(`“${name} ${shortened(joined(value))}”: that is no field`);
      return name === 'has' ? has(field.key) : not(has(field.key));
    });
  const field = fieldNamed(word);
  if (!field)
    throw unclear(
      `“${shortened(word)}” begins no clause; try kind, in, taken, rated, stage, term, lacking, words, or another field of docs/query.md`,
    );
  const [first] = values[0]!;
  const said = TESTS.find((test) => isBare(first, test));
  const test = said && TYPES[field.type].tests.includes(said) ? said : null;
  const rest = test ? [values[0]!.slice(1), ...values.slice(1)] : values;
  return conditionOf(
    field,
    test,
    rest.filter((value) => value.length > 0),
  );
}

const textsOf = (values: Word[][]): string[] => [...new Set(values.map(joined))];
const numberOf = (field: Field, text: string): number => {
  const plain = field.key === 'rating' ? { rejected: -1, none: 0 }[text.toLowerCase()] : undefined;
  if (plain !== undefined) return plain;
  const number = Number(text);
  if (text === '' || !Number.isFinite(number))
    throw unclear(`“${field.key} ${shortened(text)}”: write a number, or 3.. or 1..4`);
  return number;
};

/** How the values behind a field are read; `test` is null where none was said. */
type Reading = (field: Field, test: Test | null, values: Word[][]) => Node[];

const asked = ({ key }: Field, test: Test, ...values: Condition['values']): Node[] => [
  { field: key, test, values },
];
const texts: Reading = (field, test, values) => {
  if (field.key === 'number' && (test ?? 'is') === 'is')
    for (const text of textsOf(values))
      if (!parseNumber(text))
        throw unclear(`“${shortened(text)}” is no catalogue number like 2026.014.0237`);
  return asked(field, test ?? TYPES[field.type].tests[0]!, ...textsOf(values));
};

const READINGS: ByType<Reading> = {
  text: texts,
  'long-text': texts,
  names: texts,
  'yes-no': texts,
  languages: texts,
  number: (field, _, values) => [numbers(field, textsOf(values))],
  date(field, test, values) {
    if (test === 'last') {
      const [count, unit = 'days'] = joined(values[0]!).split(' ');
      return asked(field, 'last', Number(count), unit.endsWith('s') ? unit : `${unit}s`);
    }
    if (joined(values[0]!) === 'unknown') return [not(has(field.key))];
    return asked(field, test ?? 'within', ...textsOf(values));
  },
  folder(field, test, values) {
    const lists = values.map(folderValue);
    const { only } = lists[0]!;
    if (lists.some((list) => list.only !== only))
      throw unclear('“in” takes folders of one way: all with “only”, or none');
    return asked(field, only || test === 'only' ? 'only' : 'in', ...lists.map(({ path }) => path));
  },
  position: (field, test, values) =>
    asked(field, test ?? 'near', ...values.map((value) => Number(joined(value)))),
  colour: (field, _, values) =>
    asked(field, 'near', ...textsOf(values).map((text) => colourFrom(text) ?? text)),
  words: (field, _, values) => asked(field, 'says', values.map(joined).join(' ')),
  ref: (field, _, values) => refs(field, values),
  enum: (field, _, values) =>
    asked(field, 'is', ...textsOf(values).map((text) => enumKey(field, text))),
};

function conditionOf(field: Field, test: Test | null, values: Word[][]): Node[] {
  if (values.length === 0 && test !== 'has')
    throw unclear(`“${field.key} ${test ?? ''}” takes a value`);
  return READINGS[field.type](field, test, values);
}

function numbers(field: Field, texts: string[]): Condition {
  const match = texts.length === 1 ? /^(.*?)\.\.(.*)$/.exec(texts[0]!) : null;
  if (!match) return is(field.key, ...texts.map((text) => numberOf(field, text)));
  const side = (text = ''): number | null => (text.trim() === '' ? null : numberOf(field, text));
  return { field: field.key, test: 'range', values: [side(match[1]), side(match[2])] };
}

function folderValue(words: Word[]): { path: string; only: boolean } {
  const last = words.at(-1)!;
  const only = words.length > 1 && !last.quoted && last.text.toLowerCase() === 'only';
  const path = joined(only ? words.slice(0, -1) : words).replace(/\/+$/, '');
  if (path === '') throw unclear('“in” takes a place or a folder');
  return { path, only };
}

/** A bare `none` is the lack of any. Terms one after the other all hold; `any` makes them alternatives. */
function refs(field: Field, values: Word[][]): Node[] {
  const any = field.of === 'term' && values[0]!.length > 1 && isBare(values[0]![0], 'any');
  const list = any ? [values[0]!.slice(1), ...values.slice(1)] : values;
  const lacks = list.some((value) => value.length === 1 && isBare(value[0], 'none'));
  const named = textsOf(list.filter((value) => !(value.length === 1 && isBare(value[0], 'none'))));
  const nodes: Node[] =
    field.of === 'term' && !any
      ? named.map((label) => is(field.key, label))
      : named.length > 0
        ? [is(field.key, ...named)]
        : [];
  if (!lacks) return nodes;
  const none = not(has(field.key));
  return nodes.length === 0 ? [none] : [{ any: [...nodes, none] }];
}

function enumKey(field: Field, text: string): string {
  const wished = text.toLowerCase();
  const found = field.values!.find(
    ({ key, label }) =>
      key.toLowerCase() === wished ||
      key.split('/').at(-1)!.toLowerCase() === wished ||
      label.toLowerCase() === wished,
  );
  if (!found)
    throw unclear(
      `“${field.key} ${shortened(text)}”: there are ${field.values!.map(({ key }) => key.split('/').at(-1)).join(', ')}`,
    );
  return found.key;
}

/**
 * Read the compact form. Empty text asks for everything. Labels of references stay as they were typed.
 * @throws ArchiveError query-unclear, naming the clause
 */
export function parseQuery(text: string): Query {
  if (text.length > LONGEST_QUERY)
    throw unclear(`The query is longer than ${LONGEST_QUERY} characters; ask in parts`);
  const reader = new Reader(tokens(text));
  const where = reader.clauses(false);
  return checkQuery({
    where,
    order: reader.order,
    ...(reader.group === undefined ? {} : { group: reader.group }),
  });
}

const PLAIN = /^[^\s;,"()]+$/;
const RESERVED = new Set<string>([...TESTS, ...GROUPS, 'not', 'only', 'unknown']);
const quote = (text: string): string =>
  PLAIN.test(text) && !RESERVED.has(text.toLowerCase()) && !text.includes('..')
    ? text
    : `"${text.replaceAll('"', '""')}"`;

function valueText(field: Field, value: string | number | null): string {
  if (typeof value === 'number')
    return field.key === 'rating' && value === -1 ? 'rejected' : String(value);
  if (value === null) return '';
  if (field.type === 'enum') return value.split('/').at(-1)!;
  return idOfRef(value) ? value : quote(value);
}

/** How the values of a test are written behind the word of their field. */
type Writing = (values: string[], field: Field) => string;

const listed: Writing = (values) => values.join(', ');
const behind =
  (test: Test): Writing =>
  (values) =>
    `${test} ${values.join(', ')}`;
/** Of long texts the first test is another one. */
const unlessLong =
  (test: Test, isLong: boolean): Writing =>
  (values, { type }) =>
    `${(type === 'long-text') === isLong ? `${test} ` : ''}${values.join(', ')}`;

const WRITINGS: Record<Exclude<Test, 'has'>, Writing> = {
  is: (values, field) =>
    `${field.of === 'term' && values.length > 1 ? 'any ' : ''}${unlessLong('is', true)(values, field)}`,
  contains: unlessLong('contains', false),
  begins: behind('begins'),
  range: (values) => values.join('..'),
  within: listed,
  before: behind('before'),
  after: behind('after'),
  overlaps: behind('overlaps'),
  last: ([count, unit]) => `last ${count} ${unit}`,
  each: behind('each'),
  in: listed,
  only: (values) => values.map((value) => `${value} only`).join(', '),
  near: behind('near'),
  box: behind('box'),
  says: listed,
};

function formatCondition({ field: key, test, values, not: isNot }: Condition): string {
  const field = fieldOf(key)!;
  if (test === 'has') return `${isNot ? 'lacking' : 'has'} ${key}`;
  const written = values.map((value) => valueText(field, value));
  const said = `${WORD_OF[key] ?? key} ${WRITINGS[test](written, field)}`;
  return isNot ? `not ${said}` : said;
}

function formatNode(node: Node): string {
  if (isCondition(node)) return formatCondition(node);
  const [word, nodes] = groupOf(node);
  if (nodes.length === 0 && word === 'spans') return word;
  return `${word} (${nodes.map(formatNode).join('; ')})`;
}

/** Write the compact form; `parseQuery` reads it back to the same query. */
export function formatQuery({ where, order, group }: Query): string {
  const parts = where.map(formatNode);
  if (order.by !== DEFAULT_ORDER.by || order.down !== DEFAULT_ORDER.down)
    parts.push(`order ${order.by}${order.down ? ' down' : ''}`);
  if (group !== undefined) parts.push(`group ${group}`);
  return parts.join('; ');
}
