import { sql, type Kysely } from 'kysely';
import { deedNamed, DEEDS, type DeedName } from '#core/deeds/kinds';
import { ArchiveError } from '#core/errors';
import { sightOf } from '#core/sight/viewer';
import { refuseWhereShown, type By } from '../collections/collections';
import type { Database } from '../db/schema';
import { isPaused } from '../ledger/ledger';
import { stillWasted, undoMoves, type Movement } from '../ledger/undoMoves';
import { undoLists } from '../lists/undo';
import { undoFolders } from '../places/emptyFolders';
import { undoRecords } from '../records/undo';
import { withinAccess } from '../sight/seen';

type Db = Kysely<Database>;

/** An operation of the ledger that is to be taken back. */
export interface Done {
  id: string;
  summary: string;
}

/** How a kind of change is taken back. */
interface Undoing {
  /**
   * @param partly give back what can be, where later changes stand in the way of the rest
   * @param rest positions of steps that an undo before this one could not give back; none: all of it
   * @param hidden items it changed that whoever takes it back may not see by now; only what `leavesOut` is handed any
   * @returns the new operation
   */
  undo: (
    db: Db,
    by: By,
    done: Done,
    how: { partly: boolean; rest: number[]; hidden: ReadonlySet<string> },
  ) => Promise<string>;
  /** Each item is given back by itself: those that are hidden stay, the others may be given back. */
  leavesOut?: true;
  /** Steps that an undo could not give back and may give back now. */
  rest?: (db: Db, operationId: string) => Promise<number[]>;
}

const moved = (kind: Movement): Undoing => ({
  undo: (db, by, done, { rest }) => undoMoves(db, by.id, { ...done, kind }, rest),
});
/** What hangs in an open room is changed by those who open rooms. */
async function undoCollections(...args: Parameters<Undoing['undo']>): Promise<string> {
  const [db, by, { id, summary }, { partly }] = args;
  const { rows } = await sql<{
    id: string;
  }>`select distinct coalesce(entry ->> 'collection', s.after ->> 'id') as id
    from operation_step s cross join lateral (select coalesce(nullif(s.after -> 'entry', 'null'), s.before -> 'entry') as entry) e
    where s.operation_id = ${id}::uuid and s.action = 'entry' and s.after ->> 'list' in ('collection', 'placing')`.execute(
    db,
  );
  for (const row of rows) await refuseWhereShown(db, by, row.id);
  return undoLists(db, by, { id, summary }, partly);
}
const entries: Undoing = {
  undo: (db, by, done, { partly }) => undoLists(db, by, done, partly),
};

/** What undoes each kind; null: nothing does. A new kind is one line here and one in core/deeds. */
const UNDOING: Record<DeedName, Undoing | null> = {
  record: {
    undo: (db, by, { id }, { partly, hidden }) => undoRecords(db, by.id, id, { partly, hidden }),
    leavesOut: true,
  },
  rename: moved('rename'),
  filing: moved('filing'),
  waste: { ...moved('waste'), rest: stillWasted },
  lists: entries,
  collections: { undo: undoCollections },
  rooms: entries,
  bursts: entries,
  spans: entries,
  sequences: entries,
  patterns: entries,
  plans: entries,
  folders: { undo: (db, by, { id, summary }) => undoFolders(db, by.id, id, summary) },
  empty: null,
};

/** Files and folders are no part of a transaction: they are moved back by jobs of their own. */
export const isOnDisk = (name: DeedName): boolean =>
  ['file', 'folder'].includes(DEEDS[name].countedIn);

/** Whoever takes something back, and as what; the command line is the keeper's. */
async function byOf(db: Db, id: string | null): Promise<By> {
  const person = id
    ? await db.selectFrom('person').select('role').where('id', '=', id).executeTakeFirst()
    : null;
  return { id, role: person?.role ?? 'keeper' };
}

/** Items an operation changed that somebody may not know of. */
async function hiddenFrom(db: Db, by: By, operationId: string): Promise<ReadonlySet<string>> {
  const sight = sightOf({ role: by.role, ...(by.id ? { id: by.id } : {}) }, 'list');
  if (!sight) return new Set();
  const { rows } = await sql<{ id: string }>`select distinct i.id from operation_step s
    join item i on i.id = s.item_id
    where s.operation_id = ${operationId}::uuid and not ${withinAccess(sight, 'i')}`.execute(db);
  return new Set(rows.map(({ id }) => id));
}

/**
 * Take an operation back: a new operation with the steps the other way round. Undoing an undo does it again.
 * @param partly give back what can be, where later changes stand in the way of the rest
 * @returns the new operation
 * @throws ArchiveError not-found; conflict, with what stands in the way
 */
export async function undo(
  db: Db,
  actorId: string | null,
  operationId: string,
  partly = false,
): Promise<string> {
  const operation = await db
    .selectFrom('operation as o')
    .selectAll()
    .select(isPaused.as('isPaused'))
    .where('id', '=', operationId)
    .executeTakeFirst();
  const deed = operation && deedNamed(operation.kind);
  if (!deed) throw new ArchiveError('not-found', 'The ledger does not list this.');
  if (operation.isPaused)
    throw new ArchiveError(
      'conflict',
      'This is paused: under Underway it goes on, or is cancelled; what was done can be undone then.',
    );
  if (operation.state !== 'done')
    throw new ArchiveError('conflict', 'This is not finished yet; wait, then undo it.', {
      isUnfinished: true,
    });
  const undoing = UNDOING[deed.name];
  const { rows } = await sql<{ id: string }>`select id from operation
    where undoes = ${operationId}::uuid and state <> 'failed' limit 1`.execute(db);
  const rest = rows[0] ? ((await undoing?.rest?.(db, operationId)) ?? []) : [];
  if (rows[0] && rest.length === 0) throw new ArchiveError('conflict', 'This was undone already.');
  if (!undoing || operation.emptiedAt)
    throw new ArchiveError('conflict', 'These files were removed for good.');
  const by = await byOf(db, actorId);
  const hidden = await hiddenFrom(db, by, operationId);
  if (hidden.size > 0 && !undoing.leavesOut)
    throw new ArchiveError(
      'conflict',
      'Some of what this changed is not yours to see by now; a keeper can undo it.',
    );
  const { id, summary } = operation;
  return undoing.undo(db, by, { id, summary }, { partly, rest, hidden });
}
