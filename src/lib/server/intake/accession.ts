import { sql, type Kysely } from 'kysely';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { formatAccession } from '#core/catalogue/number';
import { planTargets } from '#core/intake/plan';
import { isSidecar } from '#core/kinds/kinds';
import { nameKey, type NameSubject } from '#core/naming/pattern';
import { parseWallClock } from '#core/records/taken';
import { counted } from '#core/text/quantities';
import type { Database, Plan, Source } from '../db/schema';
import { namesIn, walk } from '../files/disk';
import { isInside, joinPath, splitPath } from '../files/paths';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { placeById, type Place } from '../places/places';
import { readScan, type ScanFile } from './scan';

export const planSchema = z.object({
  filing: z.string().max(500),
  naming: z.string().min(1, 'a name pattern is needed').max(300),
  terms: z.array(z.string().trim().min(1).max(200)).max(100),
});

export interface NewAccession {
  title: string;
  source: Source;
  /** Absolute path text of the folder read from. */
  root: string;
  mode: 'copy' | 'in-place';
  place: Place;
  plan: Plan;
  /** Paths below the root, in the order in which counters step. */
  files: { path: string; size: number }[];
  actorId: string | null;
}

/** Arbitrary, constant: accession numbers are given one at a time. */
const NUMBER_LOCK = 4_180_002;

/**
 * Open an accession and put its work into the queue. Nothing is read or copied yet.
 * @throws ArchiveError value-refused, pattern-unclear, not-allowed
 */
export async function startAccession(
  db: Kysely<Database>,
  wish: NewAccession,
): Promise<{ id: string; number: string; jobId: string }> {
  if (wish.files.length === 0)
    throw new ArchiveError('value-refused', 'There is nothing to bring in.');
  if (wish.mode === 'copy') {
    planTargets(wish.plan, [], () => new Set());
    if (wish.place.handsOff)
      throw new ArchiveError(
        'not-allowed',
        `“${wish.place.name}” is hands off: nothing of ours writes there.`,
      );
    if (isInside(wish.place.root, wish.root) || isInside(wish.root, wish.place.root))
      throw new ArchiveError(
        'value-refused',
        `“${wish.root}” and the place “${wish.place.name}” lie within each other; keep in place instead.`,
      );
  } else if (!isInside(wish.root, wish.place.root))
    throw new ArchiveError(
      'outside-place',
      `“${wish.root}” is not inside the place “${wish.place.name}”.`,
    );
  const id = newId();
  const year = new Date().getFullYear();
  return db.transaction().execute(async (transaction) => {
    await sql`select pg_advisory_xact_lock(${NUMBER_LOCK})`.execute(transaction);
    const { number } = await transaction
      .selectFrom('accession')
      .select(sql<number>`coalesce(max(number), 0) + 1`.as('number'))
      .where('year', '=', year)
      .executeTakeFirstOrThrow();
    await transaction
      .insertInto('accession')
      .values({
        id,
        year,
        number,
        title: wish.title,
        source: JSON.stringify(wish.source),
        plan: JSON.stringify(wish.plan),
        root: wish.root,
        mode: wish.mode,
        placeId: wish.place.id,
        createdBy: wish.actorId,
      })
      .execute();
    const rows = wish.files.map(({ path, size }, position) => ({
      id: newId(),
      accessionId: id,
      position,
      sourcePath: path,
      size,
      reason: null,
      folder: null,
      name: null,
      contentHash: null,
      itemId: null,
    }));
    for (let at = 0; at < rows.length; at += 1000)
      await transaction
        .insertInto('accessionEntry')
        .values(rows.slice(at, at + 1000))
        .execute();
    const label = formatAccession(year, number);
    const [jobId] = await enqueue(transaction, [
      {
        task: 'intake',
        title: `Bringing in ${counted(rows.length, 'file')} as ${label}`,
        subject: id,
        accessionId: id,
        createdBy: wish.actorId,
        total: rows.length,
        unit: 'files',
      },
    ]);
    return { id, number: label, jobId: jobId! };
  });
}

/** All files below a folder that can become items. */
export async function filesToBring(root: string): Promise<{ path: string; size: number }[]> {
  return (await walk(root)).filter((file) => !isSidecar(file.path));
}

export const subjectOf = (
  file: Pick<ScanFile, 'path' | 'takenFrom' | 'takenPrecision' | 'camera' | 'creator' | 'title'>,
): NameSubject => {
  const { name } = splitPath(file.path);
  const text = file.takenFrom;
  return {
    name,
    original: name,
    taken: text ? parseWallClock(text) : null,
    precision: (file.takenPrecision as NameSubject['precision'] | null) ?? 'span',
    camera: file.camera,
    creator: file.creator,
    title: file.title,
    number: '',
    folder: '',
  };
};

export interface PlanPreview {
  /** New path by position. */
  lines: { position: number; from: string; folder: string; name: string; problem: string | null }[];
  folders: { path: string; count: number; joins: number }[];
  problems: number;
  bytes: number;
}

/** Folders and names a plan gives the chosen files of a scan; nothing is written. */
export async function previewPlan(
  db: Kysely<Database>,
  scanId: string,
  positions: number[],
  placeId: string,
  plan: Plan,
): Promise<PlanPreview> {
  const scan = await readScan(db, scanId);
  const place = await placeById(db, placeId);
  const wished = new Set(positions);
  const files = scan.files.filter((file) => wished.has(file.position));
  const names = new Map<string, Set<string>>();
  // A first pass tells which folders to look into; the second then avoids the names they hold.
  const first = planTargets(plan, files.map(subjectOf), () => new Set());
  for (const folder of new Set(
    first.filter((target) => target.problem === null).map((target) => target.folder),
  ))
    names.set(folder, new Set((await namesIn(joinPath(place.root, folder))).map(nameKey)));
  const targets = planTargets(
    plan,
    files.map(subjectOf),
    (folder) => names.get(folder) ?? new Set(),
  );
  const counts = new Map<string, number>();
  for (const { folder } of targets) counts.set(folder, (counts.get(folder) ?? 0) + 1);
  return {
    lines: files.map((file, index) => ({
      position: file.position,
      from: splitPath(file.path).name,
      ...targets[index]!,
    })),
    folders: [...counts].map(([path, count]) => ({
      path,
      count,
      joins: names.get(path)?.size ?? 0,
    })),
    problems: targets.filter((target) => target.problem !== null).length,
    bytes: files.reduce((sum, file) => sum + file.size, 0),
  };
}

export interface AccessionLine {
  id: string;
  number: string;
  title: string;
  state: string;
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
