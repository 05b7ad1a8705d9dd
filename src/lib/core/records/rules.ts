import { FIELDS, type FieldKey, type RecordValues } from './fields';
import { fitsMask } from '../text/mask';
import { isBlank } from './takeOver';

/** A rule of the house: a field that must say something, or one of some values. The database counts by the same (`broken_rules`). */
export interface HouseRule {
  field: FieldKey;
  required: boolean;
  /** Values it may hold; empty: any. */
  allowed: string[];
  /** How it is written (`core/text/mask`); empty: anyhow. */
  like: string;
}

export const MOST_RULES = 40;
/** Values that a rule may allow. */
export const MOST_ALLOWED = 200;

/** Fields whose values are chosen from lists of their own anyway, or are no text: these are required at most. */
export const mayAllow = (key: FieldKey): boolean =>
  !FIELDS[key].languagesOf &&
  key !== 'position' &&
  key !== 'terms' &&
  key !== 'stage' &&
  key !== 'rating' &&
  key !== 'taken' &&
  !FIELDS[key].values;

const textsOf = (value: RecordValues[FieldKey]): string[] =>
  (Array.isArray(value) ? value : [value]).filter((one): one is string => typeof one === 'string');

/** Whether a value breaks a rule. */
export const breaks = (
  value: RecordValues[FieldKey],
  { required, allowed, like }: HouseRule,
): boolean =>
  isBlank(value)
    ? required
    : textsOf(value).some(
        (one) =>
          one !== '' &&
          ((allowed.length > 0 && !allowed.includes(one)) || (like !== '' && !fitsMask(one, like))),
      );

/** What a rule asks for, where a value breaks it. */
export function ruleWords(
  value: RecordValues[FieldKey],
  { field, allowed, like }: HouseRule,
): string {
  const label = FIELDS[field].label;
  if (isBlank(value)) return `${label} is missing`;
  const isAllowed = allowed.length === 0 || textsOf(value).every((one) => allowed.includes(one));
  if (isAllowed && like) return `${label} is written like ${like}`;
  const told = allowed.slice(0, 5).join(', ');
  return `${label} may be ${told}${allowed.length > 5 ? ' …' : ''}`;
}
