import { mkdir, mkdtemp, rename, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sql } from 'kysely';
import { walk } from '#server/files/disk';
import { splitPath } from '#server/files/paths';
import type { House } from '#server/house/house';
import { newId } from '#server/house/ids';
import { startWorker } from '#server/work/worker';
import { askToCompare } from '#server/watching/compare';
import { ensureFolder } from '#server/places/folderRows';
import { addPlace, type Place } from '#server/places/places';
import { queueEmpty } from './house';
import { measure, type BenchLine } from './report';

const FOLDERS = 300;
const ROWS = 2000;

/** Small files of their own content, and rows that know them, without the work of an intake. */
export async function fill(house: House, place: Place, count: number): Promise<string[]> {
  const paths = Array.from({ length: count }, (_, at) => `day ${at % FOLDERS}/p${at}.dat`);
  for (let at = 0; at < FOLDERS; at += 1) await mkdir(join(place.root, `day ${at}`));
  for (const path of paths) await writeFile(join(place.root, path), `the content of ${path}`);
  const accession = newId();
  await house.db
    .insertInto('accession')
    .values({
      id: accession,
      year: 2026,
      number: 1,
      title: 'Bench',
      source: '{}',
      plan: '{}',
      root: place.root,
      mode: 'in-place',
      placeId: place.id,
      createdBy: null,
    })
    .execute();
  const folders = new Map<string, string>();
  const seen = await walk(place.root);
  for (let from = 0; from < seen.length; from += ROWS) {
    const rows = [];
    for (const [at, file] of seen.slice(from, from + ROWS).entries()) {
      const { folder, name } = splitPath(file.path);
      if (!folders.has(folder)) folders.set(folder, await ensureFolder(house.db, place.id, folder));
      rows.push({
        itemId: newId(),
        id: newId(),
        number: `2026.001.${String(from + at).padStart(4, '0')}`,
        folder: folders.get(folder)!,
        name,
        size: file.size,
        modified: String(file.modifiedNs),
        inode: String(file.inode),
      });
    }
    const all = JSON.stringify(rows);
    await sql`insert into item (id, number, accession_id, kind, media_type, format, original_name, provenance, technical)
      select "itemId", number, ${accession}, 'document', 'application/octet-stream', 'File', name, '{}', '{}'
      from json_to_recordset(${all}) as r("itemId" uuid, number text, name text)`.execute(house.db);
    await sql`insert into file (id, item_id, place_id, folder_id, name, role, size, modified_ns, inode, content_hash, picture_key)
      select id, "itemId", ${place.id}, folder, name, 'original', size, modified, inode, id::text, id::text
      from json_to_recordset(${all}) as r(id uuid, "itemId" uuid, folder uuid, name text, size bigint, modified numeric, inode numeric)`.execute(
      house.db,
    );
  }
  await sql`analyze`.execute(house.db);
  return paths;
}

/** Compare a place with its disk after another program renamed one file in a hundred. */
export async function compare(house: House, count: number, runs: number): Promise<BenchLine> {
  const root = await mkdtemp(join(tmpdir(), 'mindful-place-'));
  const place = await addPlace(house, 'bench', root);
  await house.db.updateTable('place').set({ watched: false }).execute();
  let paths = await fill(house, place, count);
  const worker = await startWorker(house);
  await askToCompare(house, place);
  await queueEmpty(house);
  try {
    return await measure(
      'compare',
      count,
      runs,
      async (run) => {
        paths = await Promise.all(
          paths.map(async (path, at) => {
            if (at % 100 !== 0) return path;
            const next = `day ${(at + run) % FOLDERS}/run ${run} of ${at}.dat`;
            await rename(join(root, path), join(root, next));
            return next;
          }),
        );
        await askToCompare(house, place);
        await queueEmpty(house);
        const { rows } = await sql<{ count: number }>`select count(*)::int as count from file
          where name like ${`run ${run} of %`} and state = 'present'`.execute(house.db);
        if (rows[0]!.count !== Math.ceil(count / 100)) throw new Error('not all were followed');
      },
      async () => {
        await walk(root);
      },
    );
  } finally {
    await worker.stop();
    await rm(root, { recursive: true, force: true });
  }
}
