import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { sql, type Kysely } from 'kysely';
import { formatAccession } from '#core/catalogue/number';
import { ArchiveError } from '#core/errors';
import type { LeftOut } from '#core/intake/leftOut';
import type { Kind } from '#core/kinds/kinds';
import type { FieldKey } from '#core/records/fields';
import { counted } from '#core/text/quantities';
import type { Database } from '../../db/schema';
import type { Alike } from '#core/likeness/alike';
import type { Source } from '#core/intake/facts';
import { joinPath, realInside, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { newId } from '../../house/ids';
import { enqueue } from '../../jobs/queue';
import { lookOver } from '../sources/files';
import { rootOfSource } from '../sources/sources';

const MOST_FILES = 100_000;
/** More than these nobody reads; the accession lists what a source leaves out. */
const MOST_LEFT_OUT = 2000;

export const previewFile = (house: House, scanId: string, position: number): string =>
  join(house.folders.cache, 'scans', scanId, `${position}.webp`);

/** Begin to look through a source; nothing of it is copied. @returns the scan */
export async function startScan(
  house: House,
  actorId: string | null,
  source: Source,
): Promise<string> {
  const root = await rootOfSource(house, source);
  const { files, leftOut } = await lookOver(root);
  if (files.length > MOST_FILES)
    throw new ArchiveError(
      'value-refused',
      `There are ${counted(files.length, 'file')}; a look takes ${counted(MOST_FILES, 'file')} at most. Look into its folders one by one.`,
    );
  const id = newId();
  await house.db.transaction().execute(async (db) => {
    await db
      .insertInto('scan')
      .values({
        id,
        source: JSON.stringify(source),
        root,
        createdBy: actorId,
        reason: null,
        leftOut: JSON.stringify(leftOut.slice(0, MOST_LEFT_OUT)),
      })
      .execute();
    // One statement for all: a card of thousands is on the table within a moment.
    const rows = files.map(({ path, size, modifiedNs }, position) => ({
      position,
      path,
      size,
      modified: String(modifiedNs),
    }));
    await sql`insert into scan_file (scan_id, position, path, size, modified_ns)
      select ${id}, position, path, size, modified from json_to_recordset(${JSON.stringify(rows)})
        as row(position integer, path text, size bigint, modified numeric)`.execute(db);
    await enqueue(db, [
      {
        task: 'scan',
        title: `Looking through ${splitPath(source.name).name}`,
        subject: id,
        createdBy: actorId,
        total: files.length,
        unit: 'files',
      },
    ]);
  });
  return id;
}

export interface ScanFile {
  position: number;
  path: string;
  size: number;
  lookedAt: boolean;
  kind: Kind;
  format: string;
  takenFrom: string | null;
  takenPrecision: string | null;
  camera: string;
  creator: string;
  title: string;
  aspect: number;
  problem: string | null;
  held: string | null;
  heldItemId: string | null;
  /** Fields in which it tells something else than the item that holds its picture. */
  heldDiffers: FieldKey[];
  /** Number of the accession that took it already. */
  taken: string | null;
  /** Position of an earlier file of this source with the same picture or bytes. */
  twinPosition: number | null;
  /** Twins and lookalikes, nearest first. */
  alike: Alike[];
}

export interface Scan {
  id: string;
  source: Source;
  /** Absolute path text of the folder looked through. */
  root: string;
  state: string;
  reason: string | null;
  /** Likenesses have been compared. */
  alikeDone: boolean;
  /** What is not brought in, and why. */
  leftOut: LeftOut[];
  files: ScanFile[];
}

/** Files of a source that a plan took since it was looked at: the accession's number by size and path. */
async function takenBy(
  db: Kysely<Database>,
  scan: { root: string; createdAt: Date },
): Promise<Map<string, string>> {
  const rows = await db
    .selectFrom('accession as a')
    .innerJoin('accessionEntry as e', 'e.accessionId', 'a.id')
    .select(['a.year', 'a.number', 'e.sourcePath', 'e.size'])
    .where('a.root', '=', scan.root)
    .where('a.state', '<>', 'cancelled')
    .where('a.createdAt', '>=', scan.createdAt)
    .where('e.state', 'in', ['planned', 'placing', 'done'])
    .orderBy('a.createdAt')
    .execute();
  return new Map(
    rows.map(({ year, number, sourcePath, size }) => [
      `${size} ${sourcePath}`,
      formatAccession(year, number),
    ]),
  );
}

/** A scan with all its files. @throws ArchiveError not-found */
export async function readScan(db: Kysely<Database>, id: string): Promise<Scan> {
  const scan = await db.selectFrom('scan').selectAll().where('id', '=', id).executeTakeFirst();
  if (!scan)
    throw new ArchiveError('not-found', 'This look at a source is not kept any more; look again.');
  const files = await db
    .selectFrom('scanFile as s')
    .leftJoin('item as i', 'i.id', 's.heldItemId')
    .select([
      's.position',
      's.path',
      's.size',
      's.lookedAt',
      's.kind',
      's.format',
      's.takenFrom',
      's.takenPrecision',
    ])
    .select([
      's.camera',
      's.creator',
      's.title',
      's.aspect',
      's.problem',
      'i.number as held',
      's.heldItemId',
      's.heldDiffers',
      's.twinPosition',
      's.alike',
    ])
    .where('s.scanId', '=', id)
    .orderBy(sql`coalesce(s.taken_from, 'infinity')`)
    .orderBy('s.path')
    .execute();
  const taken = await takenBy(db, scan);
  return {
    id,
    source: scan.source,
    root: scan.root,
    state: scan.state,
    reason: scan.reason,
    alikeDone: scan.alikeDone,
    leftOut: scan.leftOut,
    files: files.map((file) => ({
      ...file,
      taken: taken.get(`${file.size} ${file.path}`) ?? null,
    })),
  };
}

/** Looks older than a week are forgotten with their previews. */
export async function forgetOldScans(house: House): Promise<void> {
  const gone = await house.db
    .deleteFrom('scan')
    .where('createdAt', '<', sql<Date>`now() - interval '7 days'`)
    .returning('id')
    .execute();
  for (const { id } of gone)
    await rm(join(house.folders.cache, 'scans', id), { recursive: true, force: true });
}

/** Absolute path text of one file of a scan. @throws ArchiveError not-found, outside-place */
export async function pathInScan(
  db: Kysely<Database>,
  scanId: string,
  position: number,
): Promise<string> {
  const file = await db
    .selectFrom('scanFile as f')
    .innerJoin('scan as s', 's.id', 'f.scanId')
    .select(['s.root', 'f.path'])
    .where('f.scanId', '=', scanId)
    .where('f.position', '=', position)
    .executeTakeFirst();
  if (!file) throw new ArchiveError('not-found', 'This file is not in the source.');
  return realInside(joinPath(file.root, file.path), file.root);
}
