import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { formatAccession } from '#core/catalogue/number';
import type { Database, Source } from '../../db/schema';

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

export interface AlikeLine {
  number: string;
  kind: 'twin of' | 'lookalike of';
  of: string;
}

/** Items of an accession that are twins or lookalikes of others, in order; the first 2,000 ties. */
export async function alikeIn(db: Kysely<Database>, accessionId: string): Promise<AlikeLine[]> {
  const { rows } = await sql<AlikeLine>`
    select i.number, l.kind, o.number as of from lineage l
    join item i on i.id = l.item_id join item o on o.id = l.of_id
    where i.accession_id = ${accessionId}::uuid and l.kind in ('twin of', 'lookalike of')
      and i.deleted_at is null and o.deleted_at is null
    order by i.number, o.number limit 2000`.execute(db);
  return rows;
}

export interface ReportLine {
  position: number;
  from: string;
  /** Folder and name in the place; null where it was not brought in. */
  to: string | null;
  number: string | null;
  size: number;
  state: string;
  reason: string | null;
  xxh128: string | null;
  verifiedAt: Date | null;
  sourceState: string;
  sourceReason: string | null;
  secondState: string;
  secondReason: string | null;
  /** seconds added to the camera's clock */
  clockShift: number | null;
}

export interface AccessionReport extends AccessionLine {
  root: string;
  placeRoot: string;
  secondPlace: string | null;
  by: string | null;
  startedAt: Date | null;
  finishedAt: Date | null;
  /** bytes brought in */
  bytes: number;
  /** bytes a second over the whole of it; null while it runs */
  speed: number | null;
  /** Files whose copy was read back and compared. */
  checked: number;
  removed: number;
  refused: number;
  seconds: { done: number; failed: number };
  manifests: string[];
  lines: ReportLine[];
}

/** Everything that is known of an accession. @throws ArchiveError not-found */
export async function report(db: Kysely<Database>, id: string): Promise<AccessionReport> {
  const [line] = await accessions(db, 1, id);
  if (!line) throw new ArchiveError('not-found', 'There is no such accession.');
  const about = await db
    .selectFrom('accession as a')
    .innerJoin('place as p', 'p.id', 'a.placeId')
    .leftJoin('person as w', 'w.id', 'a.createdBy')
    .select(['a.root', 'a.plan', 'a.startedAt', 'a.finishedAt', 'a.manifests'])
    .select(['p.root as placeRoot', 'w.name as by'])
    .where('a.id', '=', id)
    .executeTakeFirstOrThrow();
  const second = about.plan.secondCopyId
    ? await db
        .selectFrom('place')
        .select('name')
        .where('id', '=', about.plan.secondCopyId)
        .executeTakeFirst()
    : undefined;
  const rows = await db
    .selectFrom('accessionEntry as e')
    .leftJoin('item as i', 'i.id', 'e.itemId')
    .select([
      'e.position',
      'e.sourcePath as from',
      'e.folder',
      'e.name',
      'i.number',
      'e.size',
      'e.state',
      'e.reason',
      'e.contentHash as xxh128',
      'e.verifiedAt',
      'e.sourceState',
      'e.sourceReason',
      'e.secondState',
      'e.secondReason',
      'e.clockShift',
    ])
    .where('e.accessionId', '=', id)
    .orderBy('e.position')
    .execute();
  const done = rows.filter(({ state }) => state === 'done');
  const bytes = done.reduce((sum, { size }) => sum + size, 0);
  const { startedAt, finishedAt } = about;
  const took = startedAt && finishedAt ? (finishedAt.getTime() - startedAt.getTime()) / 1000 : null;
  const { root, placeRoot, by, manifests } = about;
  return {
    ...line,
    root,
    placeRoot,
    by,
    manifests,
    startedAt,
    finishedAt,
    secondPlace: second?.name ?? null,
    bytes,
    speed: took ? bytes / took : null,
    checked: done.filter(({ verifiedAt }) => verifiedAt !== null).length,
    removed: rows.filter(({ sourceState }) => sourceState === 'removed').length,
    refused: rows.filter(({ sourceState }) => sourceState === 'refused').length,
    seconds: {
      done: rows.filter(({ secondState }) => secondState === 'done').length,
      failed: rows.filter(({ secondState }) => secondState === 'failed').length,
    },
    lines: rows.map(({ folder, name, ...row }) => ({
      ...row,
      to: row.state === 'done' ? [folder, name].filter(Boolean).join('/') : null,
    })),
  };
}

/** A value for a spreadsheet: one that would be read as a formula is kept as text. */
const cell = (value: unknown): string => {
  const text = value === null || value === undefined ? '' : String(value);
  const plain = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\n\r]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain;
};

/** The report as CSV (RFC 4180), one line for each file. */
export function reportCsv({ number, lines }: AccessionReport): string {
  const head = [
    'accession',
    'item',
    'from',
    'to',
    'bytes',
    'state',
    'reason',
    'xxh128',
    'verified',
    'second copy',
    'source',
    'clock shift (s)',
  ];
  const rows = lines.map((line) => [
    number,
    line.number,
    line.from,
    line.to,
    line.size,
    line.state,
    line.reason,
    line.xxh128,
    line.verifiedAt?.toISOString(),
    line.secondState === 'none' ? '' : (line.secondReason ?? line.secondState),
    line.sourceReason ?? line.sourceState,
    line.clockShift,
  ]);
  return [head, ...rows].map((row) => `${row.map(cell).join(',')}\r\n`).join('');
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
