import { sql, type Transaction } from 'kysely';
import type { Database } from '../db/schema';

export interface PlannedStep {
  operationId: string;
  position: number;
  action: 'rename' | 'move' | 'folder';
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
  for (let at = 0; at < rows.length; at += AT_ONCE)
    await sql`insert into operation_step (operation_id, position, action, item_id, file_id, before, after)
      select * from json_to_recordset(${JSON.stringify(rows.slice(at, at + AT_ONCE))}::json) as row(
        "operationId" uuid, position integer, action text, "itemId" uuid, "fileId" uuid, before jsonb, after jsonb)`.execute(
      db,
    );
}
