import { sql, type Kysely, type RawBuilder, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import {
  ACCESS_LABELS,
  accessInWords,
  SUBJECTS,
  type Access,
  type Said,
  type Subject,
} from '#core/access/access';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, entryOf } from '../lists/journal';
import { NAMES as QUERY_NAMES } from '../query/names';
import type { AccessEntry } from '#core/lists/entries';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;

/** What a subject is called, as SQL: as queries name it. */
const NAMES: Record<Subject, RawBuilder<unknown>> = {
  place: sql`select id, name as label from place`,
  folder: QUERY_NAMES.folder,
  accession: QUERY_NAMES.accession,
  collection: QUERY_NAMES.collection,
  item: sql`select id, number as label from item`,
};

/** What access may be said of, by its name: `Studio shelf/Brand`, `2026.014`. @throws ArchiveError not-found */
export async function subjectNamed(db: Db, subject: Subject, name: string): Promise<string> {
  const { rows } = await sql<{ id: string }>`select id from (${NAMES[subject]}) named
    where lower(label) = lower(${name.trim()}) limit 2`.execute(db);
  const [only, other] = rows;
  if (!only || other)
    throw new ArchiveError(
      'not-found',
      other ? `More than one ${subject} is called “${name}”.` : `There is no ${subject} “${name}”.`,
    );
  return only.id;
}

/** All that is said of the access of an item, and what it comes to. @throws ArchiveError not-found */
export async function accessOfItem(
  db: Db,
  itemId: string,
): Promise<{ access: Access; said: Said[]; words: string }> {
  const item = await db
    .selectFrom('item')
    .select('access')
    .where('id', '=', itemId)
    .executeTakeFirst();
  if (!item) throw new ArchiveError('not-found', 'There is no such item.');
  const kinds = SUBJECTS.map(
    (one) => sql`select ${sql.lit(one)} as subject, n.label as name, m.state, m.note
      from item i cross join lateral marks_on(i) m
      join (${NAMES[one]}) n on n.id = ${sql.ref(`m.${one}_id`)} where i.id = ${itemId}::uuid`,
  );
  const { rows } = await sql<Said>`${sql.join(kinds, sql` union all `)}`.execute(db);
  return { access: item.access, said: rows, words: accessInWords(rows) };
}

/** What is said of one subject itself; null: nothing. */
export async function markOf(
  db: Db,
  subject: Subject,
  of: string,
): Promise<(AccessEntry & { id: string }) | null> {
  const { rows } = await sql<{ id: string; state: AccessEntry['state']; note: string }>`
    select id, state, note from access_mark where ${sql.ref(`${subject}_id`)} = ${of}::uuid`.execute(
    db,
  );
  return rows[0] ? { ...rows[0], subject, of } : null;
}

/** How many items lie under a subject. */
export async function itemsUnder(db: Db, subject: Subject, of: string): Promise<number> {
  const { rows } = await sql<{ count: number }>`select count(*)::int as count
    from items_under(jsonb_populate_record(null::access_mark, jsonb_build_object(${`${subject}_id`}::text, ${of}::uuid))) as under
    join item i on i.id = under and ${isHeld('i')}`.execute(db);
  return rows[0]!.count;
}

/** Say who may see something; open: take back what was said. @throws ArchiveError not-found */
export async function sayAccess(
  db: Kysely<Database>,
  actorId: string | null,
  { subject, of, state, note }: { subject: Subject; of: string; state: Access; note: string },
): Promise<{ operationId: string; items: number } | null> {
  return changeLists(db, actorId, async (transaction) => {
    const mark = await markOf(transaction, subject, of);
    const before = mark ? await entryOf(transaction, 'access', mark.id) : null;
    const after = state === 'open' ? null : { subject, of, state, note };
    const { rows } = await sql<{ name: string }>`select label as name from (${NAMES[subject]}) named
      where id = ${of}::uuid`.execute(transaction);
    if (!rows[0]) throw new ArchiveError('not-found', `There is no such ${subject}.`);
    return {
      summary: `Made the ${subject} “${rows[0].name}” ${ACCESS_LABELS[state]}`,
      entries: [{ list: 'access', id: mark?.id ?? newId(), before, after }],
    };
  });
}
