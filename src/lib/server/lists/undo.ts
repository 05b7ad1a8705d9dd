import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { DEEDS } from '#core/deeds/kinds';
import { kindOf, type ListKey } from '#core/entries/registry';
import { can, type Role } from '#core/people/roles';
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
  by: { id: string | null; role: Role },
  operation: { id: string; summary: string },
  partly: boolean,
): Promise<string> {
  const done = await changeLists(db, by.id, async (transaction) => {
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
      const { name, apart, deed } = kindOf(list);
      if (!can(by.role, DEEDS[deed].undo))
        throw new ArchiveError(
          'not-allowed',
          `“${name((entry ?? was.entry)!)}” was changed with it, which is not yours to take back.`,
        );
      const now = present.get(id) ?? null;
      if (!isStill(now, entry) && partly && apart) continue;
      if (!isStill(now, entry))
        throw new ArchiveError(
          'conflict',
          `“${name((now ?? entry ?? was.entry)!)}” was changed again since. Undo the later change first.`,
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
