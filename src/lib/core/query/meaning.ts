import { takenFromText } from '../records/taken';
import type { LastUnit } from './tree';

/** What tests mean, for all who answer them: SQL and the index. */

/** Ends of a date that was asked for; a moment typed to the minute means that whole minute. */
export function askedInterval(edtf: string): { from: string; to: string } | null {
  const wished = takenFromText(edtf);
  if (!wished) return null;
  const to = wished.from === wished.to ? wished.to.replace(/:00\.000$/, ':59.999') : wished.to;
  return { from: wished.from, to };
}

/** The wall clock some days, weeks, months or years ago. */
export function sinceWhen(now: Date, count: number, unit: LastUnit): string {
  const at = new Date(now);
  if (unit === 'days') at.setUTCDate(at.getUTCDate() - count);
  else if (unit === 'weeks') at.setUTCDate(at.getUTCDate() - 7 * count);
  else if (unit === 'months') at.setUTCMonth(at.getUTCMonth() - count);
  else at.setUTCFullYear(at.getUTCFullYear() - count);
  // Counts of thousands lead behind the years a database knows.
  return at.getUTCFullYear() < 1 ? '0001-01-01T00:00:00.000' : at.toISOString().slice(0, 23);
}
