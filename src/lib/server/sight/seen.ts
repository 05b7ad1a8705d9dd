import { sql, type Kysely, type RawBuilder, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Purpose, Subject } from '#core/access/access';
import { sightOf, type Sight, type Viewer } from '#core/sight/viewer';
import type { Database } from '../db/schema';

type Db = Kysely<Database> | Transaction<Database>;

/** Items that are held: what was discarded is gone from every way at once. @param alias of table item in the statement */
export const isHeld = (alias: string): RawBuilder<boolean> =>
  sql<boolean>`${sql.ref(`${alias}.deleted_at`)} is null`;

/** Items that lie in the wastebasket, or were emptied from it. */
export const isLetGo = (alias: string): RawBuilder<boolean> =>
  sql<boolean>`${sql.ref(`${alias}.deleted_at`)} is not null`;

/** Let some go, or with null have them back; spans go and come with what they are of, but those that had gone before stay gone. */
export async function letGoAt(
  db: Db,
  table: 'item' | 'collection',
  ids: readonly string[],
  at: Date | null,
): Promise<void> {
  if (ids.length === 0) return;
  const together = at
    ? isHeld('item')
    : sql`item.deleted_at = (select clip.deleted_at from item clip where clip.id = item.of_id)`;
  const spans =
    table === 'item' ? sql`or (of_id = any(${[...ids]}::uuid[]) and ${together})` : sql``;
  await sql`update ${sql.table(table)} set deleted_at = ${at}
    where id = any(${[...ids]}::uuid[]) ${spans}`.execute(db);
}

/** What of all held items a sight lets through, in SQL. */
export const through = (sight: Sight | null, alias: string): RawBuilder<boolean> =>
  sql<boolean>`${isHeld(alias)} and ${withinAccess(sight, alias)}`;

/** The same of all items, also of those that were let go: for the ledger and the wastebasket. */
export function withinAccess(sight: Sight | null, alias: string): RawBuilder<boolean> {
  if (!sight) return sql<boolean>`true`;
  const of = (name: string) => sql.ref(`${alias}.${name}`);
  const { states, own, room } = sight;
  const listed = sql`${of('access')} = any(${[...states]}::text[])`;
  const theirs =
    own === null
      ? listed
      : sql`(${listed} or (${of('access')} = 'waiting' and exists (select from accession own
          where own.id = ${of('accession_id')} and own.created_by = ${own}::uuid)))`;
  const hung =
    room === null
      ? sql`true`
      : sql`exists (select from collection_item hung join collection hanging on hanging.id = hung.collection_id
          and hanging.deleted_at is null where hung.item_id = ${of('id')} and hung.collection_id = ${room}::uuid)`;
  return sql<boolean>`(${theirs} and ${hung})`;
}

/** What somebody may see for a purpose, in SQL over table item under a name. */
export const seenBy = (viewer: Viewer, purpose: Purpose, alias: string): RawBuilder<boolean> =>
  through(sightOf(viewer, purpose), alias);

/** Whether somebody may know what is called so at all: a closed folder's name tells as much as what lies in it. */
export function isNamedTo(
  viewer: Viewer,
  subject: Exclude<Subject, 'item'>,
  alias: string,
): RawBuilder<boolean> {
  const sight = sightOf(viewer, 'list');
  if (!sight) return sql<boolean>`true`;
  return sql<boolean>`not exists (select from access_mark named where ${sql.ref(`named.${subject}_id`)} = ${sql.ref(`${alias}.id`)}
    and named.state <> all(${[...sight.states]}::text[]))`;
}

declare const seen: unique symbol;
/** Ids of items of which it was asked whether they may be seen; only these are taken in hand. */
export type SeenIds = string[] & { readonly [seen]: true };
declare const filed: unique symbol;
/** Ids of items that have a file of their own. */
export type FiledIds = SeenIds & { readonly [filed]: true };

/** Those of some ids somebody may see, in their order, each once. */
export async function seenIds(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
  purpose: Purpose = 'list',
): Promise<SeenIds> {
  const wished = [...new Set(ids)];
  if (wished.length === 0) return wished as unknown as SeenIds;
  const { rows } = await sql<{ id: string }>`select i.id from item i
    where i.id = any(${wished}::uuid[]) and ${seenBy(viewer, purpose, 'i')}`.execute(db);
  const known = new Set(rows.map(({ id }) => id));
  return wished.filter((id) => known.has(id)) as unknown as SeenIds;
}

/** Ids that a question asked of {@link seenBy} answered, or the archive's own work. */
export const asSeen = (ids: readonly string[]): SeenIds => ids as unknown as SeenIds;

/** @throws ArchiveError not-found where somebody may not see it */
export async function seenId(
  db: Db,
  viewer: Viewer,
  id: string,
  purpose: Purpose = 'list',
): Promise<SeenIds> {
  const ids = await seenIds(db, viewer, [id], purpose);
  if (ids.length === 0)
    throw new ArchiveError('not-found', 'There is no such item.', { itemId: id });
  return ids;
}

/** Of some items those with files of their own: spans are of a file that is another's. */
export async function filedOf(db: Db, ids: SeenIds): Promise<FiledIds> {
  if (ids.length === 0) return ids as FiledIds;
  const { rows } = await sql<{ id: string }>`select id from item
    where id = any(${[...ids]}::uuid[]) and of_id is not null`.execute(db);
  const spans = new Set(rows.map(({ id }) => id));
  return (spans.size === 0 ? ids : ids.filter((id) => !spans.has(id))) as unknown as FiledIds;
}
