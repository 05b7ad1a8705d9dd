import { stringify } from 'csv-stringify/sync';
import { z } from 'zod';
import { knownField } from '#core/fields/registry';
import { COLUMN_FIELDS, MOST_COLUMNS } from '#core/register/columns';
import { writtenAs } from '#core/records/written';
import type { Viewer } from '#core/sight/viewer';
import { harmless } from '#core/text/cells';
import type { House } from '../house/house';
import { rowsOf } from './rows';
import type { SeenIds } from '../sight/seen';

const KEYS = COLUMN_FIELDS.map(({ key }) => key);
/** Columns that are asked for. */
export const columnsSchema = z
  .array(z.enum(KEYS as [string, ...string[]]))
  .min(1)
  .max(MOST_COLUMNS);

const STRETCH = 1000;

/** Some items as CSV (RFC 4180), a stretch at a time: labels, then values as programs read them. */
export async function* csvOf(
  { db }: House,
  viewer: Viewer,
  ids: SeenIds,
  keys: readonly string[],
): AsyncGenerator<string> {
  yield stringify([keys.map((key) => knownField(key).label)], { record_delimiter: '\r\n' });
  for (let from = 0; from < ids.length; from += STRETCH) {
    const rows = await rowsOf(db, viewer, ids.slice(from, from + STRETCH), keys);
    yield stringify(
      rows.map(({ values }) => keys.map((key) => harmless(writtenAs(values[key])))),
      { record_delimiter: '\r\n' },
    );
  }
}
