import { sql, type Kysely } from 'kysely';
import type { Database } from '../db/schema';
import type { DeedName } from '#core/deeds/kinds';
import { sightOf, type Viewer } from '#core/sight/viewer';
import { likeText } from '#core/text/like';
import { fromPlaces } from '#core/text/paths';
import { placeRoots } from '../files/located';
import { withinAccess } from '../sight/seen';

export interface LedgerLine {
  id: string;
  kind: DeedName;
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
export const isPaused = sql<boolean>`(o.state in ('planned', 'doing')
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
  kind: row.kind as DeedName,
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
