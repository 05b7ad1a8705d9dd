import type { FieldKey } from '#core/records/fields';
import type { Viewer } from '#core/sight/viewer';
import { sql, type Kysely, type Transaction } from 'kysely';
import type { ContributorEntry } from '#core/lists/entries';
import { corrected, spellingsOf } from '#core/contributors/follow';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { differences, readRecords, type RecordStep } from '../records/records';
import { changeLists, entryOf, refuseStale } from './journal';
import { isHeld, seenBy } from '../sight/seen';

type Db = Kysely<Database>;
type Tx = Transaction<Database>;

export type ListedContributor = ContributorEntry & { id: string; items: number };

/** Every contributor, by name, with how many items name them. */
export async function listedContributors(db: Db, viewer: Viewer): Promise<ListedContributor[]> {
  const { rows } = await sql<ListedContributor>`
    with named as (
      select lower(name) as name, count(*)::int as items from item cross join lateral unnest(creator) as name
      where ${seenBy(viewer, 'list', 'item')} group by 1
    )
    select c.*, coalesce((select sum(n.items)::int from named n where n.name = lower(c.name)
      or n.name in (select lower(spelling) from unnest(c.also) as spelling)), 0) as items
    from contributor c order by lower(c.name)`.execute(db);
  return rows;
}

/** Names that items are credited to and nobody put on the list, the most used first. */
export async function unlistedCreators(
  db: Db,
  viewer: Viewer,
): Promise<{ name: string; items: number }[]> {
  const { rows } = await sql<{ name: string; items: number }>`
    select name, count(*)::int as items from item cross join lateral unnest(creator) as name
    where ${seenBy(viewer, 'list', 'item')} and not exists (select from contributor c where lower(c.name) = lower(name)
      or lower(name) in (select lower(spelling) from unnest(c.also) as spelling))
    group by 1 order by 2 desc, 1 limit 200`.execute(db);
  return rows;
}

/** What follows a contributor who is called or credited otherwise: steps of the records that said the old. */
async function following(
  db: Db | Tx,
  before: ContributorEntry | null,
  after: ContributorEntry,
): Promise<RecordStep[]> {
  const rows = await db
    .selectFrom('item')
    .select('id')
    .where(sql<boolean>`creator && ${spellingsOf(before, after)}::text[]`)
    .where(isHeld('item'))
    .execute();
  const records = await readRecords(
    db,
    rows.map(({ id }) => id),
  );
  return records.flatMap(({ id, values }): RecordStep[] => {
    const next = { ...values, ...corrected(values, before, after) };
    const keys = differences(values, next);
    return keys.length > 0 ? [{ itemId: id, before: values, after: next, keys }] : [];
  });
}

/** How many items would follow, field by field; and some of them. */
export interface FollowPreview {
  items: number;
  fields: { field: FieldKey; changed: number }[];
}
export async function followPreview(
  db: Db,
  id: string | null,
  wish: ContributorEntry,
): Promise<FollowPreview> {
  const before = id ? await entryOf(db, 'contributor', id) : null;
  const steps = await following(db, before, wish);
  const counts = new Map<FieldKey, number>();
  for (const { keys } of steps) for (const key of keys) counts.set(key, (counts.get(key) ?? 0) + 1);
  return {
    items: steps.length,
    fields: [...counts].map(([field, changed]) => ({ field, changed })),
  };
}

/**
 * Make a contributor, change one, or with null take them off the list. Items and files that said the old name or the old
 * credit follow in the same step where that is wished.
 * @throws ArchiveError conflict, not-found
 */
export const saveContributor = (
  db: Db,
  actorId: string | null,
  id: string | null,
  wish: ContributorEntry | null,
  { seen, follow }: { seen?: ContributorEntry | undefined; follow: boolean },
) => {
  const own = id ?? newId();
  return changeLists(db, actorId, async (transaction) => {
    const before = id ? await entryOf(transaction, 'contributor', id) : null;
    refuseStale('contributor', before, seen);
    const records = wish && follow ? await following(transaction, before, wish) : [];
    const verb = wish ? (before ? 'Changed' : 'Put on the list:') : 'Took off the list:';
    const name = (wish ?? before)!.name;
    return {
      summary: `${verb} the contributor “${name}”${records.length > 0 ? `, and ${counted(records.length, 'record')} with it` : ''}`,
      entries: [{ list: 'contributor', id: own, before, after: wish }],
      records,
    };
  }).then((done) => ({ id: own, done }));
};
