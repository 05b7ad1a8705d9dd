import { sql, type Kysely } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { DEEDS } from '#core/deeds/kinds';
import { can } from '#core/people/roles';
import { counted } from '#core/text/quantities';
import type { Actor } from '../auth/people';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { takeBack } from './takeBack';
import { ledger, ledgerCount, linesOf, type LedgerLine, type LedgerWish } from '../ledger/ledger';

type Db = Kysely<Database>;

/** ms; one that takes longer goes on, and the next ones are not begun. */
const MOST_PATIENCE_MS = 600_000;

/** So many changes are taken back at once; more are refused in words. */
export const MOST_AT_ONCE = 200;

/**
 * Changes made later that stand in the way of taking one back, the newest first: they wrote the same fields of the same
 * records, changed the same entries of lists or moved the same files, and so did others after them.
 */
export async function laterChanges(db: Db, operationId: string): Promise<LedgerLine[]> {
  const { rows } = await sql<{ id: string }>`
    with recursive way as (
      select o.id, o.created_at from operation o where o.id = ${operationId}::uuid
      union
      select later.id, later.created_at from way
        join operation_step mine on mine.operation_id = way.id and mine.state = 'done'
        cross join lateral (
          select moved.operation_id from operation_step moved
            where moved.item_id = mine.item_id
              and moved.file_id = case when mine.action = 'copy' then (mine.after ->> 'copyId')::uuid
                else mine.file_id end
              and moved.action not in ('copy', 'uncopy') and moved.state = 'done'
          union all
          select wrote.operation_id from operation_step wrote
            where mine.action = 'record' and wrote.item_id = mine.item_id and wrote.action = 'record'
              and wrote.state = 'done' and wrote.after ?| array(select jsonb_object_keys(mine.after))
          union all
          select listed.operation_id from operation_step listed
            where mine.action = 'entry' and listed.action = 'entry' and listed.state = 'done'
              and listed.after ->> 'id' = mine.after ->> 'id'
        ) theirs
        join operation later on later.id = theirs.operation_id and later.state = 'done'
          and (later.created_at, later.id) > (way.created_at, way.id)
          and later.kind <> 'rewrite' and later.undoes is null
          and not exists (select from operation u where u.undoes = later.id and u.state <> 'failed')
    )
    select id from way where id <> ${operationId}::uuid order by created_at desc, id desc
    limit ${MOST_AT_ONCE + 1}`.execute(db);
  if (rows.length > MOST_AT_ONCE) throw tooMany(rows.length);
  return linesOf(
    db,
    rows.map(({ id }) => id),
  );
}

const tooMany = (count: number): ArchiveError =>
  new ArchiveError(
    'value-refused',
    `These are ${count > MOST_AT_ONCE + 1 ? counted(count, 'change') : `more than ${MOST_AT_ONCE} changes`}; ${MOST_AT_ONCE} are taken back at once. Narrow what is asked for.`,
  );

/** What can be taken back of what a wish finds, the newest first. @throws ArchiveError value-refused where it is too much */
export async function undoable(db: Db, wish: LedgerWish): Promise<LedgerLine[]> {
  const count = await ledgerCount(db, wish);
  if (count > MOST_AT_ONCE) throw tooMany(count);
  const lines = await ledger(db, 0, MOST_AT_ONCE, wish);
  // What was taken back and what took it back are even already.
  return lines.filter(({ canUndo, undoes }) => canUndo && undoes === null);
}

export interface Undone {
  undone: string[];
  /** Where it came to a stop, and why; what was taken back by then stays so. */
  stopped: { id: string; summary: string; why: string } | null;
}

/**
 * Take changes back one after the other, the newest first, each a step of its own. Files are moved back by jobs, in this order.
 * @throws ArchiveError not-allowed before anything is done
 */
export async function undoAll(house: House, actor: Actor, ids: readonly string[]): Promise<Undone> {
  if (ids.length > MOST_AT_ONCE) throw tooMany(ids.length);
  const lines = await linesOf(house.db, ids);
  const closed = lines.find(({ kind }) => !can(actor.role, DEEDS[kind].undo));
  if (closed)
    throw new ArchiveError(
      'not-allowed',
      `“${closed.summary}” can be taken back by a keeper only.`,
    );
  const undone: string[] = [];
  for (const line of lines) {
    const { id, summary } = line;
    try {
      const { underway } = await takeBack(house, actor.id, line, { patience: MOST_PATIENCE_MS });
      if (underway)
        return {
          undone,
          stopped: { id, summary, why: 'It takes long; Underway tells how far it is.' },
        };
      undone.push(id);
    } catch (error) {
      if (!(error instanceof ArchiveError)) throw error;
      return { undone, stopped: { id, summary, why: sentenceOf(error) } };
    }
  }
  return { undone, stopped: null };
}
