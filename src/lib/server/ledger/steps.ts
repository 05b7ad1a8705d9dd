import { sql, type Kysely, type Transaction } from 'kysely';
import { sentenceOf } from '#core/errors';
import type { Database } from '../db/schema';

export interface PlannedStep {
  operationId: string;
  position: number;
  action: 'rename' | 'move' | 'folder' | 'copy';
  itemId: string | null;
  fileId: string | null;
  before: object;
  after: object;
}

/** As many in one statement. */
const AT_ONCE = 10_000;

/** Note what is going to be done, before it is. */
export async function insertSteps(
  db: Transaction<Database>,
  rows: readonly PlannedStep[],
): Promise<void> {
  for (let at = 0; at < rows.length; at += AT_ONCE) {
    const some = rows.slice(at, at + AT_ONCE).map(({ before, after, ...row }) => ({
      ...row,
      // As texts they are read once.
      before: JSON.stringify(before),
      after: JSON.stringify(after),
    }));
    await sql`insert into operation_step (operation_id, position, action, item_id, file_id, before, after)
      select "operationId", position, action, "itemId", "fileId", before::jsonb, after::jsonb
      from json_to_recordset(${JSON.stringify(some)}::json) as row(
        "operationId" uuid, position integer, action text, "itemId" uuid, "fileId" uuid, before text, after text)`.execute(
      db,
    );
  }
}

/** One step did not go well, and why. */
export async function markFailed(
  db: Kysely<Database>,
  { operationId, position }: { operationId: string; position: number },
  error: unknown,
): Promise<void> {
  await db
    .updateTable('operationStep')
    .set({ state: 'failed', reason: sentenceOf(error) })
    .where('operationId', '=', operationId)
    .where('position', '=', position)
    .execute();
}

/** Steps of each item, which stand side by side: those of one are done one after the other. */
export function groupsOf<T extends { itemId: string }>(steps: readonly T[]): [T, ...T[]][] {
  const groups: [T, ...T[]][] = [];
  for (const step of steps) {
    const last = groups.at(-1);
    if (last?.[0].itemId === step.itemId) last.push(step);
    else groups.push([step]);
  }
  return groups;
}
