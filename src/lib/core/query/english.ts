import { colourFrom } from '../colour/palette';
import type { Field } from '../fields/field';
import type { RefKind } from '../fields/refs';
import { ALL_FIELDS, hasWords, lacksWords, leadOf } from '../fields/registry';
import { KIND_WORDS, KINDS, type Kind } from '../kinds/kinds';
import { takenFromText } from '../records/taken';
import { ORDERS_BY_WORDS } from './sentence';
import {
  checkQuery,
  DEEPEST,
  DEFAULT_ORDER,
  groupNode,
  has,
  idOfRef,
  is,
  isCondition,
  LAST_UNITS,
  LONGEST_QUERY,
  not,
  refTo,
  unclear,
  type Condition,
  type Node,
  type Query,
} from './tree';
import { MONTHS } from '../text/dateWords';
import { enumWords, nounOf, NUMBERS, PARTING, ratedWords, unitWords } from './words';

/** Something the archive knows by a name. */
export interface Named {
  kind: RefKind | 'creator';
  id: string;
  label: string;
}
/** Names by their lower-case text. */
export type Dictionary = (name: string) => readonly Named[];

/** What was made of a text; `unread` are the words nobody understood. */
export interface Understood {
  query: Query;
  unread: string[];
}

interface Token {
  text: string;
  /** In lower case; empty where it was quoted. */
  lower: string;
  quoted: boolean;
}
type Sequence = Token[];

/** Words of a text; quotes hold together, commas and brackets stand alone. */
export function tokensOf(text: string): Sequence {
  const found: Sequence = [];
  for (const match of text.matchAll(/“((?:[^”]|””)*)”|"([^"]*)"|([,()])|([^\s,()“"]+)/g)) {
    const [, curly, straight, symbol, word] = match;
    const inQuotes = curly?.replaceAll('””', '”') ?? straight;
    const bare = symbol ?? word?.replace(/(?<=\p{L})[.?!]$/u, '') ?? '';
    found.push(
      inQuotes === undefined
        ? { text: bare, lower: bare.toLowerCase(), quoted: false }
        : { text: inQuotes, lower: '', quoted: true },
    );
  }
  return found;
}

const lower = (token: Token): string => token.lower;
/** More words than any name has that is looked up. */
export const LONGEST_NAME = 6;

/** Letters of a date, at most. */
const LONGEST_DATE = 60;

/** What the archive knows by name, to be asked. */
export function dictionaryOf(names: readonly Named[]): Dictionary {
  const found = new Map<string, Named[]>();
  for (const one of names) {
    const key = one.label.toLowerCase();
    const own = found.get(key);
    if (own) own.push(one);
    else found.set(key, [one]);
  }
  return (name) => found.get(name) ?? [];
}

/** Every run of words a text may name something with; for looking all up at once. */
export function possibleNames(text: string): string[] {
  const tokens = tokensOf(text.slice(0, LONGEST_QUERY));
  const names = new Set<string>();
  tokens.forEach((token, from) => {
    if (token.quoted) return void names.add(token.text.toLowerCase());
    for (let to = from + 1; to <= Math.min(tokens.length, from + LONGEST_NAME); to += 1) {
      const part = tokens.slice(from, to);
      if (part.some(({ text: word, quoted }) => quoted || /^[,()]$/.test(word))) break;
      const name = part.map(lower).join(' ');
      names.add(name);
      if (name.endsWith('s')) names.add(name.slice(0, -1));
    }
  });
  return [...names];
}

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
const FIXED = byFirst(fixedPhrases());
const LEADS = byFirst(
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

const FILLING = new Set([
  'and',
  'that',
  'are',
  'is',
  'which',
  'were',
  'the',
  'a',
  'an',
  'with',
  'from',
  'of',
  'in',
  'at',
  'all',
  'items',
  'pictures',
  ',',
]);

class Reader {
  at = 0;
  /** Groups and negations within each other. */
  depth = 0;
  readonly unread: string[] = [];
  order = DEFAULT_ORDER;
  group: string | undefined;

  constructor(
    readonly tokens: Sequence,
    readonly find: Dictionary,
    readonly today: string,
  ) {}

  get done(): boolean {
    return this.at >= this.tokens.length;
  }
  word(step = 0): string {
    const token = this.tokens[this.at + step];
    return token ? lower(token) : '';
  }
  /** Step over words if they stand here. */
  takes(...words: string[]): boolean {
    if (!words.every((wished, step) => this.word(step) === wished)) return false;
    this.at += words.length;
    return true;
  }
  matches(words: Sequence): boolean {
    return words.every(({ lower: wished }, step) => this.word(step) === wished);
  }
  /** What a try finds, or stays where it was. */
  attempt<T>(run: () => T | null): T | null {
    const at = this.at;
    const found = run();
    if (found === null) this.at = at;
    return found;
  }

  all(): Node[] {
    const nodes: Node[] = [];
    if (/^\d[\d,.]*$/.test(this.word()) && this.kinds(1) !== null) this.at += 1;
    while (!this.done) {
      if (this.tokens[this.at]!.quoted === false && this.ordering()) continue;
      const node = this.item(true);
      if (node) nodes.push(...(Array.isArray(node) ? node : [node]));
      else {
        const token = this.tokens[this.at]!;
        if (token.quoted || !FILLING.has(lower(token))) this.unread.push(token.text);
        this.at += 1;
      }
    }
    return nodes;
  }

  ordering(): boolean {
    return (
      this.attempt(() => {
        if (this.takes('ordered', 'by')) {
          const by = this.longest((name) => ORDERS_BY_WORDS.get(name));
          if (!by) return null;
          const down = this.attempt(() => {
            if (this.word() === ',') this.at += 1;
            return this.takes('latest', 'first') || this.takes('downwards') ? true : null;
          });
          this.order = { by, down: down ?? false };
          return true;
        }
        if (!this.takes('parted', 'by')) return null;
        if (this.takes('nothing')) this.group = 'none';
        else
          this.group = this.longest(
            (name) => ALL_FIELDS.find((field) => nounOf(field).toLowerCase() === name)?.key,
          );
        return this.group === undefined ? null : true;
      }) ?? false
    );
  }

  /** The longest run of words here that stands for something. */
  longest<T>(means: (name: string) => T | undefined): T | undefined {
    for (let length = LONGEST_NAME; length > 0; length -= 1) {
      const words = Array.from({ length }, (_, step) => this.word(step));
      if (words.includes('') || words.includes(',')) continue;
      const found = means(words.join(' '));
      if (found === undefined) continue;
      this.at += length;
      return found;
    }
    return undefined;
  }

  item(top: boolean): Node | null {
    if (this.depth > DEEPEST * 2) return null;
    this.depth += 1;
    const node = this.itemHere(top);
    this.depth -= 1;
    return node;
  }
  itemHere(top: boolean): Node | null {
    return (
      this.grouped() ??
      // “credited to …” says more than “credited”.
      (this.lengthOf(LEADS) > this.lengthOf(FIXED) ? this.led() : null) ??
      this.fixed() ??
      this.negated() ??
      (top ? this.kinds() : null) ??
      this.near() ??
      this.led() ??
      this.attempt(() => this.time('taken')) ??
      this.named()
    );
  }

  /** How many words the longest of these takes here. */
  lengthOf(phrases: ReadonlyMap<string, { words: Sequence }[]>): number {
    return phrases.get(this.word())?.find(({ words }) => this.matches(words))?.words.length ?? 0;
  }

  grouped(): Node | null {
    return this.attempt(() => {
      const groups = [
        ['any', 'either', ['or', 'else']],
        ['none', 'neither', ['nor']],
        ['all', 'both', ['and', 'also']],
      ] as const;
      const group = groups.find(([, begin]) => this.takes(begin));
      if (!group) return null;
      const [word, , join] = group;
      const nodes: Node[] = [];
      do {
        const node = this.member();
        if (!node) return null;
        nodes.push(node);
      } while (this.takes(...join) || (word === 'any' && this.takes('or')));
      return groupNode(word, nodes);
    });
  }

  member(): Node | null {
    if (!this.takes('(')) return this.item(false);
    const node = this.grouped();
    return node && this.takes(')') ? node : null;
  }

  fixed(): Node | null {
    const found = FIXED.get(this.word())?.find(({ words }) => this.matches(words));
    if (!found) return null;
    this.at += found.words.length;
    const node = found.node();
    if (!isCondition(node) || node.field !== 'rating' || node.test !== 'is') return node;
    // “three pips or four pips” is one condition.
    const more = this.attempt(() => (this.takes('or') ? this.fixed() : null));
    if (!more) return node;
    if (isCondition(more) && more.field === 'rating' && more.test === 'is')
      return is('rating', ...(node.values as number[]), ...(more.values as number[]));
    return node;
  }

  negated(): Node | null {
    return this.attempt(() => {
      if (!this.takes('not') && !this.takes('other', 'than')) return null;
      const node = this.item(false);
      if (!node) return null;
      return isCondition(node) && !node.not ? not(node) : { none: [node] };
    });
  }

  /** The kinds a sentence begins with: `photos and footage`. */
  kinds(skip = 0): Node | null {
    return this.attempt(() => {
      this.at += skip;
      if (this.takes('items', 'of', 'every', 'kind')) {
        this.attempt(() => (this.takes('in', 'all', 'holdings') ? true : null));
        return { all: [] };
      }
      const kinds: Kind[] = [];
      for (;;) {
        const kind = this.longest((name) =>
          KINDS.find((one) => KIND_WORDS[one] === name || one === name),
        );
        if (!kind) break;
        kinds.push(kind);
        if (
          !this.attempt(() =>
            this.takes('and') || this.takes('or') || (this.word() === ',' && this.takes(','))
              ? this.peekKind()
                ? true
                : null
              : null,
          )
        )
          break;
      }
      if (kinds.length === 0) return null;
      this.attempt(() => (this.takes('in', 'all', 'holdings') ? true : null));
      return is('kind', ...kinds);
    });
  }
  peekKind(): boolean {
    const at = this.at;
    const kind = this.longest((name) => KINDS.find((one) => KIND_WORDS[one] === name));
    this.at = at;
    return kind !== undefined;
  }

  /** `within 5 km of 51.2, 1.4`, `between 51, 1 and 52, 2` */
  near(): Node | null {
    return this.attempt(() => {
      if (this.takes('between')) return this.box();
      if (!this.takes('within')) return null;
      const km = this.amount();
      if (km === null || !this.takes('km', 'of')) return null;
      const latitude = this.amount();
      if (this.word() === ',') this.at += 1;
      const longitude = latitude === null ? null : this.amount();
      if (latitude === null || longitude === null) return null;
      return { field: 'position', test: 'near', values: [latitude, longitude, km] };
    });
  }

  box(): Node | null {
    const numbers: number[] = [];
    for (let at = 0; at < 4; at += 1) {
      if (at === 2 ? !this.takes('and') : at > 0 && !this.takes(',')) return null;
      const value = this.amount();
      if (value === null) return null;
      numbers.push(value);
    }
    return { field: 'position', test: 'box', values: numbers };
  }

  /** A field's own words, then what is said of it. */
  led(): Node | null {
    for (const { field, words } of LEADS.get(this.word()) ?? []) {
      if (!this.matches(words)) continue;
      const node = this.attempt(() => {
        this.at += words.length;
        return this.said(field);
      });
      if (node) return node;
    }
    return null;
  }

  said(field: Field): Node | null {
    const strings = (test: Condition['test']): Node | null => {
      const values = this.values(() => this.text());
      return values.length > 0 ? { field: field.key, test, values } : null;
    };
    if (field.type !== 'enum' && this.takes('containing')) return strings('contains');
    if (field.type !== 'enum' && this.takes('beginning')) return strings('begins');
    switch (field.type) {
      case 'number':
        return this.number(field);
      case 'date':
        return this.time(field.key);
      case 'position':
        return null;
      case 'colour': {
        const values = this.values(
          () => this.longest((name) => colourFrom(name) ?? undefined) ?? null,
        );
        return values.length > 0 ? { field: field.key, test: 'near', values } : null;
      }
      case 'words': {
        const text = this.text();
        return text === null ? null : { field: 'words', test: 'says', values: [text] };
      }
      case 'folder': {
        const values = this.values(() => this.reference('folder', true));
        if (values.length === 0) return null;
        const only = this.attempt(() => {
          if (this.word() === ',') this.at += 1;
          if (this.takes('this', 'level')) return 'only';
          return this.takes('all', 'levels') ? 'in' : null;
        });
        return { field: 'folder', test: only === 'only' ? 'only' : 'in', values };
      }
      case 'enum': {
        const values = this.values(
          () =>
            this.longest(
              (name) =>
                field.values!.find(({ key }) => enumWords(field, key).toLowerCase() === name)?.key,
            ) ?? null,
        );
        return values.length > 0 ? is(field.key, ...values) : null;
      }
      case 'ref': {
        const values = this.values(() => this.reference(field.of!, true));
        return values.length > 0 ? is(field.key, ...values) : null;
      }
      default:
        return strings('is');
    }
  }

  /** Values parted by `or`. */
  values(read: () => string | null): string[] {
    const found: string[] = [];
    do {
      const value = this.attempt(read);
      if (value === null) {
        if (found.length > 0) this.at -= 1;
        break;
      }
      found.push(value);
    } while (this.word() !== '' && this.word(1) !== 'else' && this.takes('or'));
    return found;
  }

  /** A quoted text, or bare words up to what parts sentences. */
  text(): string | null {
    const token = this.tokens[this.at];
    if (!token) return null;
    if (token.quoted) {
      this.at += 1;
      return token.text;
    }
    const words: string[] = [];
    while (this.word() !== '' && !PARTING.has(this.word()) && !/^[,()]$/.test(this.word())) {
      words.push(this.tokens[this.at]!.text);
      this.at += 1;
    }
    return words.length > 0 ? words.join(' ') : null;
  }

  reference(kind: RefKind, isLed: boolean): string | null {
    const token = this.tokens[this.at];
    if (!token) return null;
    if (token.quoted) {
      this.at += 1;
      if (idOfRef(token.text)) return token.text;
      const found = this.find(token.text.toLowerCase()).find((one) => one.kind === kind);
      return found ? refTo(found.id) : token.text;
    }
    const known = this.longest((name) => this.lookUp(name, kind));
    if (known) return refTo(known.id);
    return isLed && !/^\d/.test(token.text) && kind !== 'folder' ? this.text() : null;
  }
  lookUp(name: string, kind?: RefKind | 'creator'): Named | undefined {
    const fits = (one: Named): boolean => kind === undefined || one.kind === kind;
    return (
      this.find(name).find(fits) ??
      (name.endsWith('s') ? this.find(name.slice(0, -1)).find(fits) : undefined)
    );
  }

  /** Something the archive knows by this name, said without more. */
  named(): Node | null {
    return this.attempt(() => {
      const token = this.tokens[this.at];
      let found: Named | undefined;
      if (token?.quoted) {
        found = this.lookUp(token.text.toLowerCase());
        this.at += 1;
      } else found = this.longest((name) => (PARTING.has(name) ? undefined : this.lookUp(name)));
      if (!found) return null;
      const reference = refTo(found.id);
      switch (found.kind) {
        case 'folder':
          return { field: 'folder', test: 'in', values: [reference] };
        case 'creator':
          return is('creator', found.label);
        case 'person':
          return is('broughtBy', reference);
        case 'term':
          return is('terms', reference);
        default:
          return is(found.kind, reference);
      }
    });
  }

  amount(): number | null {
    const text = this.word();
    const word = NUMBERS.indexOf(text);
    const value = word > 0 ? word : text === '' ? NaN : Number(text);
    if (!Number.isFinite(value)) return null;
    this.at += 1;
    return value;
  }

  number(field: Field): Node | null {
    const unit = tokensOf(unitWords(field));
    const skipUnit = (): void => {
      if (unit.length > 0 && this.matches(unit)) this.at += unit.length;
    };
    const range = (from: number | null, to: number | null): Node => ({
      field: field.key,
      test: 'range',
      values: [from, to],
    });
    if (this.takes('from')) {
      const from = this.amount();
      skipUnit();
      const to = from !== null && this.takes('to') ? this.amount() : null;
      if (to === null) return null;
      skipUnit();
      return range(from, to);
    }
    const values: number[] = [];
    do {
      const value = this.amount();
      if (value === null) {
        if (values.length > 0) this.at -= 1;
        break;
      }
      values.push(value);
      skipUnit();
    } while (this.word(1) !== 'more' && this.word(1) !== 'else' && this.takes('or'));
    if (values.length === 0) return null;
    if (values.length === 1 && this.takes('or', 'more')) return range(values[0]!, null);
    if (values.length === 1 && this.takes('at', 'most')) return range(null, values[0]!);
    return is(field.key, ...values);
  }

  /** A date in words, as EDTF. Without a year it is the last there was. */
  date(): string | null {
    return this.attempt(() => {
      const token = this.tokens[this.at];
      if (!token) return null;
      const day = /^(\d{1,2})(st|nd|rd|th)?$/.exec(this.word())?.[1];
      const month = (step: number): number =>
        MONTHS.findIndex((name) => name.toLowerCase() === this.word(step));
      const year = (step: number): string | undefined => /^\d{4}$/.exec(this.word(step))?.[0];
      const two = (value: number | string): string => String(value).padStart(2, '0');
      const dayFirst = day !== undefined && month(1) >= 0;
      const at = dayFirst ? 1 : 0;
      const which = month(at);
      if (which >= 0) {
        const said = year(at + 1);
        this.at += at + (said ? 2 : 1);
        const [thisYear, thisMonth] = this.today.split('-').map(Number) as [number, number];
        const meant =
          said ??
          String(which + 1 < thisMonth ? thisYear : thisYear - (which + 1 > thisMonth ? 1 : 0));
        return `${meant}-${two(which + 1)}${dayFirst ? `-${two(day)}` : ''}`;
      }
      // A word without a digit is none; the parser takes its time with each.
      if (!/\d/.test(token.text) || token.text.length > LONGEST_DATE) return null;
      if (!token.quoted && !/^\d{4}|[XY?~%]/.test(token.text)) return null;
      const edtf = takenFromText(token.text);
      if (!edtf) return null;
      this.at += 1;
      const clock = this.tokens[this.at];
      if (clock && /^\d\d:\d\d/.test(clock.text) && /^\d{4}-\d\d-\d\d$/.test(token.text)) {
        this.at += 1;
        return `${token.text} ${clock.text}`;
      }
      return token.text;
    });
  }

  time(field: string): Node | null {
    const make = (test: Condition['test'], ...values: Condition['values']): Node => ({
      field,
      test,
      values,
    });
    const dated = (test: Condition['test']): Node | null => {
      const date = this.date();
      return date === null ? null : make(test, date);
    };
    if (this.takes('each')) {
      const day = /^\d{1,2}$/.test(this.word()) ? this.word() : null;
      if (day) this.at += 1;
      const month = MONTHS.findIndex((name) => name.toLowerCase() === this.word());
      if (month < 0) return null;
      this.at += 1;
      const two = (value: number | string): string => String(value).padStart(2, '0');
      return make('each', day ? `${two(month + 1)}-${two(day)}` : two(month + 1));
    }
    if (this.takes('before')) return dated('before');
    if (this.takes('after') || this.takes('since')) return dated('after');
    if (this.takes('about') || this.takes('around')) return dated('overlaps');
    const last = this.attempt(() => {
      if (!this.takes('in')) this.takes('from');
      this.takes('the');
      if (this.takes('today')) return make('within', this.today);
      if (this.takes('yesterday')) return make('within', shiftedDay(this.today, -1));
      if (this.takes('this', 'year')) return make('within', this.today.slice(0, 4));
      if (this.takes('this', 'month')) return make('within', this.today.slice(0, 7));
      if (!this.takes('last')) return null;
      const count = this.amount();
      const unit = LAST_UNITS.find((one) => one === this.word() || one === `${this.word()}s`);
      if (unit) {
        this.at += 1;
        if (count !== null) return make('last', count, unit);
        if (unit === 'years') return make('within', String(Number(this.today.slice(0, 4)) - 1));
        if (unit === 'months')
          return make('within', shiftedDay(`${this.today.slice(0, 7)}-01`, -1).slice(0, 7));
        return make('last', 1, unit);
      }
      // “last September” is the last one that is over.
      return count === null ? this.lastMonth(make) : null;
    });
    if (last) return last;
    if (this.takes('from')) {
      const from = this.date();
      if (from === null) return null;
      if (!this.takes('to')) return make('within', from);
      const to = this.date();
      return to === null ? null : make('within', `${from}/${to}`);
    }
    if (this.takes('on') || this.takes('in')) return dated('within');
    return dated('within');
  }

  lastMonth(make: (test: Condition['test'], value: string) => Node): Node | null {
    const month = MONTHS.findIndex((name) => name.toLowerCase() === this.word());
    if (month < 0) return null;
    this.at += 1;
    const [year, now] = this.today.split('-').map(Number) as [number, number];
    const meant = month + 1 < now ? year : year - 1;
    return make('within', `${meant}-${String(month + 1).padStart(2, '0')}`);
  }
}

function shiftedDay(day: string, by: number): string {
  const date = new Date(`${day}T00:00:00Z`);
  date.setUTCDate(date.getUTCDate() + by);
  return date.toISOString().slice(0, 10);
}

/**
 * Read English of the sentence's own kind, strict or loose.
 * @param today `2026-11-25`, for “last September”
 * @throws ArchiveError query-unclear where it is longer than any sentence, or says what cannot be asked
 */
export function readSentence(text: string, find: Dictionary, today: string): Understood {
  if (text.length > LONGEST_QUERY)
    throw unclear(`The sentence is longer than ${LONGEST_QUERY} characters`);
  const reader = new Reader(tokensOf(text), find, today);
  const where = reader
    .all()
    .filter((node) => isCondition(node) || !('all' in node) || node.all.length > 0);
  const query = checkQuery({
    where,
    order: reader.order,
    ...(reader.group === undefined ? {} : { group: reader.group }),
  });
  return { query, unread: reader.unread };
}
