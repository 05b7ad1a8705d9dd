import { sql, type Kysely } from 'kysely';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';

export type Movement = 'rename' | 'filing' | 'waste';
/** Steps whose files could not be given back and lie in the wastebasket still. */
export async function stillWasted(db: Kysely<Database>, operationId: string): Promise<number[]> {
  const rows = await db
    .selectFrom('operationStep as s')
    .innerJoin('file as f', 'f.id', 's.fileId')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select('s.position')
    .where('s.operationId', '=', operationId)
    .where('s.state', '=', 'done')
    .where('d.path', '=', WASTEBASKET)
    .where('f.state', '<>', 'missing')
    .where(sql<boolean>`s.after ->> 'name' = f.name`)
    .execute();
  return rows.map(({ position }) => position);
}

/**
 * Names and folders back, in the order in which they came.
 * @param rest positions that an undo before this one could not give back; none: all of it
 */
export async function undoMoves(
  db: Kysely<Database>,
  actorId: string | null,
  { id: undone, kind, summary }: { id: string; kind: Movement; summary: string },
  rest: number[],
): Promise<string> {
  const id = newId();
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('operation')
      .values({
        id,
        kind,
        summary: `Undid: ${summary}`,
        actorId,
        undoes: rest.length > 0 ? null : undone,
      })
      .execute();
    // Of folders the deepest was made last, and goes first, after all files.
    const { rows } = await sql<{ total: number }>`with back as (
        insert into operation_step (operation_id, position, action, item_id, file_id, before, after)
        select ${id}::uuid, row_number() over (order by action = 'folder',
            case when action = 'folder' then -position else position end) - 1,
          case action when 'copy' then 'uncopy' when 'uncopy' then 'copy' else action end,
          item_id, file_id, after, before
        from operation_step where operation_id = ${undone}::uuid and state = 'done'
          and action in ('rename', 'move', 'folder', 'copy', 'uncopy')
          and (${rest.length === 0} or position = any(${rest}::int[]))
        returning action
      ) select count(*) filter (where action <> 'folder')::int as total from back`.execute(
      transaction,
    );
    const { total } = rows[0]!;
    await transaction.updateTable('operation').set({ total }).where('id', '=', id).execute();
    await enqueue(transaction, [
      {
        task: 'operation',
        title: kind === 'waste' ? 'Giving files back' : 'Giving names back',
        subject: id,
        operationId: id,
        createdBy: actorId,
        total,
        unit: kind === 'waste' ? 'files' : 'names',
      },
    ]);
  });
  return id;
}
