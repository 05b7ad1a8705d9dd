/** Values from outside, before anything is made of them. */
const DEEPEST = 40;

/** Text a database can hold: no NUL (PostgreSQL refuses it), no half of a character pair. */
export const isPlainText = (text: string | undefined): boolean =>
  text === undefined || (!text.includes('\0') && text.isWellFormed());

/** Whether every text in a parsed JSON value is plain, keys too, and nothing is nested without end. */
export function isPlainValue(value: unknown, depth = 0): boolean {
  if (typeof value === 'string') return isPlainText(value);
  if (typeof value !== 'object' || value === null) return true;
  if (depth >= DEEPEST) return false;
  return Object.entries(value).every(
    ([key, one]) => isPlainText(key) && isPlainValue(one, depth + 1),
  );
}
