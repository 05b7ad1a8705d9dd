import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { datesBy, type Dated, type DateLine, type DateWish } from '#core/records/dates';
import type { Database } from '../db/schema';
import { changeEach, takenOfRow } from './records';
import { type SeenIds, isHeld } from '../sight/seen';

/** What dates of many items would become; bound by a fingerprint to what is done. */
export interface DatesPreview {
  lines: DateLine[];
  changed: number;
  problems: number;
  fingerprint: string;
}

interface Read extends Dated {
  version: number;
}

/** In the order of the ids given. */
async function itemsOf(db: Kysely<Database>, ids: SeenIds): Promise<Read[]> {
  const rows = await db
    .selectFrom('item as i')
    .innerJoin('file as f', 'f.itemId', 'i.id')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['i.id', 'i.version', 'f.name', 'i.originalName as original', 'd.path as folder'])
    .select(['i.takenEdtf', 'i.takenFrom', 'i.takenTo', 'i.takenOffset'])
    .where('f.role', '=', 'original')
    .where(isHeld('i'))
    .where('i.id', '=', sql<string>`any(${ids}::uuid[])`)
    .execute();
  const byId = new Map(
    rows.map(({ id, version, name, original, folder, ...row }): [string, Read] => [
      id,
      { id, version, name, original, folder, taken: takenOfRow(row) },
    ]),
  );
  return ids.flatMap((id) => byId.get(id) ?? []);
}

async function plan(
  db: Kysely<Database>,
  ids: SeenIds,
  wish: DateWish,
): Promise<DatesPreview & { versions: Record<string, number> }> {
  const items = await itemsOf(db, ids);
  const lines = datesBy(wish, items);
  const versions = Object.fromEntries(items.map(({ id, version }) => [id, version]));
  return {
    lines,
    versions,
    changed: lines.filter(({ before, after }) => before !== after).length,
    problems: lines.filter(({ problem }) => problem !== null).length,
    fingerprint: createHash('sha256')
      .update(JSON.stringify([lines, versions]))
      .digest('base64url'),
  };
}

/** Every old and new date, and what stays as it is and why; nothing is changed. */
export async function datesPreview(
  db: Kysely<Database>,
  ids: SeenIds,
  wish: DateWish,
): Promise<DatesPreview> {
  const { lines, changed, problems, fingerprint } = await plan(db, ids, wish);
  return { lines, changed, problems, fingerprint };
}

/**
 * Set the dates as they were shown: one operation of the ledger; what has a problem stays as it is.
 * @returns the operation, null where nothing differs
 * @throws ArchiveError conflict where something changed since, value-refused
 */
export async function setDates(
  db: Kysely<Database>,
  actorId: string | null,
  ids: SeenIds,
  wish: DateWish,
  fingerprint?: string,
): Promise<{ operationId: string; changed: number } | null> {
  const { lines, versions, fingerprint: now } = await plan(db, ids, wish);
  if (fingerprint !== undefined && fingerprint !== now)
    throw new ArchiveError(
      'conflict',
      'Something was changed since these dates were shown; look at them again.',
    );
  // Items that get the same date change as one group.
  const groups = new Map<string, string[]>();
  for (const { id, before, after } of lines)
    if (before !== after) groups.set(after, [...(groups.get(after) ?? []), id]);
  if (groups.size === 0) return null;
  return changeEach(
    db,
    actorId,
    [...groups].map(([taken, itemIds]) => ({ itemIds, change: { taken } })),
    { versions },
  );
}
