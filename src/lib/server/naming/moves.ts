import type { Kysely, Transaction } from 'kysely';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { insertSteps, type PlannedStep } from '../ledger/steps';
import type { FolderOfPlace } from '../places/folderRows';

/** A file that gets another name or folder; what is not told stays. */
export interface Move {
  fileId: string;
  itemId: string;
  before: { placeId?: string; folder?: string; name: string };
  after: { placeId?: string; folder?: string; name: string };
}

interface Moves {
  kind: 'rename' | 'filing';
  /** The files stay, and copies are laid there. */
  copies?: boolean;
  actorId: string | null;
  summary: string;
  /** Of the job, while it runs. */
  title: string;
  moves: readonly Move[];
  /** Folders that are new, which an undo removes where they are empty then. */
  made?: readonly FolderOfPlace[];
  /** Folders that are removed afterwards where they are empty then, which an undo makes again. */
  emptied?: readonly FolderOfPlace[];
  /** What is noted along with it. */
  also?: (db: Transaction<Database>) => Promise<void>;
}

/** Note moves in the ledger and ask for them: carried out by a job, undone by the ledger. @returns the operation */
export async function startMoves(db: Kysely<Database>, wish: Moves): Promise<string> {
  const { kind, copies, actorId, summary, title, moves, made = [], emptied = [] } = wish;
  const folders = [
    ...made.map((after) => ({ before: {}, after })),
    ...emptied.map((before) => ({ before, after: {} })),
  ];
  const id = newId();
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('operation')
      .values({ id, kind, summary, actorId, undoes: null, total: moves.length })
      .execute();
    const action = kind === 'rename' ? 'rename' : copies ? 'copy' : 'move';
    await insertSteps(transaction, [
      ...moves.map(({ fileId, itemId, before, after }, position) => ({
        operationId: id,
        position,
        action: action as PlannedStep['action'],
        itemId,
        fileId,
        before,
        after: copies ? { ...after, copyId: newId() } : after,
      })),
      ...folders.map(({ before, after }, at) => ({
        operationId: id,
        position: moves.length + at,
        action: 'folder' as const,
        itemId: null,
        fileId: null,
        before,
        after,
      })),
    ]);
    await wish.also?.(transaction);
    await enqueue(transaction, [
      {
        task: 'operation',
        title,
        subject: id,
        operationId: id,
        createdBy: actorId,
        total: moves.length,
        unit: kind === 'rename' ? 'names' : 'files',
      },
    ]);
  });
  return id;
}
