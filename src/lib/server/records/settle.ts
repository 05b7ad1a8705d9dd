import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { FieldKey, RecordValues } from '#core/records/fields';
import type { Disputes } from '#core/records/reconcile';
import type { Database } from '../db/schema';
import { notifyItems } from '../live/notify';
import { applySteps, differences, enqueueWrites, readRecords } from './records';
import { lockRecords } from './store';

/** Fields that the record and its file say otherwise. */
export async function disputesOf(db: Kysely<Database>, itemId: string): Promise<Disputes> {
  const row = await db
    .selectFrom('item')
    .select('disputes')
    .where('id', '=', itemId)
    .executeTakeFirst();
  return row?.disputes ?? {};
}

/**
 * Settle fields in which record and file were both changed: by what is here, or by what the file says, which then is a
 * change of the ledger. Once none is left the file is written.
 * @throws ArchiveError conflict where it was settled already, or the record changed since it was seen
 */
export async function settleDisputes(
  db: Kysely<Database>,
  actorId: string | null,
  itemId: string,
  wish: Partial<Record<FieldKey, 'ours' | 'theirs'>>,
  version: number,
): Promise<{ operationId: string | null; left: number }> {
  return db.transaction().execute(async (transaction) => {
    await lockRecords(transaction, [itemId]);
    const [record] = await readRecords(transaction, [itemId]);
    if (!record) throw new ArchiveError('not-found', 'There is no such item any more.');
    const disputes = await disputesOf(transaction, itemId);
    const keys = Object.keys(wish) as FieldKey[];
    if (record.version !== version || keys.some((key) => !disputes[key]))
      throw new ArchiveError('conflict', 'It was changed meanwhile; look at it again.');
    const taken = keys.filter((key) => wish[key] === 'theirs');
    const after = {
      ...record.values,
      ...Object.fromEntries(taken.map((key) => [key, disputes[key]!.theirs])),
    } as RecordValues;
    const left = Object.fromEntries(
      Object.entries(disputes).filter(([key]) => !keys.includes(key as FieldKey)),
    );
    await transaction
      .updateTable('item')
      .set((to) => ({ disputes: JSON.stringify(left), version: to('version', '+', 1) }))
      .where('id', '=', itemId)
      .execute();
    const changed = differences(record.values, after);
    const step = { itemId, before: record.values, after, keys: changed };
    const done = changed.length > 0 ? await applySteps(transaction, actorId, [step], null) : null;
    if (!done)
      await enqueueWrites(transaction, [itemId], {
        actorId,
        operationId: null,
        title: 'Writing records into files',
      });
    await notifyItems(transaction, [itemId], ['writing']);
    return { operationId: done?.operationId ?? null, left: Object.keys(left).length };
  });
}
