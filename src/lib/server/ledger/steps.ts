import type { Transaction } from 'kysely';
import type { Database } from '../db/schema';

/** Steps are written a thousand at a time. */
export async function insertSteps(
  db: Transaction<Database>,
  rows: {
    operationId: string;
    position: number;
    action: 'rename' | 'move' | 'folder';
    itemId: string | null;
    fileId: string | null;
    before: string;
    after: string;
  }[],
): Promise<void> {
  for (let at = 0; at < rows.length; at += 1000)
    await db
      .insertInto('operationStep')
      .values(rows.slice(at, at + 1000))
      .execute();
}
