import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { WASTEBASKET, wasteName, type LettingGo } from '#core/holdings/wastebasket';
import { counted, formatBytes } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { removeFile, syncFolder } from '../files/disk';
import { refuseHandsOff } from '../files/door';
import { filesOf, type LocatedFile } from '../files/located';
import { joinPath, realInside } from '../files/paths';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { insertSteps } from '../ledger/steps';
import { notifyItems } from '../live/notify';
import { filedOf, isHeld, type FiledIds, type SeenIds } from '../sight/seen';

interface Plan extends LettingGo {
  going: LocatedFile[];
}

async function onlyCopiesAmong(db: Kysely<Database>, ids: string[]): Promise<number> {
  const { rows } = await sql<{ count: number }>`
    select count(*)::int as count from file f where f.role = 'original' and f.item_id = any(${ids}::uuid[])
    and not exists (select from file g join item i on i.id = g.item_id
      where (g.content_hash = f.content_hash or g.essence_hash = f.essence_hash)
      and g.state = 'present' and ${isHeld('i')} and not (i.id = any(${ids}::uuid[])))`.execute(db);
  return rows[0]!.count;
}

async function plan(db: Kysely<Database>, itemIds: FiledIds): Promise<Plan> {
  const { rows } = await sql<{ id: string; handsOff: boolean; isHere: boolean }>`
    select i.id, p.hands_off as "handsOff", p.here and f.state <> 'missing' as "isHere"
    from item i join file f on f.item_id = i.id and f.role = 'original' join place p on p.id = f.place_id
    where i.id = any(${itemIds}::uuid[]) and ${isHeld('i')} order by i.id`.execute(db);
  const handsOff = rows.filter((row) => row.handsOff);
  const notHere = rows.filter((row) => !row.handsOff && !row.isHere);
  const ids = rows.filter((row) => !row.handsOff && row.isHere).map(({ id }) => id);
  // A copy in a place that is away or hands off stays where it is.
  const going = (await filesOf(db, ids)).filter(
    (file) => !file.handsOff && file.state !== 'missing',
  );
  return {
    going,
    items: ids.length,
    files: going.length,
    bytes: going.reduce((sum, { size }) => sum + size, 0),
    onlyCopies: await onlyCopiesAmong(db, ids),
    handsOff: handsOff.length,
    notHere: notHere.length,
    // A record written into a file meanwhile changes nothing of what goes; another picture under its name does.
    fingerprint: createHash('sha256')
      .update(
        JSON.stringify(
          going.map((file) => [
            ...[file.id, file.folder, file.name],
            file.essenceHash ?? file.contentHash,
          ]),
        ),
      )
      .digest('base64url'),
  };
}

/** What would go, how much that frees, and what stays; nothing is changed. */
export async function lettingGo(db: Kysely<Database>, itemIds: SeenIds): Promise<LettingGo> {
  const { items, files, bytes, onlyCopies, handsOff, notHere, fingerprint } = await plan(
    db,
    await filedOf(db, itemIds),
  );
  return { items, files, bytes, onlyCopies, handsOff, notHere, fingerprint };
}

/**
 * Let items go: noted in the ledger first, carried out by a job, given back by the ledger.
 * @param fingerprint of what was shown
 * @returns the operation
 * @throws ArchiveError conflict where something changed since, not-found where nothing can go
 */
export async function letGo(
  db: Kysely<Database>,
  actorId: string | null,
  itemIds: SeenIds,
  fingerprint?: string,
): Promise<string> {
  const { going, items, bytes, fingerprint: now } = await plan(db, await filedOf(db, itemIds));
  if (fingerprint !== undefined && fingerprint !== now)
    throw new ArchiveError(
      'conflict',
      'Something was changed since this was shown; look at it again.',
    );
  if (items === 0) throw new ArchiveError('not-found', 'None of these can be let go.');
  going.forEach(refuseHandsOff);
  const id = newId();
  const summary = `Put ${counted(items, 'item')} into the wastebasket, ${formatBytes(bytes)}`;
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('operation')
      .values({ id, kind: 'waste', summary, actorId, undoes: null, total: going.length })
      .execute();
    await insertSteps(
      transaction,
      going.map((file, position) => ({
        operationId: id,
        position,
        action: 'move' as const,
        itemId: file.itemId,
        fileId: file.id,
        before: { folder: file.folder, name: file.name },
        after: { folder: WASTEBASKET, name: wasteName(id, position, file.name) },
      })),
    );
    await enqueue(transaction, [
      {
        task: 'operation',
        title: `Putting ${counted(items, 'item')} into the wastebasket`,
        subject: id,
        operationId: id,
        createdBy: actorId,
        total: going.length,
        unit: 'files',
      },
    ]);
  });
  return id;
}

/** What one step put into the wastebasket. */
export interface Wasted {
  /** The operation. */
  id: string;
  actor: string;
  at: Date;
  items: number;
  files: number;
  bytes: number;
  /** Some of the names and where they lay. */
  names: { name: string; folder: string; number: string }[];
}

/** Files that lie in the wastebasket, each with the step that put it there last. */
const LYING = sql`select distinct on (f.id) f.id, f.item_id, f.name, f.size, f.role,
    s.operation_id, s.before, p.root, p.here, p.hands_off, p.name as place
  from file f join folder d on d.id = f.folder_id and d.path = ${WASTEBASKET} join place p on p.id = f.place_id
  join operation_step s on s.item_id = f.item_id and s.file_id = f.id and s.state = 'done' and s.after->>'name' = f.name
  join operation o on o.id = s.operation_id and o.kind = 'waste' and o.state = 'done'
  where f.state <> 'missing' order by f.id, o.created_at desc`;

/** Lines on a page, and names told of each. */
export const WASTE_PAGE = 50;
const MOST_NAMES = 8;

/** Steps whose files lie in the wastebasket, newest first. */
export async function wasted(
  db: Kysely<Database>,
  page = 0,
): Promise<{ lines: Wasted[]; total: number; bytes: number }> {
  const { rows } = await sql<Wasted & { total: number; all: number }>`
    with lying as (${LYING}), grouped as (
      select operation_id, count(*)::int as files, count(distinct item_id)::int as items, sum(size)::float8 as bytes
      from lying group by 1
    )
    select o.id, coalesce(a.name, 'the command line') as actor, o.created_at as at, g.items, g.files, g.bytes,
      (select coalesce(json_agg(n), '[]') from (
        select l.before->>'name' as name, l.before->>'folder' as folder, i.number
        from lying l join item i on i.id = l.item_id
        where l.operation_id = o.id and l.role = 'original' order by i.number limit ${MOST_NAMES}) n) as names,
      count(*) over ()::int as total, sum(g.bytes) over ()::float8 as "all"
    from grouped g join operation o on o.id = g.operation_id left join person a on a.id = o.actor_id
    order by o.created_at desc, o.id limit ${WASTE_PAGE} offset ${page * WASTE_PAGE}`.execute(db);
  return {
    lines: rows.map(({ id, actor, at, items, files, bytes, names }) => ({
      id,
      actor,
      at,
      items,
      files,
      bytes,
      names,
    })),
    total: rows[0]?.total ?? 0,
    bytes: rows[0]?.all ?? 0,
  };
}

const AT_ONCE = 500;
const DAY_MS = 86_400_000;

interface Lying {
  id: string;
  root: string;
  name: string;
  size: number;
  here: boolean;
  handsOff: boolean;
  place: string;
}

/** Remove one file for good. @throws ArchiveError where its place is away or hands off */
async function removeOne({ root, name, here, handsOff, place }: Lying): Promise<string> {
  if (!here) throw new ArchiveError('not-found', `“${place}” is away.`);
  refuseHandsOff({ place, handsOff });
  const folder = joinPath(root, WASTEBASKET);
  await realInside(folder, root);
  await removeFile(joinPath(folder, name));
  return folder;
}

/**
 * Remove for good what lies in the wastebasket. No ledger gives it back. What is just being given back stays.
 * @param operationId of one step; null: of all
 */
export async function emptyWastebasket(
  house: House,
  actorId: string | null,
  operationId: string | null,
): Promise<{ files: number; bytes: number; kept: number }> {
  const { db } = house;
  const emptied = { files: 0, bytes: 0, kept: 0 };
  const folders = new Set<string>();
  const isWished = sql`(${operationId}::uuid is null or o.id = ${operationId}::uuid)`;
  let last: string | null = null;
  for (;;) {
    const after: string | null = last;
    const { rows }: { rows: Lying[] } = await sql<Lying>`with lying as (${LYING})
      select l.id, l.root, l.name, l.size::float8 as size, l.here, l.hands_off, l.place
      from lying l join operation o on o.id = l.operation_id
      where ${isWished} and (${after}::uuid is null or l.id > ${after}::uuid)
      and not exists (select from operation u where u.undoes = o.id and u.state in ('planned', 'doing'))
      order by l.id limit ${AT_ONCE}`.execute(db);
    if (rows.length === 0) break;
    last = rows.at(-1)!.id;
    const gone: string[] = [];
    for (const one of rows) {
      try {
        folders.add(await removeOne(one));
        gone.push(one.id);
        emptied.files += 1;
        emptied.bytes += one.size;
      } catch (error) {
        house.log.warn({ file: one.id, error: sentenceOf(error) }, 'stays in the wastebasket');
        emptied.kept += 1;
      }
    }
    await db
      .updateTable('file')
      .set({ state: 'missing', missingSince: house.now() })
      .where('id', '=', sql<string>`any(${gone}::uuid[])`)
      .execute();
  }
  for (const folder of folders) await syncFolder(folder).catch(() => undefined);
  // What could not be removed stays listed.
  await sql`with lying as (${LYING})
    update operation o set emptied_at = now() where o.kind = 'waste' and o.state = 'done' and o.emptied_at is null
    and ${isWished}
    and not exists (select from operation u where u.undoes = o.id and u.state <> 'failed')
    and not exists (select from lying l where l.operation_id = o.id)`.execute(db);
  if (emptied.files > 0) {
    const summary = `Removed ${counted(emptied.files, 'file')} of the wastebasket for good, ${formatBytes(emptied.bytes)}`;
    await db
      .insertInto('operation')
      .values({
        id: newId(),
        kind: 'empty',
        summary,
        state: 'done',
        actorId,
        undoes: null,
        total: emptied.files,
        finishedAt: house.now(),
      })
      .execute();
  }
  await notifyItems(db, 'many');
  return emptied;
}

/** Remove for good what was discarded so many days ago or earlier; nought: never. */
export async function emptyOld(house: House, days: number): Promise<void> {
  if (days === 0) return;
  const old = await house.db
    .selectFrom('operation')
    .select('id')
    .where('kind', '=', 'waste')
    .where('state', '=', 'done')
    .where('emptiedAt', 'is', null)
    .where('createdAt', '<', new Date(house.now().getTime() - days * DAY_MS))
    .orderBy('createdAt')
    .limit(AT_ONCE)
    .execute();
  for (const { id } of old) await emptyWastebasket(house, null, id);
}
