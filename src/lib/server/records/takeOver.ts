import type { Kysely } from 'kysely';
import type { FieldKey, RecordValues } from '#core/records/fields';
import { takenOver, toldDifferently } from '#core/records/takeOver';
import type { Database } from '../db/schema';
import { applySteps, readRecords } from './records';
import { lockRecords } from './store';

/** The fields in which a file tells something else than the record of the item that holds its picture. */
export async function toldOf(
  db: Kysely<Database>,
  itemId: string,
  told: RecordValues,
): Promise<FieldKey[]> {
  const [record] = await readRecords(db, [itemId]);
  return record ? toldDifferently(record.values, told) : [];
}

/**
 * Let an item's record take over what a file with the same picture says: an operation of its own, noted and
 * undone like any other. @returns the fields that changed
 */
export async function takeOver(
  db: Kysely<Database>,
  actorId: string | null,
  itemId: string,
  told: RecordValues,
): Promise<FieldKey[]> {
  return db.transaction().execute(async (transaction) => {
    await lockRecords(transaction, [itemId]);
    const [record] = await readRecords(transaction, [itemId]);
    if (!record) return [];
    const keys = toldDifferently(record.values, told);
    if (keys.length === 0) return [];
    const after = takenOver(record.values, told);
    await applySteps(transaction, actorId, [{ itemId, before: record.values, after, keys }], null);
    return keys;
  });
}
