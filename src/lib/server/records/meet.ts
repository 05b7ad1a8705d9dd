import { sql, type Transaction } from 'kysely';
import { EMPTY_RECORD, FIELD_KEYS, type RecordValues } from '#core/records/fields';
import { reconciled, toldOf, type ToldValues } from '#core/records/reconcile';
import type { Database } from '../db/schema';
import type { FileFacts } from '#core/intake/facts';
import type { LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { enqueueWrites, type ItemRecord } from './records';
import { storeValues } from './store';

const writeAgain = (db: Transaction<Database>, itemId: string): Promise<void> =>
  enqueueWrites(db, [itemId], {
    actorId: null,
    operationId: null,
    title: 'Writing records into files',
  });

/** A file that lost all it said gets everything again, also what it brought itself. */
async function putBack(
  db: Transaction<Database>,
  record: ItemRecord,
  original: LocatedFile,
): Promise<void> {
  const mark = { source: 'intake', by: null, at: new Date().toISOString() };
  const kept = Object.keys(toldOf(record.values)).map((key) => [key, mark]);
  await db
    .updateTable('item')
    .set({
      provenance: sql<string>`provenance || ${JSON.stringify(Object.fromEntries(kept))}::jsonb`,
    })
    .where('id', '=', record.id)
    .execute();
  await db.updateTable('file').set({ writtenVersion: -1 }).where('id', '=', original.id).execute();
  await writeAgain(db, record.id);
}

/**
 * Run while nobody writes an item's files or reads what others wrote into them: what was read is not older than what is
 * known by the time it meets the record.
 */
export async function whileUnwritten<T>(
  { locks }: House,
  itemId: string,
  run: () => Promise<T>,
): Promise<T> {
  const lock = await locks.hold(`write ${itemId}`);
  try {
    return await run();
  } finally {
    await lock.release();
  }
}

/** What a file says; of one that nobody can read what it said once stays, and what stands beside it counts. */
const wholeOf = ({ record, says }: FileFacts, told: ToldValues | null): RecordValues =>
  says !== 'beside'
    ? record
    : ({ ...EMPTY_RECORD, ...told, ...toldOf(record) } satisfies RecordValues);

/**
 * What the file says now meets the record: what another program changed is taken, what was changed here stays, what both
 * changed waits to be settled. A file that lost all it said is written again.
 * @param isNew a sidecar that came just now says some of it: what was told here is not put away for that
 */
export async function meetFile(
  db: Transaction<Database>,
  record: ItemRecord,
  original: LocatedFile,
  facts: FileFacts,
  isNew = false,
): Promise<void> {
  const { told, writtenVersion } = await db
    .selectFrom('file')
    .select(['told', 'writtenVersion'])
    .where('id', '=', original.id)
    .executeTakeFirstOrThrow();
  const said = wholeOf(facts, told);
  const isBehind = writtenVersion < record.version;
  const given = FIELD_KEYS.filter((key) => (record.provenance[key]?.source ?? 'file') !== 'file');
  const unsure = new Set(isNew || (told === null && isBehind) ? given : []);
  const { taken, disputes, isStripped } = reconciled(record.values, said, told, unsure);
  if (isStripped) return putBack(db, record, original);
  await db
    .updateTable('file')
    .set((to) => ({
      told: JSON.stringify(toldOf(said)),
      // The file says so already: nothing waits to be written because of what is taken from it.
      ...(taken.length > 0 ? { writtenVersion: to('writtenVersion', '+', 1) } : {}),
    }))
    .where('id', '=', original.id)
    .execute();
  if (taken.length > 0) {
    const next = { ...record.values };
    for (const key of taken) Object.assign(next, { [key]: said[key] });
    const origin = { source: 'file', by: null, at: new Date() } as const;
    await storeValues(db, [{ itemId: record.id, values: next, changed: taken }], origin);
  }
  const isDisputed = Object.keys(disputes).length > 0;
  if (isBehind && !isDisputed) await writeAgain(db, record.id);
  // What waits to be settled is not in the file: its record is behind, or is told to be.
  if (isDisputed)
    await db
      .updateTable('item')
      .set((to) => ({
        disputes: sql<string>`disputes || ${JSON.stringify(disputes)}::jsonb`,
        version: to('version', '+', 1),
      }))
      .where('id', '=', record.id)
      .execute();
}
