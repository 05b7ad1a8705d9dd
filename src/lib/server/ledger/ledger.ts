import { isDeepStrictEqual } from 'node:util';
import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { entryName, type ListKey, type TermEntry } from '#core/lists/entries';
import type { LedgerKind } from '#core/ledger/kinds';
import { sightOf, type Viewer } from '#core/sight/viewer';
import { FIELDS, type FieldKey } from '#core/records/fields';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { counted } from '#core/text/quantities';
import { likeText } from '#core/text/like';
import { fromPlaces } from '#core/text/paths';
import { placeRoots } from '../files/located';
import { changeLists, readEntries, type EntryChange } from '../lists/journal';
import { undoFolders } from '../places/emptyFolders';
import { applySteps, differences, overlay, readRecords, type RecordStep } from '../records/records';
import { lockRecords } from '../records/store';
import { withinAccess } from '../sight/seen';
import { presentStages } from '../stages/stages';
import { presentLabels } from '../terms/terms';

export interface LedgerLine {
  id: string;
  kind: LedgerKind;
  summary: string;
  state: string;
  actor: string;
  at: Date;
  total: number;
  done: number;
  failed: number;
  /** It takes back another one. */
  undoes: string | null;
  /** It was taken back. */
  undone: boolean;
  canUndo: boolean;
}

/** Which lines are asked for; a part that is not said lets all through. */
export interface LedgerWish {
  /** Id of a person; `none` for what no person did. */
  who?: string | undefined;
  kind?: LedgerLine['kind'] | undefined;
  /** First and last day, `2026-09-12`, as the server's clock counts days. */
  from?: string | undefined;
  to?: string | undefined;
  /** Beginning of a catalogue number, or words of what was done. */
  about?: string | undefined;
}

/** Condition on `operation o`. */
export function wished({ who, kind, from, to, about }: LedgerWish) {
  const all = [sql<boolean>`o.kind <> 'rewrite'`];
  if (who) all.push(who === 'none' ? sql`o.actor_id is null` : sql`o.actor_id = ${who}::uuid`);
  if (kind) all.push(sql`o.kind = ${kind}`);
  if (from) all.push(sql`o.created_at >= ${from}::date`);
  if (to) all.push(sql`o.created_at < ${to}::date + 1`);
  if (about) {
    const like = likeText(about);
    all.push(sql`(o.summary ilike ${`%${like}%`} or exists (select from operation_step s
      join item i on i.id = s.item_id where s.operation_id = o.id and i.number like ${`${like}%`}))`);
  }
  return sql<boolean>`${sql.join(all, sql` and `)}`;
}

/** How many lines a wish finds. */
export async function ledgerCount(db: Kysely<Database>, wish: LedgerWish): Promise<number> {
  const { count } = await db
    .selectFrom('operation as o')
    .select(sql<number>`count(*)::int`.as('count'))
    .where(wished(wish))
    .executeTakeFirstOrThrow();
  return count;
}

/** Who has changed anything, by name. */
export const ledgerPeople = (db: Kysely<Database>): Promise<{ id: string; name: string }[]> =>
  db
    .selectFrom('person as p')
    .select(['p.id', 'p.name'])
    .where(({ exists, selectFrom }) =>
      exists(selectFrom('operation as o').select('o.id').whereRef('o.actorId', '=', 'p.id')),
    )
    .orderBy('p.name')
    .execute();

/** Lines on a page of the ledger. */
export const LEDGER_PAGE = 50;

/** Somebody paused the work of operation `o`. */
const isPaused = sql<boolean>`(o.state in ('planned', 'doing')
  and exists (select from job j where j.operation_id = o.id and j.state = 'paused'))`;

const lines = (db: Kysely<Database>) =>
  db
    .selectFrom('operation as o')
    .leftJoin('person as a', 'a.id', 'o.actorId')
    .select(['o.id', 'o.kind', 'o.summary', 'o.createdAt', 'o.total', 'o.undoes', 'a.name'])
    .select([
      sql<number>`(select count(*) from operation_step s where s.operation_id = o.id and s.state = 'done')::int`.as(
        'done',
      ),
      sql<number>`(select count(*) from operation_step s where s.operation_id = o.id and s.state = 'failed')::int`.as(
        'failed',
      ),
      'o.emptiedAt',
      sql<string>`case when ${isPaused} then 'paused' else o.state end`.as('state'),
      sql<boolean>`exists (select from operation u where u.undoes = o.id and u.state <> 'failed')`.as(
        'undone',
      ),
    ])
    .orderBy('o.createdAt', 'desc')
    .orderBy('o.id', 'desc');

type LineRow = Awaited<ReturnType<ReturnType<typeof lines>['execute']>>[number];
const lineOf = (row: LineRow): LedgerLine => ({
  id: row.id,
  kind: row.kind as LedgerKind,
  summary: row.summary,
  state: row.state,
  actor: row.name ?? 'the command line',
  at: row.createdAt,
  total: row.total,
  done: row.done,
  failed: row.failed,
  undoes: row.undoes,
  undone: row.undone,
  canUndo: row.state === 'done' && !row.undone && row.done > 0 && row.emptiedAt === null,
});

/** Operations, newest first, in pages. */
export async function ledger(
  db: Kysely<Database>,
  page = 0,
  size = LEDGER_PAGE,
  wish: LedgerWish = {},
): Promise<LedgerLine[]> {
  const rows = await lines(db)
    .where(wished(wish))
    .limit(size)
    .offset(page * size)
    .execute();
  return rows.map(lineOf);
}

/** Some operations, newest first. */
export async function linesOf(db: Kysely<Database>, ids: readonly string[]): Promise<LedgerLine[]> {
  const rows = await lines(db)
    .where('o.id', '=', sql<string>`any(${[...ids]}::uuid[])`)
    .where('o.kind', '<>', 'rewrite')
    .execute();
  return rows.map(lineOf);
}

export interface LedgerStep {
  position: number;
  number: string;
  itemId: string | null;
  before: Record<string, unknown>;
  after: Record<string, unknown>;
  state: string;
  reason: string | null;
}

/** Both sides of `operation_step s`, places by their names. */
export const TOLD_SIDES = (['before', 'after'] as const).map((side) => {
  const own = sql.ref(`s.${side}`);
  return sql<
    Record<string, unknown>
  >`case when ${own} ? 'placeId' then ${own} - 'placeId' || jsonb_build_object('place',
    (select name from place where id = (${own} ->> 'placeId')::uuid)) else ${own} end`.as(side);
});

/** What one operation did, step by step. */
export async function operationSteps(
  db: Kysely<Database>,
  viewer: Viewer,
  operationId: string,
  limit = 500,
): Promise<LedgerStep[]> {
  const places = await placeRoots(db);
  const rows = await db
    .selectFrom('operationStep as s')
    .leftJoin('item as i', 'i.id', 's.itemId')
    .where(sql<boolean>`(s.item_id is null or ${withinAccess(sightOf(viewer, 'list'), 'i')})`)
    .select(['s.position', 's.itemId', 's.state', 's.reason'])
    .select(TOLD_SIDES)
    .select((select) => select.fn.coalesce('i.number', sql<string>`''`).as('number'))
    .where('s.operationId', '=', operationId)
    .orderBy('s.position')
    .limit(limit)
    .execute();
  return rows.map((row) => ({ ...row, reason: row.reason && fromPlaces(row.reason, places) }));
}

/**
 * Take an operation back: a new operation with the steps the other way round. Undoing an undo does it again.
 * @param partly give back what can be, where later changes stand in the way of the rest
 * @returns the new operation
 * @throws ArchiveError not-found; conflict, with what stands in the way
 */
export async function undo(
  db: Kysely<Database>,
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
  if (!operation || operation.kind === 'rewrite')
    throw new ArchiveError('not-found', 'The ledger does not list this.');
  if (operation.isPaused)
    throw new ArchiveError(
      'conflict',
      'This is paused: under Underway it goes on, or is cancelled; what was done can be undone then.',
    );
  if (operation.state !== 'done')
    throw new ArchiveError('conflict', 'This is not finished yet; wait, then undo it.', {
      isUnfinished: true,
    });
  const already = await db
    .selectFrom('operation')
    .select('id')
    .where('undoes', '=', operationId)
    .where('state', '<>', 'failed')
    .executeTakeFirst();
  const rest = already && operation.kind === 'waste' ? await stillWasted(db, operationId) : [];
  if (already && rest.length === 0) throw new ArchiveError('conflict', 'This was undone already.');
  if (operation.kind === 'empty' || operation.emptiedAt)
    throw new ArchiveError('conflict', 'These files were removed for good.');
  if (operation.kind === 'record') return undoRecords(db, actorId, operationId, partly);
  if (operation.kind === 'lists') return undoLists(db, actorId, operation, partly);
  if (operation.kind === 'folders')
    return undoFolders(db, actorId, operation.id, operation.summary);
  return undoMoves(db, actorId, { ...operation, kind: operation.kind }, rest);
}

/** A value of an operation that was changed again since: to give it back would undo that too. */
export interface Standing {
  number: string;
  field: FieldKey;
}

const MOST_TOLD = 20;

/** @throws ArchiveError conflict naming what stands in the way */
function refuseStanding(standing: Standing[], rest: number): never {
  const first = standing
    .slice(0, 3)
    .map(({ number, field }) => `${FIELDS[field].label.toLowerCase()} of ${number}`)
    .join(', ');
  throw new ArchiveError(
    'conflict',
    `${counted(standing.length, 'value')} ${standing.length === 1 ? 'was' : 'were'} changed again since: ${first}${standing.length > 3 ? ' …' : ''}. ${
      rest > 0 ? 'The rest can be given back.' : 'Undo the later change first.'
    }`,
    { standing: standing.slice(0, MOST_TOLD), rest },
  );
}

/** A step of the ledger that changed a record. */
interface Told {
  itemId: string | null;
  before: Record<string, unknown>;
  after: Record<string, unknown>;
}

/** Terms and stages that are called otherwise by now, under their present names. */
async function underPresentNames(db: Transaction<Database>, rows: Told[]): Promise<Told[]> {
  const all = rows.flatMap(({ before, after }) => [before, after]);
  const labels = all.flatMap(({ terms }) => (terms ?? []) as string[]);
  const names = all.flatMap(({ stage }) => (stage ? [stage as string] : []));
  const terms = await presentLabels(db, [...new Set(labels)]);
  const stages = await presentStages(db, [...new Set(names)]);
  const now = (values: Record<string, unknown>): Record<string, unknown> => ({
    ...values,
    ...(values['terms']
      ? {
          terms: [
            ...new Set((values['terms'] as string[]).map((one) => terms.get(one) ?? one)),
          ].sort(),
        }
      : {}),
    ...(values['stage'] ? { stage: stages.get(values['stage'] as string) ?? values['stage'] } : {}),
  });
  return rows.map(({ itemId, before, after }) => ({
    itemId,
    before: now(before),
    after: now(after),
  }));
}

/** What gives records back what they said before some steps, and what was changed again since. */
async function backSteps(
  db: Transaction<Database>,
  rows: Told[],
): Promise<{ steps: RecordStep[]; standing: Standing[] }> {
  const ids = rows.flatMap((row) => row.itemId ?? []);
  await lockRecords(db, ids);
  const byId = new Map((await readRecords(db, ids)).map((record) => [record.id, record]));
  const standing: Standing[] = [];
  const steps = rows.flatMap((row): RecordStep[] => {
    const record = byId.get(row.itemId!);
    if (!record) return [];
    const { values, number } = record;
    const wrote = overlay(values, row.after);
    const touched = new Set(differences(values, wrote));
    const wished = differences(values, overlay(values, row.before));
    for (const field of wished) if (touched.has(field)) standing.push({ number, field });
    const keys = wished.filter((key) => !touched.has(key));
    const before = Object.fromEntries(keys.map((key) => [key, row.before[key]]));
    const after = overlay(values, before);
    return keys.length > 0 ? [{ itemId: row.itemId!, before: values, after, keys }] : [];
  });
  return { steps, standing };
}

const doneSteps = (db: Transaction<Database>, operationId: string) =>
  db
    .selectFrom('operationStep')
    .select(['action', 'itemId', 'before', 'after'])
    .where('operationId', '=', operationId)
    .where('state', '=', 'done')
    .orderBy('position')
    .execute();

async function undoRecords(
  db: Kysely<Database>,
  actorId: string | null,
  operationId: string,
  partly: boolean,
): Promise<string> {
  return db.transaction().execute(async (transaction) => {
    const rows = await doneSteps(transaction, operationId);
    const { steps, standing } = await backSteps(
      transaction,
      await underPresentNames(transaction, rows),
    );
    if (standing.length > 0 && (steps.length === 0 || !partly))
      refuseStanding(standing, steps.length);
    if (steps.length === 0)
      throw new ArchiveError('conflict', 'These records hold their former values already.');
    return (await applySteps(transaction, actorId, steps, operationId)).operationId;
  });
}

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
async function undoLists(
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
      if (!isDeepStrictEqual(now, entry))
        throw new ArchiveError(
          'conflict',
          `“${entryName((now ?? entry) as TermEntry)}” was changed again since. Undo the later change first.`,
        );
      entries.push({ list, id, before: now, after: was.entry });
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

type Movement = 'rename' | 'filing' | 'waste';
/** Steps whose files could not be given back and lie in the wastebasket still. */
async function stillWasted(db: Kysely<Database>, operationId: string): Promise<number[]> {
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
async function undoMoves(
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
