import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import pMap from 'p-map';
import { sql } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { precisionOf } from '#core/records/taken';
import type { Looked } from '#core/intake/facts';
import { apart } from '../../apart/apart';
import { factsOf, isFolder } from '../../files/disk';
import { sourceFactsFrom } from '../../files/seen';
import { hashBoth } from '../../files/hash';
import { joinPath } from '../../files/paths';
import type { House } from '../../house/house';
import type { JobRow, Progress } from '../../jobs/attempt';
import { lookColumns, looksOf } from '../../likeness/likeness';
import { notify } from '../../live/notify';
import { toldOf } from '../../records/takeOver';
import { opened } from '../../renditions/pixels';
import { withPrepared } from '../../renditions/prepared';
import type { renderPixels } from '../../renditions/render';
import { rendered } from '../../renditions/turns';
import { compareScan } from './alike';
import { readFacts } from '../../metadata/facts';
import { glance } from './glance';
import { heldItems } from './held';
import { forgetOldScans, previewFile } from './scan';

const PREVIEW_EDGE = 480;
const PREVIEW_SECONDS = 60;
const PIXELS = apart<typeof renderPixels>('renditions/render', 'renderPixels', 'pictures');
/** Files glanced at before the wall is told, and how many side by side. */
const GLANCES = 200;
const AT_ONCE = 8;
const LOOKS = 2;

interface OpenFile {
  position: number;
  path: string;
}

async function preview(
  house: House,
  scanId: string,
  position: number,
  path: string,
  facts: { format: string; kind: string; mediaType: string; orientation: number },
): Promise<{ aspect: number } & ReturnType<typeof lookColumns>> {
  const target = previewFile(house, scanId, position);
  const pixels = await withPrepared({ ...facts, path, work: house.folders.work }, (from) =>
    rendered(PIXELS, { ...from, edge: PREVIEW_EDGE }, PREVIEW_SECONDS),
  );
  await opened(pixels).webp({ quality: 72, effort: 0 }).toFile(target);
  const looks = facts.kind === 'photo' ? await looksOf(opened(pixels)) : null;
  return { aspect: pixels.width / pixels.height, ...lookColumns(looks?.look ?? null) };
}

/** Read, hash and picture one file; what cannot be read says why. */
async function lookAt(house: House, scanId: string, root: string, file: OpenFile): Promise<void> {
  const path = joinPath(root, file.path);
  const found: Record<string, unknown> = { lookedAt: true };
  try {
    const seen = await factsOf(path);
    const facts = await readFacts(path, null);
    const { contentHash, essenceHash } = await hashBoth(path, facts.mediaType);
    const [held] = await heldItems(house.db, [{ content: contentHash, essence: essenceHash }]);
    const { taken } = facts.record;
    Object.assign(found, {
      kind: facts.kind,
      format: facts.format,
      contentHash,
      essenceHash,
      looked: seen && JSON.stringify({ facts, seen: sourceFactsFrom(seen) } satisfies Looked),
      heldItemId: held?.id ?? null,
      heldDiffers: held && !held.isSame ? await toldOf(house.db, held.id, facts.record) : [],
      takenFrom: taken?.from ?? null,
      takenPrecision: taken ? precisionOf(taken) : null,
      camera: facts.technical.camera ?? '',
      creator: facts.record.creator[0] ?? '',
      title: facts.record.title,
    });
    Object.assign(found, await preview(house, scanId, file.position, path, facts));
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

/** A first look at every file: day, camera and shape, so that the wall stands before anything is read whole. */
async function glanceAtAll(
  house: House,
  scanId: string,
  root: string,
  files: OpenFile[],
): Promise<void> {
  for (let at = 0; at < files.length; at += GLANCES) {
    const found = await pMap(
      files.slice(at, at + GLANCES),
      async ({ path, position }) => ({ position, ...(await glance(joinPath(root, path))) }),
      { concurrency: AT_ONCE },
    );
    const told = JSON.stringify(found.filter(({ camera }) => camera !== undefined));
    await sql`update scan_file s set taken_from = f."takenFrom", taken_precision = f."takenPrecision",
        camera = f.camera, aspect = f.aspect
      from json_to_recordset(${told}) as f(position integer, "takenFrom" timestamp,
        "takenPrecision" text, camera text, aspect real)
      where s.scan_id = ${scanId} and s.position = f.position`.execute(house.db);
    await notify(house.db, { about: 'scan', id: scanId });
  }
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
  await mkdir(join(house.folders.cache, 'scans', scanId), { recursive: true });
  const open = await house.db
    .selectFrom('scanFile')
    .select(['position', 'path'])
    .where('scanId', '=', scanId)
    .where('lookedAt', '=', false)
    .orderBy('position')
    .execute();
  await glanceAtAll(house, scanId, scan.root, open);
  let done = job.total - open.length;
  for (let at = 0; at < open.length; at += LOOKS) {
    await progress.checkWish();
    if (!(await isFolder(scan.root)))
      throw new ArchiveError(
        'source-away',
        'The source was pulled out while it was read. Plug it in again and go on.',
      );
    await Promise.all(
      open.slice(at, at + LOOKS).map((file) => lookAt(house, scanId, scan.root, file)),
    );
    done = Math.min(done + LOOKS, job.total);
    await progress.report(done, job.total, 'files');
    if (at % 8 === 0) await notify(house.db, { about: 'scan', id: scanId });
  }
  await compareScan(house, scanId);
  await house.db.updateTable('scan').set({ state: 'done' }).where('id', '=', scanId).execute();
  await notify(house.db, { about: 'scan', id: scanId });
  await forgetOldScans(house);
}
