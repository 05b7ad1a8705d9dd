import { ArchiveError } from '../errors';
import type { ContributorEntry, StampLine, Way } from '../lists/entries';
import { MOST_LINES } from '../lists/limits';
import { counts, parsePattern } from '../naming/grammar';
import { fillText } from '../naming/fill';
import type { Piece } from '../naming/piece';
import {
  FIELD_KEYS,
  FIELDS,
  shapeOf,
  type FieldKey,
  type RecordChange,
  type RecordValues,
} from '../records/fields';
import { isBlank } from '../records/takeOver';
import { parseWallClock, precisionOf, takenFromText } from '../records/taken';

/** A stamp: prepared values of a record, in which pieces in braces stand for what an item says of itself. */
export const WAY_WORDS: Record<Way, string> = {
  fill: 'fill blanks',
  overwrite: 'overwrite',
  add: 'add',
};
/** How a field may be stamped: a verdict and a date are set or left, texts and lists may be added to. */
export function waysOf(key: FieldKey): readonly Way[] {
  const shape = shapeOf(FIELDS[key]);
  if (key === 'terms') return ['add', 'fill', 'overwrite'];
  const isPlain =
    shape === 'list' || (shape === 'text' && FIELDS[key].type !== 'enum' && !FIELDS[key].of);
  return isPlain ? ['fill', 'overwrite', 'add'] : ['fill', 'overwrite'];
}

/** What the pieces of a stamp are filled from. */
export interface Stamped {
  values: RecordValues;
  subject: Record<'name' | 'original' | 'number' | 'camera' | 'creator' | 'title', string>;
}

const unclear = (sentence: string): ArchiveError => new ArchiveError('pattern-unclear', sentence);

/** A text's pieces. @throws ArchiveError pattern-unclear; counters count names, not values */
function piecesOf(text: string): Piece[] {
  const pieces = parsePattern(text);
  if (counts(pieces)) throw unclear('A counter counts names; it has no place in a stamp.');
  return pieces;
}

/** @throws ArchiveError value-refused, pattern-unclear naming what a line cannot say */
export function checkStamp(lines: readonly StampLine[]): void {
  if (lines.length > MOST_LINES)
    throw new ArchiveError('value-refused', `A stamp sets ${MOST_LINES} fields at most.`);
  const seen = new Set<string>();
  for (const { field, way, value } of lines) {
    const key = FIELD_KEYS.find((one) => one === field);
    if (!key) throw new ArchiveError('value-refused', `There is no field “${field}”.`);
    const { label } = FIELDS[key];
    if (seen.has(key)) throw new ArchiveError('value-refused', `${label} stands there twice.`);
    seen.add(key);
    if (!waysOf(key).includes(way))
      throw new ArchiveError('value-refused', `${label} cannot be added to.`);
    const shape = shapeOf(FIELDS[key]);
    const fits =
      shape === 'list'
        ? Array.isArray(value)
        : shape === 'number'
          ? typeof value === 'number' && value >= -1 && value <= 5
          : typeof value === 'string';
    if (!fits) throw new ArchiveError('value-refused', `${label} cannot hold this value.`);
    for (const text of [value].flat()) if (typeof text === 'string') piecesOf(text);
    if (key === 'taken' && value !== '' && !takenFromText(String(value)))
      throw new ArchiveError('value-refused', `“${String(value)}” is no date.`);
  }
}

/** What a field of the record says in a text. */
const said = (value: unknown): string =>
  Array.isArray(value) ? value.join(', ') : typeof value === 'string' ? value : '';

/** A text with its pieces filled; null where the item does not say one of them: nothing is made up. */
export function stampText(text: string, { values, subject }: Stamped): string | null {
  const { name, original, ...told } = subject;
  const { taken } = values;
  return fillText(piecesOf(text), {
    name,
    original,
    folder: '',
    taken: taken ? parseWallClock(taken.from) : null,
    precision: taken ? precisionOf(taken) : 'span',
    offset: taken?.offset ?? null,
    values: {
      ...Object.fromEntries(FIELD_KEYS.map((key) => [key, said(values[key])])),
      rating: values.rating === 0 ? '' : String(values.rating),
      ...told,
    },
  });
}

const added = (held: string, text: string): string =>
  held.includes(text) ? held : held === '' ? text : `${held} ${text}`;

/** The change a stamp makes to one record; empty where it says all of it already. */
export function stampChange(lines: readonly StampLine[], of: Stamped): RecordChange {
  const change: Record<string, unknown> = {};
  for (const { field, way, value } of lines) {
    const key = field as FieldKey;
    const held = of.values[key];
    if (way === 'fill' && !isBlank(held)) continue;
    if (Array.isArray(value)) {
      const texts = value.flatMap((text) => stampText(text, of) ?? []);
      if (texts.length === 0 && value.length > 0) continue;
      if (key === 'terms') {
        if (way === 'overwrite')
          change['removeTerms'] = (held as string[]).filter((term) => !texts.includes(term));
        change['addTerms'] = texts;
      } else if (way === 'add')
        change['add'] = { ...(change['add'] as object | undefined), [key]: texts };
      else change[key] = texts;
    } else if (typeof value === 'number') change[key] = value;
    else {
      const text = stampText(value, of);
      if (text === null && value !== '') continue;
      change[key] = way === 'add' ? added(held as string, text ?? '') : (text ?? '');
    }
  }
  return change as RecordChange;
}

/** What choosing a contributor fills: the name is added, what is blank of the rest follows. */
export function contributorLines(entry: ContributorEntry): StampLine[] {
  const fill = (field: FieldKey, value: string): StampLine[] =>
    value ? [{ field, way: 'fill', value }] : [];
  const plain = (text: string): string => text.replaceAll('{', '{{');
  return [
    { field: 'creator', way: 'add', value: [plain(entry.name)] },
    ...fill('creditLine', plain(entry.creditLine)),
    ...fill('copyrightNotice', plain(entry.copyrightNotice)),
    ...fill('usageTerms', plain(entry.usageTerms)),
  ];
}
