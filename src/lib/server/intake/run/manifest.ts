import { MHL_FOLDER } from '#core/manifest/folder';
import { createHash } from 'node:crypto';
import { open, rename } from 'node:fs/promises';
import { basename } from 'node:path';
import { sql } from 'kysely';
import { formatAccession } from '#core/catalogue/number';
import {
  c4Of,
  canList,
  CHAIN_FILE,
  formatChain,
  formatManifest,
  manifestName,
  parseChain,
  type MhlGeneration,
  type MhlHash,
} from '#core/manifest/mhl';
import { factsOf, makeFolder, syncFolder, temporaryName } from '../../files/disk';
import { withOpened } from '../../files/open';
import { bytesOfPath, joinPath, realInside, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { newId } from '../../house/ids';
import { VERSION } from '../../house/version';
import type { Placed, SourceFacts } from '#core/intake/facts';
import { ENTRY, type Entry, type Intake } from '../plan/entries';
import { partPath } from './parts';

/** Write a file whole or not at all, and make it last. */
async function writeWhole(folder: string, name: string, text: string): Promise<void> {
  const temporary = joinPath(folder, temporaryName(newId()));
  const handle = await open(bytesOfPath(temporary), 'wx');
  try {
    await handle.writeFile(text);
    await handle.sync();
  } finally {
    await handle.close();
  }
  await rename(bytesOfPath(temporary), bytesOfPath(joinPath(folder, name)));
  await syncFolder(folder);
}

/**
 * Folder of an accession's manifests: in its place. Files kept in place are promised that nothing of ours
 * comes among them, so theirs lie in the data folder.
 */
export const manifestFolder = (house: House, intake: Pick<Intake, 'mode' | 'place'>): string =>
  intake.mode === 'in-place' || intake.place.handsOff
    ? joinPath(house.folders.manifests, intake.place.id, MHL_FOLDER)
    : joinPath(intake.place.root, MHL_FOLDER);

async function generationsIn(folder: string): Promise<MhlGeneration[]> {
  const path = joinPath(folder, CHAIN_FILE);
  if (!(await factsOf(path))) return [];
  return parseChain(await withOpened(path, (handle) => handle.readFile('utf8')));
}

const hashOf = (
  path: string,
  file: {
    size: number;
    contentHash?: string | null;
    sourceFacts?: SourceFacts | null;
    placed?: Placed | null;
  },
  hashed: Date,
): MhlHash => ({
  path,
  size: file.placed?.size ?? file.size,
  modified: new Date(Number(BigInt(file.sourceFacts?.modifiedNs ?? 0) / 1_000_000n)),
  xxh128: file.placed?.contentHash ?? file.contentHash!,
  action: 'original',
  hashed,
  ...(file.placed ? { source: file.contentHash! } : {}),
});

/** Write the next generation: what this run has brought in and no manifest lists yet. */
export async function writeManifest(house: House, intake: Intake): Promise<void> {
  const entries = await house.db
    .selectFrom('accessionEntry')
    .select(ENTRY)
    .select('verifiedAt')
    .where('accessionId', '=', intake.id)
    .where('state', '=', 'done')
    .where('listed', '=', false)
    .orderBy('position')
    .execute();
  const listed = entries.filter(({ folder, name }) => canList(joinPath(folder!, name!)));
  if (listed.length === 0) return;
  const author = intake.createdBy
    ? await house.db
        .selectFrom('person')
        .select('name')
        .where('id', '=', intake.createdBy)
        .executeTakeFirst()
    : undefined;
  const created = house.now();
  const text = formatManifest({
    created,
    hostname: house.settings.hostname,
    tool: 'Mindful Archive',
    toolVersion: VERSION,
    author: author?.name ?? '',
    process: intake.mode === 'in-place' ? 'in-place' : 'transfer',
    comment: `Accession ${formatAccession(intake.year, intake.number)}`,
    hashes: listed.flatMap((entry) => [
      hashOf(joinPath(entry.folder!, entry.name!), entry, entry.verifiedAt ?? created),
      ...(entry.parts ?? []).map((part) =>
        hashOf(partPath(entry as Entry, part), part, entry.verifiedAt ?? created),
      ),
    ]),
  });
  const folder = manifestFolder(house, intake);
  await makeFolder(folder);
  // Nobody's link leads our manifests elsewhere.
  await realInside(folder, splitPath(folder).folder);
  const generations = await generationsIn(folder);
  const sequence = (generations.at(-1)?.sequence ?? 0) + 1;
  const name = manifestName(sequence, basename(intake.place.root), created);
  const c4 = c4Of(createHash('sha512').update(text).digest());
  await writeWhole(folder, name, text);
  await writeWhole(folder, CHAIN_FILE, formatChain([...generations, { sequence, path: name, c4 }]));
  await house.db.transaction().execute(async (db) => {
    const ids = listed.map(({ id }) => id);
    await sql`update accession_entry set listed = true where id = any(${ids}::uuid[])`.execute(db);
    await db
      .updateTable('accession')
      .set((set) => ({
        manifests: set.fn<string[]>('array_append', ['manifests', set.val(joinPath(folder, name))]),
      }))
      .where('id', '=', intake.id)
      .execute();
  });
}
