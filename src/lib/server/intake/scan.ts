import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { sql, type Kysely } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { isSidecar, type Kind } from '#core/kinds/kinds';
import { precisionOf } from '#core/records/taken';
import type { Database, Source } from '../db/schema';
import { walk } from '../files/disk';
import { hashFile } from '../files/hash';
import { joinPath } from '../files/paths';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/run';
import { notify } from '../live/notify';
import { openPicture } from '../renditions/source';
import { readFacts } from './facts';
import { heldItems } from './held';
import { rootOfSource } from './sources';

const PREVIEW_EDGE = 480;
const MOST_FILES = 100_000;

export const previewFile = (house: House, scanId: string, position: number): string =>
  join(house.rooms.cache, 'scans', scanId, `${position}.webp`);

/** Begin to look through a source; nothing of it is copied. @returns the scan */
export async function startScan(
  house: House,
  actorId: string | null,
  source: Source,
): Promise<string> {
  const root = await rootOfSource(house, source);
  const files = (await walk(root)).filter((file) => !isSidecar(file.path)).slice(0, MOST_FILES);
  const id = newId();
  await house.db.transaction().execute(async (db) => {
    await db
      .insertInto('scan')
      .values({ id, source: JSON.stringify(source), root, createdBy: actorId, reason: null })
      .execute();
    const rows = files.map((file, position) => ({
      scanId: id,
      position,
      path: file.path,
      size: file.size,
      modifiedNs: file.modifiedNs,
      heldItemId: null,
      takenFrom: null,
      problem: null,
      contentHash: null,
      takenPrecision: null,
    }));
    for (let at = 0; at < rows.length; at += 1000)
      await db
        .insertInto('scanFile')
        .values(rows.slice(at, at + 1000))
        .execute();
    await enqueue(db, [
      {
        task: 'scan',
        title: `Looking through ${source.name}`,
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
}

export interface Scan {
  id: string;
  source: Source;
  /** Absolute path text of the folder looked through. */
  root: string;
  state: string;
  reason: string | null;
  files: ScanFile[];
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
    ])
    .where('s.scanId', '=', id)
    .orderBy(sql`coalesce(s.taken_from, 'infinity')`)
    .orderBy('s.path')
    .execute();
  return {
    id,
    source: scan.source,
    root: scan.root,
    state: scan.state,
    reason: scan.reason,
    files,
  };
}

async function preview(
  house: House,
  scanId: string,
  position: number,
  path: string,
  facts: { format: string; kind: string; mediaType: string; orientation: number },
): Promise<number> {
  const image = await openPicture({ ...facts, path, work: house.rooms.work });
  const info = await image
    .resize({ width: PREVIEW_EDGE, height: PREVIEW_EDGE, fit: 'inside', withoutEnlargement: true })
    .toColourspace('srgb')
    .webp({ quality: 72, effort: 0 })
    .toFile(previewFile(house, scanId, position));
  return info.width / info.height;
}

async function lookAt(
  house: House,
  scanId: string,
  root: string,
  file: { position: number; path: string },
): Promise<void> {
  const path = joinPath(root, file.path);
  const found: Record<string, unknown> = { lookedAt: true };
  try {
    const facts = await readFacts(path, null);
    const contentHash = await hashFile(path);
    const held = await heldItems(house.db, [contentHash]);
    const { taken } = facts.record;
    Object.assign(found, {
      kind: facts.kind,
      format: facts.format,
      contentHash,
      heldItemId: held.get(contentHash)?.id ?? null,
      takenFrom: taken?.from ?? null,
      takenPrecision: taken ? precisionOf(taken) : null,
      camera: facts.technical.camera ?? '',
      creator: facts.record.creator[0] ?? '',
      title: facts.record.title,
    });
    found['aspect'] = await preview(house, scanId, file.position, path, facts);
  } catch (error) {
    found['problem'] = sentenceOf(error);
  }
  await house.db
    .updateTable('scanFile')
    .set(found)
    .where('scanId', '=', scanId)
    .where('position', '=', file.position)
    .execute();
}

/** Job: read what each file of a source says, see whether it is held, make its preview. */
export async function runScan(house: House, job: JobRow, progress: Progress): Promise<void> {
  const scanId = job.subject;
  const scan = await house.db
    .selectFrom('scan')
    .selectAll()
    .where('id', '=', scanId)
    .executeTakeFirst();
  if (!scan) return;
  await mkdir(join(house.rooms.cache, 'scans', scanId), { recursive: true });
  const open = await house.db
    .selectFrom('scanFile')
    .select(['position', 'path'])
    .where('scanId', '=', scanId)
    .where('lookedAt', '=', false)
    .orderBy('position')
    .execute();
  let done = job.total - open.length;
  for (let at = 0; at < open.length; at += 2) {
    await progress.checkWish();
    await Promise.all(open.slice(at, at + 2).map((file) => lookAt(house, scanId, scan.root, file)));
    done = Math.min(done + 2, job.total);
    await progress.report(done, job.total, 'files');
    if (at % 8 === 0) await notify(house.db, { about: 'scan', id: scanId });
  }
  await house.db.updateTable('scan').set({ state: 'done' }).where('id', '=', scanId).execute();
  await notify(house.db, { about: 'scan', id: scanId });
  await forgetOldScans(house);
}

/** Looks older than a week are forgotten with their previews. */
async function forgetOldScans(house: House): Promise<void> {
  const gone = await house.db
    .deleteFrom('scan')
    .where('createdAt', '<', sql<Date>`now() - interval '7 days'`)
    .returning('id')
    .execute();
  for (const { id } of gone)
    await rm(join(house.rooms.cache, 'scans', id), { recursive: true, force: true });
}
