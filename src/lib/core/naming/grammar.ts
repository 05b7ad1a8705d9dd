import { IANAZone } from 'luxon';
import { ArchiveError } from '../errors';
import { fieldOf } from '../fields/registry';
import { ldmlFormatter } from '../text/ldml';
import { changer } from './changes';
import {
  DATE_WORDS,
  PLAIN_WORDS,
  SCOPES,
  type Change,
  type Alternative,
  type CounterScope,
  type CounterSource,
  type DateWord,
  type Piece,
  type PlainWord,
  type Source,
} from './piece';

/**
 * The text form of name patterns: text with pieces in braces, `LWW-{taken MMdd}-{counter 0001 by day}`. Within a piece
 * commas part what is done and what is taken instead; strings stand in double quotes, `""` being a quote.
 */
const unclear = (sentence: string): ArchiveError => new ArchiveError('pattern-unclear', sentence);

export const LONGEST_PATTERN = 1000;
export const DATE_FORMAT = 'yyyy-MM-dd';
const MOST_STEP = 100_000;

const quoted = (text: string): string => `"${text.replaceAll('"', '""')}"`;
const STRING = '"((?:[^"]|"")*)"';
const unquoted = (text: string): string => text.replaceAll('""', '"');

/** Text at commas, or up to a closing brace, outside of strings. @returns where each stands */
function marks(text: string, from: number, mark: string): number[] {
  const found: number[] = [];
  let isString = false;
  for (let at = from; at < text.length; at += 1) {
    if (text[at] === '"') isString = !isString;
    else if (!isString && text[at] === mark) found.push(at);
  }
  return found;
}
function parts(body: string): string[] {
  const at = [-1, ...marks(body, 0, ','), body.length];
  return at.slice(1).map((end, index) => body.slice(at[index]! + 1, end).trim());
}

function dateSource(date: DateWord, rest: string): Source {
  const string = new RegExp(`^${STRING}$`).exec(rest);
  const format = string ? unquoted(string[1]!) : rest || DATE_FORMAT;
  try {
    ldmlFormatter(format);
  } catch (error) {
    throw unclear(`${(error as Error).message}; try yyyy, MM, dd, HH, mm, ss`);
  }
  return { of: 'date', date, format, zone: null };
}

function counterSource(rest: string, part: string): CounterSource {
  const found = new RegExp(`^(\\d{1,8})?(?:\\s*\\bby ([a-z]+)|\\s*\\bof ${STRING})?$`).exec(
    rest.trim(),
  );
  const scope = (found?.[2] ?? 'all') as CounterScope;
  if (!found || !SCOPES.includes(scope))
    throw unclear(
      `“${part}”: a counter reads like counter 0001 by day, by ${SCOPES.slice(2).join(', by ')} or of "a name"`,
    );
  const digits = found[1] ?? '1';
  const named = found[3] === undefined ? null : unquoted(found[3]).trim();
  if (named === '') throw unclear(`“${part}”: the counter’s name is empty`);
  return {
    of: 'counter',
    start: Number(digits),
    width: digits.length,
    step: 1,
    numerals: 'digits',
    scope,
    named,
  };
}

function sourceOf(part: string): Source {
  const [word = '', ...more] = part.split(/\s+/);
  const rest = more.join(' ');
  if (DATE_WORDS.includes(word as DateWord))
    return dateSource(word as DateWord, part.slice(word.length).trim());
  if (word === 'counter') return counterSource(part.slice(word.length), part);
  const term = new RegExp(`^term under ${STRING}$`).exec(part);
  if (term && unquoted(term[1]!).trim() !== '') return { of: 'term', under: unquoted(term[1]!) };
  const string = new RegExp(`^${STRING}$`).exec(part);
  if (string) return { of: 'text', text: unquoted(string[1]!) };
  const level = word === 'folder' ? /^(?:(-?[1-9]))?$/.exec(rest) : null;
  if (level) return { of: 'folder', level: Number(level[1] ?? -1) };
  if (rest === '' && PLAIN_WORDS.includes(word as PlainWord))
    return { of: 'word', word: word as PlainWord };
  if (rest === '' && fieldOf(word)) return { of: 'field', key: word };
  throw unclear(
    `“${part}” is no piece we know; there are ${DATE_WORDS.join(', ')}, counter, ${PLAIN_WORDS.join(', ')}, folder, term under "…" and the fields of the record`,
  );
}

const PLAIN_CHANGES = ['upper', 'lower', 'capitals', 'trim', 'ascii'] as const;
const READ: [RegExp, (found: RegExpExecArray) => Change][] = [
  [
    /^(first|last) ([1-9]\d{0,2})$/,
    ([, does, count]) => ({ does: does as 'first', count: Number(count) }),
  ],
  [
    /^from ([1-9]\d{0,2})(?: to ([1-9]\d{0,2}))?$/,
    ([, from, to]) => ({
      does: 'from',
      from: Number(from),
      to: to === undefined ? null : Number(to),
    }),
  ],
  [
    new RegExp(`^part (-?[1-9]\\d?) by ${STRING}$`),
    ([, number, by]) => ({ does: 'part', number: Number(number), by: unquoted(by!) }),
  ],
  [
    new RegExp(`^replace ${STRING} with ${STRING}$`),
    ([, what, by]) => ({ does: 'replace', what: unquoted(what!), with: unquoted(by!) }),
  ],
  [
    new RegExp(`^match ${STRING}(?: as ${STRING})?$`),
    ([, regex, as]) => ({
      does: 'match',
      regex: unquoted(regex!),
      as: as === undefined ? null : unquoted(as),
    }),
  ],
  [
    new RegExp(`^rewrite ${STRING} as ${STRING}$`),
    ([, regex, as]) => ({ does: 'rewrite', regex: unquoted(regex!), as: unquoted(as!) }),
  ],
];

function changeOf(part: string): Change {
  const plain = PLAIN_CHANGES.find((one) => one === part);
  if (plain) return { does: plain };
  for (const [regex, read] of READ) {
    const found = regex.exec(part);
    if (!found) continue;
    const change = read(found);
    if (
      (change.does === 'part' && change.by === '') ||
      (change.does === 'replace' && change.what === '')
    )
      throw unclear(`“${part}”: what is looked for is empty`);
    changer(change);
    return change;
  }
  throw unclear(
    `“${part}” is nothing that can be done to a piece; there are ${PLAIN_CHANGES.join(', ')}, first, last, from, part, replace, match, rewrite and else`,
  );
}

/** What is said of a date or a counter behind a comma; false where it is something else. */
function takesIn(source: Source, part: string): boolean {
  if (source.of === 'date') {
    const zone = new RegExp(`^in ${STRING}$`).exec(part)?.[1] ?? /^in (\S+)$/.exec(part)?.[1];
    if (zone === undefined) return false;
    if (!IANAZone.isValidZone(zone)) throw unclear(`“${zone}” is no time zone; try Europe/Berlin`);
    source.zone = zone;
    return true;
  }
  if (source.of !== 'counter') return false;
  const step = /^step (\d{1,6})$/.exec(part);
  const numerals = /^as (digits|letters|roman)$/.exec(part);
  if (step) source.step = Number(step[1]);
  if (source.step < 1 || source.step > MOST_STEP)
    throw unclear(`“${part}”: a step is 1 to ${MOST_STEP}`);
  if (numerals) source.numerals = numerals[1] as CounterSource['numerals'];
  return Boolean(step ?? numerals);
}

function choicesOf(body: string): Alternative[] {
  const choices: Alternative[] = [];
  for (const part of parts(body)) {
    const last = choices.at(-1);
    const other = /^else\s+(.+)$/s.exec(part);
    if (!last || other) choices.push({ source: sourceOf(last ? other![1]! : part), changes: [] });
    else if (!takesIn(last.source, part)) last.changes.push(changeOf(part));
  }
  return choices;
}

/**
 * Parse a pattern. `{{` stands for a brace in the name.
 * @throws ArchiveError pattern-unclear, with the piece it met
 */
export function parsePattern(pattern: string): Piece[] {
  if (pattern.length > LONGEST_PATTERN)
    throw unclear(`A pattern holds ${LONGEST_PATTERN} characters at most.`);
  const pieces: Piece[] = [];
  const addText = (text: string): void => {
    const last = pieces.at(-1);
    if (last && 'text' in last) last.text += text;
    else if (text) pieces.push({ text });
  };
  let at = 0;
  while (at < pattern.length) {
    const open = pattern.indexOf('{', at);
    if (open < 0) {
      addText(pattern.slice(at));
      break;
    }
    addText(pattern.slice(at, open));
    if (pattern[open + 1] === '{') {
      addText('{');
      at = open + 2;
      continue;
    }
    const [close] = marks(pattern, open + 1, '}');
    if (close === undefined) throw unclear(`“${pattern.slice(open)}” is not closed with a brace`);
    pieces.push({ choices: choicesOf(pattern.slice(open + 1, close)) });
    at = close + 1;
  }
  return pieces;
}

/** A format that cannot be mistaken for what stands beside it. */
const formatText = (format: string): string =>
  /[",{}]|^\s|\s$|\s\s/.test(format) ? quoted(format) : format;

function sourceText(source: Source): string {
  switch (source.of) {
    case 'date':
      return `${source.date} ${formatText(source.format)}${source.zone ? `, in ${source.zone}` : ''}`;
    case 'counter': {
      const { start, width, scope, named, step, numerals } = source;
      const about = named !== null ? ` of ${quoted(named)}` : scope === 'all' ? '' : ` by ${scope}`;
      const more = `${step === 1 ? '' : `, step ${step}`}${numerals === 'digits' ? '' : `, as ${numerals}`}`;
      return `counter ${String(start).padStart(width, '0')}${about}${more}`;
    }
    case 'word':
      return source.word;
    case 'folder':
      return source.level === -1 ? 'folder' : `folder ${source.level}`;
    case 'term':
      return `term under ${quoted(source.under)}`;
    case 'field':
      return source.key;
    case 'text':
      return quoted(source.text);
  }
}

function changeText(change: Change): string {
  switch (change.does) {
    case 'first':
    case 'last':
      return `${change.does} ${change.count}`;
    case 'from':
      return `from ${change.from}${change.to === null ? '' : ` to ${change.to}`}`;
    case 'part':
      return `part ${change.number} by ${quoted(change.by)}`;
    case 'replace':
      return `replace ${quoted(change.what)} with ${quoted(change.with)}`;
    case 'match':
      return `match ${quoted(change.regex)}${change.as === null ? '' : ` as ${quoted(change.as)}`}`;
    case 'rewrite':
      return `rewrite ${quoted(change.regex)} as ${quoted(change.as)}`;
    default:
      return change.does;
  }
}

/** The text form of one choice: `creator, upper`. */
export const formatChoice = ({ source, changes }: Alternative): string =>
  [sourceText(source), ...changes.map(changeText)].join(', ');

/** The text form of one piece. */
export const formatPiece = (piece: Piece): string =>
  'text' in piece
    ? piece.text.replaceAll('{', '{{')
    : `{${piece.choices.map(formatChoice).join(', else ')}}`;

/** The text form of a pattern; `parsePattern` reads it back to the same pieces. */
export const formatPattern = (pieces: readonly Piece[]): string => pieces.map(formatPiece).join('');

/** Every way any of the pieces may be filled. */
export const choicesIn = (pieces: readonly Piece[]): Alternative[] =>
  pieces.flatMap((piece) => ('choices' in piece ? piece.choices : []));

/** Whether a pattern counts. */
export const counts = (pieces: readonly Piece[]): boolean =>
  choicesIn(pieces).some(({ source }) => source.of === 'counter');
