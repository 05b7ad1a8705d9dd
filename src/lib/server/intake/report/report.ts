import { stringify } from 'csv-stringify/sync';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../../db/schema';
import { accessions, type AccessionLine } from './accessions';
import { isHeld } from '../../sight/seen';

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
      and ${isHeld('i')} and ${isHeld('o')}
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
  /** Files by what became of them, whatever of them is listed. */
  files: number;
  /** As many as were asked for. */
  lines: ReportLine[];
}

/** Which files of an accession are listed. */
export interface ReportPage {
  shows?: 'all' | 'done' | 'skipped' | 'failed';
  limit?: number;
}

/** How an accession's files stand, counted in the database. */
async function standing(db: Kysely<Database>, id: string) {
  const { rows } = await sql<{
    files: number;
    bytes: string;
    checked: number;
    removed: number;
    refused: number;
    seconds: number;
    secondsFailed: number;
  }>`select count(*)::int as files,
      coalesce(sum(size) filter (where state = 'done'), 0)::text as bytes,
      count(*) filter (where state = 'done' and verified_at is not null)::int as checked,
      count(*) filter (where source_state = 'removed')::int as removed,
      count(*) filter (where source_state = 'refused')::int as refused,
      count(*) filter (where second_state = 'done')::int as seconds,
      count(*) filter (where second_state = 'failed')::int as "secondsFailed"
    from accession_entry where accession_id = ${id}::uuid`.execute(db);
  return rows[0]!;
}

async function linesOf(
  db: Kysely<Database>,
  id: string,
  { shows = 'all', limit }: ReportPage,
): Promise<ReportLine[]> {
  let query = db
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
    .orderBy('e.position');
  if (shows !== 'all') query = query.where('e.state', '=', shows);
  if (limit !== undefined) query = query.limit(limit);
  return (await query.execute()).map(({ folder, name, ...row }) => ({
    ...row,
    to: row.state === 'done' ? [folder, name].filter(Boolean).join('/') : null,
  }));
}

/** Everything that is known of an accession. @throws ArchiveError not-found */
export async function report(
  db: Kysely<Database>,
  id: string,
  page: ReportPage = {},
): Promise<AccessionReport> {
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
  const { seconds, secondsFailed, ...stands } = await standing(db, id);
  const bytes = Number(stands.bytes);
  const { startedAt, finishedAt, root, placeRoot, by, manifests } = about;
  const took = startedAt && finishedAt ? (finishedAt.getTime() - startedAt.getTime()) / 1000 : null;
  return {
    ...line,
    root,
    placeRoot,
    by,
    manifests,
    startedAt,
    finishedAt,
    ...stands,
    secondPlace: second?.name ?? null,
    bytes,
    speed: took ? bytes / took : null,
    seconds: { done: seconds, failed: secondsFailed },
    lines: await linesOf(db, id, page),
  };
}

/** Pictures of what came in last, newest first, of those that have one. */
export async function latestPictures(
  db: Kysely<Database>,
  id: string,
  limit: number,
): Promise<{ number: string; name: string; picture: string; aspect: number }[]> {
  const { rows } = await sql<{ number: string; name: string; picture: string; aspect: number }>`
    select i.number, f.name, i.id || '/' || f.picture_key as picture, r.width::float8 / nullif(r.height, 0) as aspect
    from item i join file f on f.item_id = i.id and f.role = 'original'
    join rendition r on r.picture_key = f.picture_key and r.recipe = 'small'
    where i.accession_id = ${id}::uuid and ${isHeld('i')} and i.no_picture is null
    order by r.made_at desc, i.number desc limit ${limit}`.execute(db);
  return rows;
}

const HEAD = [
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

/**
 * The report as CSV (RFC 4180), one line for each file. A value that a spreadsheet would read as a formula is kept
 * as text.
 */
export const reportCsv = ({ number, lines }: AccessionReport): string =>
  stringify(
    [
      HEAD,
      ...lines.map((line) => [
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
      ]),
    ],
    { record_delimiter: 'windows', escape_formulas: true },
  );
