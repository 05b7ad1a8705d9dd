import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { StampLine } from '#core/lists/entries';
import type { FieldKey } from '#core/records/fields';
import { fieldWords } from '#core/records/takeOver';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow, Progress } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { followItems, stepsFor, storeSteps } from '../records/records';
import { changedSince, fingerprintOfStamp, planStamp, stampItems } from './stamps';
import { asSeen, isHeld, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

/** So many items are stamped while somebody waits; more of them by a job. */
const AT_ONCE = 500;

/** Versions of items, in the order of the ids, as a stamp's preview tells them. */
async function versionsOf(db: Db, ids: string[]): Promise<Record<string, number>> {
  const { rows } = await sql<{ id: string; version: number }>`
    select i.id, i.version from unnest(${ids}::uuid[]) with ordinality as wished(id, at)
    join item i on i.id = wished.id and ${isHeld('i')}
    join file f on f.item_id = i.holder_id and f.role = 'original' order by wished.at`.execute(db);
  return Object.fromEntries(rows.map(({ id, version }) => [id, version]));
}

/**
 * Put a stamp on items as it was shown: of few at once, of many by a job, as one operation of the ledger either way.
 * @param shown what the preview said
 * @returns the operation and how many items change, null where none does
 * @throws ArchiveError conflict where something changed since
 */
export async function startStamp(
  db: Db,
  actorId: string | null,
  { name, lines, ids }: { name: string; lines: StampLine[]; ids: SeenIds },
  shown: { fingerprint: string; changed: number },
): Promise<{ operationId: string; changed: number } | null> {
  if (ids.length <= AT_ONCE) return stampItems(db, actorId, ids, lines, shown.fingerprint);
  const versions = await versionsOf(db, ids);
  if (fingerprintOfStamp(lines, versions) !== shown.fingerprint) throw changedSince();
  const id = newId();
  const title = `Putting “${name}” onto ${counted(shown.changed, 'item')}`;
  await db.transaction().execute(async (transaction) => {
    // What was given up is asked for by nobody any more.
    await transaction
      .deleteFrom('stamping')
      .where('operationId', 'in', (query) =>
        query.selectFrom('operation').select('id').where('state', 'in', ['done', 'failed']),
      )
      .execute();
    const about = { id, kind: 'record', actorId, undoes: null, total: shown.changed } as const;
    await transaction
      .insertInto('operation')
      .values({ ...about, summary: title })
      .execute();
    await transaction
      .insertInto('stamping')
      .values({
        operationId: id,
        itemIds: Object.keys(versions),
        versions: Object.values(versions),
        lines: JSON.stringify(lines),
      })
      .execute();
    await enqueue(transaction, [
      {
        task: 'stamp',
        title,
        subject: id,
        operationId: id,
        createdBy: actorId,
        total: ids.length,
        unit: 'items',
      },
    ]);
  });
  return { operationId: id, changed: shown.changed };
}

/** Items of which the changes are reckoned and stored together. */
const STRETCH = 500;

/** Job: all of it in one transaction; stopped or cut off, nothing is changed. */
export async function runStamping(house: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  await house.db
    .updateTable('operation')
    .set({ state: 'doing' })
    .where('id', '=', operationId)
    .execute();
  await stampAll(house, job, progress);
}

async function stampAll({ db, now }: House, job: JobRow, progress: Progress): Promise<void> {
  const operationId = job.operationId!;
  const actorId = job.createdBy;
  const wished = await db
    .selectFrom('stamping')
    .selectAll()
    .where('operationId', '=', operationId)
    .executeTakeFirst();
  if (!wished) throw new ArchiveError('not-found', 'This was given up; put the stamp on anew.');
  const { itemIds, lines } = wished;
  const versions = Object.fromEntries(itemIds.map((id, at) => [id, wished.versions[at]!]));
  await db.transaction().execute(async (transaction) => {
    const changed: string[] = [];
    const keys = new Set<FieldKey>();
    for (let from = 0; from < itemIds.length; from += STRETCH) {
      await progress.checkWish();
      const some = itemIds.slice(from, from + STRETCH);
      const { groups } = await planStamp(transaction, asSeen(some), lines);
      const steps = await stepsFor(transaction, groups, { versions });
      await storeSteps(transaction, actorId, steps, { operationId, from: changed.length });
      for (const step of steps) {
        changed.push(step.itemId);
        for (const key of step.keys) keys.add(key);
      }
      await progress.report(from + some.length, itemIds.length, 'items');
    }
    await transaction
      .updateTable('operation')
      .set({
        state: 'done',
        total: changed.length,
        finishedAt: now(),
        summary: `Set ${fieldWords([...keys])}`,
      })
      .where('id', '=', operationId)
      .execute();
    await transaction.deleteFrom('stamping').where('operationId', '=', operationId).execute();
    await followItems(transaction, changed, { actorId, operationId }, keys);
  });
}
