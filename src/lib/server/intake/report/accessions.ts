import { sql, type Kysely } from 'kysely';
import { formatAccession } from '#core/catalogue/number';
import type { Database } from '../../db/schema';
import type { Source } from '#core/intake/facts';

export interface AccessionLine {
  id: string;
  number: string;
  title: string;
  state: string;
  /** Why it stopped; null where nothing is wrong. */
  reason: string | null;
  mode: string;
  place: string;
  source: Source;
  done: number;
  skipped: number;
  failed: number;
  open: number;
  createdAt: Date;
}

const entries = (...states: string[]) =>
  sql<number>`(select count(*) from accession_entry e
    where e.accession_id = a.id and e.state = any(${states}::text[]))::int`;

/** Accessions, newest first. */
export async function accessions(
  db: Kysely<Database>,
  limit = 30,
  id?: string,
): Promise<AccessionLine[]> {
  let query = db
    .selectFrom('accession as a')
    .innerJoin('place as p', 'p.id', 'a.placeId')
    .select([
      'a.id',
      'a.year',
      'a.number',
      'a.title',
      'a.state',
      'a.reason',
      'a.mode',
      'p.name as place',
      'a.source',
      'a.createdAt',
    ])
    .select([
      entries('done').as('done'),
      entries('skipped').as('skipped'),
      entries('failed').as('failed'),
      entries('planned', 'placing').as('open'),
    ])
    .orderBy('a.year', 'desc')
    .orderBy('a.number', 'desc')
    .limit(limit);
  if (id) query = query.where('a.id', '=', id);
  const rows = await query.execute();
  return rows.map(({ year, number, ...row }) => ({
    ...row,
    number: formatAccession(year, number),
  }));
}

/** What became of each file that was not simply brought in. */
export async function leftOver(
  db: Kysely<Database>,
  accessionId: string,
): Promise<{ path: string; state: string; reason: string | null }[]> {
  return db
    .selectFrom('accessionEntry')
    .select(['sourcePath as path', 'state', 'reason'])
    .where('accessionId', '=', accessionId)
    .where('state', 'in', ['skipped', 'failed'])
    .orderBy('position')
    .limit(2000)
    .execute();
}

/** Accessions looked back at to tell how fast this archive takes in. */
const LATEST = 5;

/** Bytes a second at which the latest copies came in here, verified; null before the first. */
export async function measuredSpeed(db: Kysely<Database>): Promise<number | null> {
  const { rows } = await sql<{ speed: number | null }>`
    select sum(bytes) / nullif(sum(seconds), 0) as speed from (
      select (select sum(e.size) from accession_entry e where e.accession_id = a.id and e.state = 'done')::float8 as bytes,
        extract(epoch from a.finished_at - a.started_at)::float8 as seconds
      from accession a
      where a.state = 'done' and a.mode <> 'in-place' and a.started_at is not null and a.finished_at > a.started_at
      order by a.finished_at desc limit ${LATEST}
    ) latest where bytes > 0`.execute(db);
  return rows[0]?.speed ?? null;
}
