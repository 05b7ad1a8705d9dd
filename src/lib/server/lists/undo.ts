import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { entryName, type ListKey, type TermEntry } from '#core/lists/entries';
import type { Database } from '../db/schema';
import { backSteps, doneSteps, refuseStanding } from '../records/undo';
import { changeLists, isStill, readEntries, type EntryChange } from './journal';

/** An entry of a list, as a step of the ledger holds it. */
interface ToldEntry {
  list: ListKey;
  id: string;
  entry: object | null;
}

/**
 * Lists as they were, and the records that were changed with them. An entry that was changed again since stands in the
 * way of all of it: lists hang together.
 */
export async function undoLists(
  db: Kysely<Database>,
  actorId: string | null,
  operation: { id: string; summary: string },
  partly: boolean,
): Promise<string> {
  const done = await changeLists(db, actorId, async (transaction) => {
    const rows = await doneSteps(transaction, operation.id);
    const told = rows.filter(({ action }) => action === 'entry');
    const pairs = told.map(({ before, after }) => ({
      was: before as unknown as ToldEntry,
      is: after as unknown as ToldEntry,
    }));
    const present = new Map<string, object>();
    for (const list of new Set(pairs.map(({ is }) => is.list)))
      for (const [id, entry] of await readEntries(
        transaction,
        list,
        pairs.filter(({ is }) => is.list === list).map(({ is }) => is.id),
      ))
        present.set(id, entry);
    const entries: EntryChange[] = [];
    for (const { was, is } of pairs) {
      const { list, id, entry } = is;
      const now = present.get(id) ?? null;
      // Items of a collection stand for themselves; entries of other lists hang together.
      if (!isStill(now, entry) && partly && list === 'placing') continue;
      if (!isStill(now, entry))
        throw new ArchiveError(
          'conflict',
          `${list === 'placing' ? 'An item of the collection' : `“${entryName((now ?? entry) as TermEntry)}”`} was changed again since. Undo the later change first.`,
        );
      const after = was.entry && { ...now, ...was.entry };
      entries.push({ list, id, before: now, after });
    }
    const { steps, standing } = await backSteps(
      transaction,
      rows.filter(({ action }) => action === 'record'),
    );
    if (standing.length > 0 && !partly) refuseStanding(standing, entries.length + steps.length);
    return {
      summary: `Undid: ${operation.summary}`,
      entries: entries.reverse(),
      records: steps,
      undoes: operation.id,
    };
  });
  if (!done) throw new ArchiveError('conflict', 'The lists are as they were already.');
  return done.operationId;
}
