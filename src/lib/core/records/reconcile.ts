import { EMPTY_RECORD, FIELD_KEYS, type FieldKey, type RecordValues } from './fields';
import { tagsFromRecord } from './writing';
import { isBlank } from './takeOver';

/**
 * What becomes of a record whose file another program saved: three sides are compared field by field, what the file said
 * when both agreed, what it says now, and what the record says now.
 */

/** A field that was changed here and in the file since both agreed: somebody settles it. */
export interface Dispute {
  theirs: RecordValues[FieldKey];
  /** What the file said before; null where nobody knows. */
  before: RecordValues[FieldKey] | null;
}
export type Disputes = Partial<Record<FieldKey, Dispute>>;

/** What a file says, without what it leaves blank. */
export type ToldValues = Partial<RecordValues>;
export const toldOf = (values: RecordValues): ToldValues =>
  Object.fromEntries(
    FIELD_KEYS.filter((key) => !isBlank(values[key])).map((key) => [key, values[key]]),
  ) as ToldValues;

/** A value as a file can say it: less than a record may know of a date, lists in some order. */
function asWritten(key: FieldKey, value: RecordValues[FieldKey]): string {
  const plain = key === 'terms' ? [...(value as string[])].sort() : value;
  const record = { ...EMPTY_RECORD, [key]: plain } as RecordValues;
  return JSON.stringify(tagsFromRecord(record, [key], { exif: false, iim: false }));
}
export const isSame = (
  key: FieldKey,
  a: RecordValues[FieldKey],
  b: RecordValues[FieldKey],
): boolean => asWritten(key, a) === asWritten(key, b);

export interface Reconciled {
  /** Fields the record takes from the file. */
  taken: FieldKey[];
  disputes: Disputes;
  /** Everything it said was taken from the file: that is no word about anything, and it is to be written again. */
  isStripped: boolean;
}

/**
 * @param told what the file said when it was last read or written; null where that was not noted
 * @param unsure fields of which nobody knows whether the file ever said what is here: where it says something else, both are asked
 */
export function reconciled(
  ours: RecordValues,
  theirs: RecordValues,
  told: ToldValues | null,
  unsure: ReadonlySet<FieldKey>,
): Reconciled {
  const before = told ?? toldOf(ours);
  const said = FIELD_KEYS.filter((key) => !isBlank(before[key] ?? EMPTY_RECORD[key]));
  const isStripped =
    told !== null && said.length > 0 && FIELD_KEYS.every((key) => isBlank(theirs[key]));
  const taken: FieldKey[] = [];
  const disputes: Disputes = {};
  if (isStripped) return { taken, disputes, isStripped };
  for (const key of FIELD_KEYS) {
    if (isSame(key, theirs[key], ours[key])) continue;
    const base = before[key] ?? EMPTY_RECORD[key];
    const isUnsure = unsure.has(key);
    // What it said before in passing, and nobody took, is no word about it now.
    const saidBefore = (told !== null || !isUnsure) && isSame(key, theirs[key], base);
    if (saidBefore || (isUnsure && isBlank(theirs[key]))) continue;
    if (!isUnsure && isSame(key, ours[key], base)) taken.push(key);
    else disputes[key] = { theirs: theirs[key], before: isUnsure ? null : base };
  }
  return { taken, disputes, isStripped };
}

/** Disputes that still are: what the record says by now as well is none. */
export const stillDisputed = (disputes: Disputes, values: RecordValues): Disputes =>
  Object.fromEntries(
    (Object.entries(disputes) as [FieldKey, Dispute][]).filter(
      ([key, { theirs }]) => !isSame(key, theirs, values[key]),
    ),
  );
