import { colourFrom } from '../colour/palette';
import type { Field } from '../fields/field';
import type { RefKind } from '../fields/refs';
import { ALL_FIELDS } from '../fields/registry';
import type { ByType } from '../fields/types';
import { KIND_WORDS, KINDS, type Kind } from '../kinds/kinds';
import { ORDERS_BY_WORDS } from '../query/sentence';
import {
  checkQuery,
  DEEPEST,
  DEFAULT_ORDER,
  groupNode,
  idOfRef,
  is,
  isCondition,
  LONGEST_QUERY,
  not,
  refTo,
  unclear,
  type Condition,
  type Node,
  type Query,
} from '../query/tree';
import { enumWords, nounOf, PARTING } from '../query/words';
import { Cursor } from './cursor';
import type { Dictionary, Named } from './dictionary';
import { FIXED, LEADS } from './phrases';
import { lower, tokensOf, type Sequence } from './tokens';
import { readNumber, readPlace, readTime } from './values';

/** What was made of a text; `unread` are the words nobody understood. */
export interface Understood {
  query: Query;
  unread: string[];
}

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

class Reader extends Cursor {
  /** Groups and negations within each other. */
  depth = 0;
  readonly unread: string[] = [];
  order = DEFAULT_ORDER;
  group: string | undefined;

  constructor(
    tokens: Sequence,
    readonly find: Dictionary,
    readonly today: string,
  ) {
    super(tokens);
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
      readPlace(this) ??
      this.led() ??
      this.attempt(() => readTime(this, 'taken', this.today)) ??
      this.named()
    );
  }

  /** `with spans`, `with spans (… and also …)`, `without spans of four pips or more`. */
  spans(): Node | null {
    return this.attempt(() => {
      const lacks = this.takes('without', 'spans');
      if (!lacks && !this.takes('with', 'spans')) return null;
      const nodes: Node[] = [];
      if (this.takes('(')) {
        do {
          const node = this.member();
          if (!node) return null;
          nodes.push(node);
        } while (this.takes('and', 'also'));
        if (!this.takes(')')) return null;
      } else {
        const one = this.attempt(() =>
          this.takes('of') || this.takes('that', 'are') || this.takes('with')
            ? this.item(false)
            : null,
        );
        if (one) nodes.push(one);
      }
      return lacks ? { none: [{ spans: nodes }] } : { spans: nodes };
    });
  }

  grouped(): Node | null {
    const spans = this.spans();
    if (spans) return spans;
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
    if (field.type !== 'enum' && this.takes('containing')) return this.texts(field, 'contains');
    if (field.type !== 'enum' && this.takes('beginning')) return this.texts(field, 'begins');
    return SAID[field.type](this, field);
  }

  texts(field: Field, test: Condition['test']): Node | null {
    const values = this.values(() => this.text());
    return values.length > 0 ? { field: field.key, test, values } : null;
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
}

/** What is said of a field behind its own words. */
type Said = (reader: Reader, field: Field) => Node | null;
const texts: Said = (reader, field) => reader.texts(field, 'is');

const SAID: ByType<Said> = {
  text: texts,
  'long-text': texts,
  names: texts,
  'yes-no': texts,
  languages: texts,
  number: readNumber,
  date: (reader, { key }) => readTime(reader, key, reader.today),
  // Said by kilometres or degrees, without words of the field.
  position: () => null,
  colour(reader, { key }) {
    const values = reader.values(
      () => reader.longest((name) => colourFrom(name) ?? undefined) ?? null,
    );
    return values.length > 0 ? { field: key, test: 'near', values } : null;
  },
  words(reader) {
    const text = reader.text();
    return text === null ? null : { field: 'words', test: 'says', values: [text] };
  },
  folder(reader) {
    const values = reader.values(() => reader.reference('folder', true));
    if (values.length === 0) return null;
    const only = reader.attempt(() => {
      if (reader.word() === ',') reader.at += 1;
      if (reader.takes('this', 'level')) return 'only';
      return reader.takes('all', 'levels') ? 'in' : null;
    });
    return { field: 'folder', test: only === 'only' ? 'only' : 'in', values };
  },
  enum(reader, field) {
    const meant = (name: string): string | undefined =>
      field.values!.find(({ key }) => enumWords(field, key).toLowerCase() === name)?.key;
    const values = reader.values(() => reader.longest(meant) ?? null);
    return values.length > 0 ? is(field.key, ...values) : null;
  },
  ref(reader, { key, of }) {
    const values = reader.values(() => reader.reference(of!, true));
    return values.length > 0 ? is(key, ...values) : null;
  },
};

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
