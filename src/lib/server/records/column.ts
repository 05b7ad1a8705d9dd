import { createHash } from 'node:crypto';
import type { Kysely } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { pickedSchema } from '#core/query/picked';
import { LONGEST_QUERY } from '#core/query/tree';
import { changeOfLine, columnOver, type ColumnLine } from '#core/records/column';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import type { Database } from '../db/schema';
import { changeEach, readRecords } from './records';
import type { SeenIds } from '../sight/seen';

/** A column of a spreadsheet over chosen items, in the order of the query they were chosen from. */
export const columnSchema = z.object({
  ids: pickedSchema,
  q: z.string().max(LONGEST_QUERY).default(''),
  field: z.enum(FIELD_KEYS as [FieldKey, ...FieldKey[]]),
  text: z.string().max(4_000_000),
});

/** What a pasted column would change; bound by a fingerprint to what is done. */
export interface ColumnPreview {
  lines: ColumnLine[];
  /** Lines that were pasted. */
  cells: number;
  changed: number;
  problems: number;
  fingerprint: string;
}

async function plan(db: Kysely<Database>, ids: SeenIds, key: FieldKey, cells: string[]) {
  const byId = new Map((await readRecords(db, ids)).map((one) => [one.id, one]));
  const items = ids.flatMap((id) => byId.get(id) ?? []);
  const lines = columnOver(key, cells, items);
  const versions = Object.fromEntries(items.map(({ id, version }) => [id, version]));
  const preview: ColumnPreview = {
    lines,
    cells: cells.length,
    changed: lines.filter(({ before, after }) => before !== after).length,
    problems: lines.filter(({ problem }) => problem !== null).length,
    fingerprint: createHash('sha256')
      .update(JSON.stringify([key, lines, versions]))
      .digest('base64url'),
  };
  return { preview, versions };
}

/** Every old and new value; nothing is changed. */
export const columnPreview = async (
  db: Kysely<Database>,
  ids: SeenIds,
  key: FieldKey,
  cells: string[],
): Promise<ColumnPreview> => (await plan(db, ids, key, cells)).preview;

/**
 * Lay the cells over the items as it was shown: one operation of the ledger; what has a problem stays as it is.
 * @returns the operation, null where nothing differs
 * @throws ArchiveError conflict where something changed since
 */
export async function layColumn(
  db: Kysely<Database>,
  actorId: string | null,
  ids: SeenIds,
  key: FieldKey,
  cells: string[],
  fingerprint: string,
): Promise<{ operationId: string; changed: number } | null> {
  const { preview, versions } = await plan(db, ids, key, cells);
  if (preview.fingerprint !== fingerprint)
    throw new ArchiveError(
      'conflict',
      'Something was changed since these values were shown; look at them again.',
    );
  const groups = preview.lines.flatMap(({ id, problem }, at) => {
    const change = problem === null ? changeOfLine(key, cells[at]!) : null;
    return change ? [{ itemIds: [id], change }] : [];
  });
  return changeEach(db, actorId, groups, { versions });
}
