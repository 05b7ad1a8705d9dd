import { DateTime } from 'luxon';
import { ldmlFormatter, type WallClock } from '../text/ldml';
import { changer } from './changes';
import { choicesIn, formatChoice, parsePattern } from './grammar';
import { nameSafe, splitName } from './names';
import { writtenNumber } from './numerals';
import {
  underKey,
  type Alternative,
  type CounterSource,
  type NameSubject,
  type Piece,
  type Source,
} from './piece';

/** Counters of one run; pass the same object for all names of a batch, in their order. */
export type Counters = Map<string, number>;

/** What all names of a batch share. */
export interface FillContext {
  counters: Counters;
  /** The moment that counts as today, ms. */
  now: number;
  /** Zone of instants whose pattern names none, IANA. */
  zone: string;
}

/** How much of a date a format asks for. */
function needed(format: string): NameSubject['precision'] {
  const fields = format.replace(/'[^']*'/g, '');
  if (/[HmsS]/.test(fields)) return 'moment';
  if (/[dEw]/.test(fields)) return 'day';
  return /M/.test(fields) ? 'month' : 'year';
}
const DEPTH = { span: 0, year: 1, month: 2, day: 3, moment: 4 } as const;

const wallIn = (at: number, zone: string): WallClock =>
  DateTime.fromMillis(at, { zone }).toObject() as WallClock;

/** A time taken as the clocks of another zone showed it; as it stands where nobody knows its own. */
function takenIn({ taken, offset, precision }: NameSubject, zone: string | null): WallClock | null {
  if (!taken || zone === null || offset === null || offset === undefined || precision !== 'moment')
    return taken;
  const { year, month, day, hour, minute, second, millisecond } = taken;
  const utc = Date.UTC(year, month - 1, day, hour, minute, second, millisecond);
  return wallIn(utc - offset * 60_000, zone);
}

type Says = (subject: NameSubject) => string;
interface Context extends FillContext {
  /** What the other pieces say of the subject at hand, for counters by name. */
  around: string;
  /** Makes a value fit for a name, or leaves it as a text says it. */
  clean: (value: string) => string;
}

/** Texts of days that are kept: a batch is of fewer. */
const MOST_DAYS = 5000;

/** A day as a number, 20260912. */
export const dayOf = ({ year, month, day }: WallClock): number => (year * 100 + month) * 100 + day;

/** Of a time taken, as far as it is known; where no hour is asked for each day is written once. */
function takenSays(zone: string | null, depth: number, write: (time: WallClock) => string): Says {
  const says: Says = (subject) => {
    const time = takenIn(subject, zone);
    return time && DEPTH[subject.precision] >= depth ? write(time) : '';
  };
  if (zone !== null || depth > DEPTH.day) return says;
  const days = new Map<number, string>();
  return (subject) => {
    const { taken, precision } = subject;
    if (!taken || DEPTH[precision] < depth) return '';
    const day = subject.takenDay ?? dayOf(taken);
    let text = days.get(day);
    if (text === undefined) {
      text = write(taken);
      if (days.size < MOST_DAYS) days.set(day, text);
    }
    return text;
  };
}

/** Never a part of a date that is not known: nothing then. */
function dateSays(source: Source & { of: 'date' }, { now, zone, clean }: Context): Says {
  const format = ldmlFormatter(source.format);
  const depth = DEPTH[needed(source.format)];
  const own = source.zone ?? zone;
  const instant = (at: number | null | undefined): string =>
    at === null || at === undefined ? '' : clean(format(wallIn(at, own)));
  switch (source.date) {
    case 'taken':
      return takenSays(source.zone, depth, (time) => clean(format(time)));
    case 'brought':
      return ({ brought }) => instant(brought);
    case 'changed':
      return ({ changed }) => instant(changed);
    case 'today': {
      const today = instant(now);
      return () => today;
    }
  }
}

function folderSays(level: number, { clean }: Context): Says {
  return ({ path = '' }) => {
    const parts = path === '' ? [] : path.split('/');
    return clean(parts.at(level > 0 ? level - 1 : level) ?? '');
  };
}

function sourceSays(source: Source, context: Context): Says {
  const { clean } = context;
  switch (source.of) {
    case 'date':
      return dateSays(source, context);
    case 'counter':
      return counterSays(source, context);
    case 'word':
      switch (source.word) {
        case 'name':
          return ({ name }) => splitName(name).stem;
        case 'original':
          return ({ original }) => splitName(original).stem;
        case 'extension':
          return ({ name }) => splitName(name).extension;
        case 'place':
          return ({ place = '' }) => clean(place);
        case 'hash':
          return ({ hash = '' }) => hash;
      }
    // eslint-disable-next-line no-fallthrough -- every word returns
    case 'folder':
      return folderSays(source.level, context);
    case 'term': {
      const key = underKey(source.under);
      return ({ values }) => clean(values[key] ?? '');
    }
    case 'field':
      return ({ values }) => clean(values[source.key] ?? '');
    case 'text':
      return () => source.text;
  }
}

const DAY = ldmlFormatter('yyyy-MM-dd');
function scopeOf({ scope }: CounterSource, context: Context): Says {
  switch (scope) {
    case 'all':
      return () => '';
    case 'name':
      return () => context.around;
    case 'day': {
      const day = takenSays(null, DEPTH.day, DAY);
      return (subject) => day(subject) || UNDATED;
    }
    case 'folder':
      return ({ folder }) => folder;
    default:
      return ({ values }) => values[scope] ?? '';
  }
}

/** Key of a counter that goes on under a name. */
export const namedKey = (name: string): string => `of\0${name}`;

/** Counters with another start, width or scope count for themselves; one that goes on has its name alone. */
function counterSays(source: CounterSource, context: Context): Says {
  const { counters } = context;
  const { start, step, width, numerals, named } = source;
  const own = `{${formatChoice({ source, changes: [] })}}`;
  const scope = scopeOf(source, context);
  const keys = new Map<string, string>();
  /** The key of a scope, put together once. */
  const keyOf = (of: string): string => {
    let key = keys.get(of);
    if (key === undefined) {
      key = named === null ? `${own}\0${of}` : namedKey(named);
      keys.set(of, key);
    }
    return key;
  };
  return (subject) => {
    const key = keyOf(named === null ? scope(subject) : '');
    const value = counters.get(key) ?? start;
    counters.set(key, value + step);
    return writtenNumber(value, numerals, width);
  };
}
const UNDATED = 'undated';
/** What is said where nothing is known and nothing else was asked for. */
const UNKNOWN: Record<string, string> = {
  camera: 'unknown camera',
  creator: 'no creator',
  title: 'untitled',
};
const unknownOf = ({ source }: Alternative): string =>
  source.of === 'date' ? UNDATED : source.of === 'field' ? (UNKNOWN[source.key] ?? '') : '';

function choiceSays({ source, changes }: Alternative, context: Context): Says {
  let says = sourceSays(source, context);
  for (const change of changes) {
    const [before, does] = [says, changer(change)];
    says = (subject) => does(before(subject));
  }
  return says;
}

/** What a piece says: the first way to fill it that gives any text; nothing where none does. */
function pieceSays(piece: Piece, context: Context): Says {
  if ('text' in piece) return () => piece.text;
  const [first, ...others] = piece.choices.map((choice) => choiceSays(choice, context));
  if (others.length === 0) return first!;
  return (subject) => {
    let text = first!(subject);
    for (let at = 0; text === '' && at < others.length; at += 1) text = others[at]!(subject);
    return text;
  };
}

/** As it stands in a name: where nothing else was asked for, what is not known is said. */
function nameSays(piece: Piece, context: Context): Says {
  const says = pieceSays(piece, context);
  const [only, ...others] = 'text' in piece ? [] : piece.choices;
  const otherwise = only && others.length === 0 ? unknownOf(only) : '';
  return otherwise === '' ? says : (subject) => says(subject) || otherwise;
}

const isCounting = (piece: Piece): boolean =>
  choicesIn([piece]).some(({ source }) => source.of === 'counter');

/** What fills a pattern; counters step in the order of the calls. @throws ArchiveError pattern-unclear */
export function filler(pieces: readonly Piece[], context: FillContext): Says {
  const own = { ...context, around: '', clean: nameSafe };
  const says = pieces.map((piece) => nameSays(piece, own));
  const byName = choicesIn(pieces).some(
    ({ source }) => source.of === 'counter' && source.scope === 'name',
  );
  const others = byName ? says.filter((_, at) => !isCounting(pieces[at]!)) : [];
  return (subject) => {
    if (byName) own.around = others.map((one) => one(subject)).join('\0');
    let text = '';
    for (const one of says) text += one(subject);
    return text;
  };
}

/** What fills a text; null where a piece finds nothing: it says nothing of its own then. */
function knowing(
  pieces: readonly Piece[],
  context: Context,
): (subject: NameSubject) => string | null {
  const parts = pieces.map((piece) => pieceSays(piece, context));
  return (subject) => {
    let text = '';
    for (const says of parts) {
      const part = says(subject);
      if (part === '') return null;
      text += part;
    }
    return text;
  };
}

/** Fill a text that is no name: values stand as they are; null where a piece finds nothing. */
export function fillText(pieces: readonly Piece[], subject: NameSubject): string | null {
  const context = { counters: new Map<string, number>(), now: 0, zone: 'UTC', around: '' };
  return knowing(pieces, { ...context, clean: (value) => value })(subject);
}

/** What fills a folder's name; null where a piece finds nothing. @throws ArchiveError pattern-unclear */
export const folderFiller = (
  pieces: readonly Piece[],
  context: FillContext,
): ((subject: NameSubject) => string | null) =>
  knowing(pieces, { ...context, around: '', clean: nameSafe });

/** What subjects must say for a pattern: keys of the registry, terms below others. */
export function valuesNeeded(pieces: readonly Piece[]): { fields: string[]; under: string[] } {
  const [fields, under] = [new Set<string>(), new Set<string>()];
  for (const { source } of choicesIn(pieces)) {
    if (source.of === 'field') fields.add(source.key);
    if (source.of === 'term') under.add(source.under);
    if (source.of === 'counter' && ['accession', 'camera', 'burst'].includes(source.scope))
      fields.add(source.scope);
  }
  return { fields: [...fields], under: [...under] };
}

/** Counters of a pattern that go on, by name, with where they begin. */
export function namedCounters(pieces: readonly Piece[]): Map<string, number> {
  return new Map(
    choicesIn(pieces).flatMap(({ source }): [string, number][] =>
      source.of === 'counter' && source.named !== null ? [[source.named, source.start]] : [],
    ),
  );
}

/** Folders of a filing pattern: slashes of its text part them, never those of a value or within a piece. */
export function folderPieces(pattern: string): Piece[][] {
  const folders: Piece[][] = [[]];
  for (const piece of parsePattern(pattern)) {
    if ('choices' in piece) {
      folders.at(-1)!.push(piece);
      continue;
    }
    const [first = '', ...more] = piece.text.split('/');
    if (first !== '') folders.at(-1)!.push({ text: first });
    for (const text of more) folders.push(text === '' ? [] : [{ text }]);
  }
  return folders.filter((pieces) =>
    pieces.some((piece) => !('text' in piece) || piece.text.trim() !== ''),
  );
}
