import type { Kysely, Transaction } from 'kysely';
import type { Database } from '../../db/schema';
import type { EntryPart } from '#core/intake/facts';
import {
  copyVerified,
  factsOf,
  makeFolder,
  moveWithoutReplacing,
  removeFile,
  syncFolder,
  temporaryName,
} from '../../files/disk';
import { hashFile } from '../../files/hash';
import { isStill, sourceFactsFrom } from '../../files/seen';
import { joinPath, realInside, splitPath } from '../../files/paths';
import { insertFile } from '../../files/rows';
import type { House } from '../../house/house';
import { ensureFolder } from '../../places/folderRows';
import { setEntry } from './entries';
import { type Entry, type Intake } from '../plan/entries';
import { isHeld } from '../../sight/seen';

/** Path of a part below its bundle's folder. */
const within = (entry: Entry, part: EntryPart): string =>
  part.path.slice(entry.bundleFolder ? entry.bundleFolder.length + 1 : 0);

/** Where a part lies or will lie in the place: beside the main file, as at the source. */
export function partPath(entry: Entry, part: EntryPart): string {
  const below = within(entry, { path: entry.sourcePath, size: 0 });
  const depth = below.split('/').length - 1;
  return joinPath(above(entry.folder!, depth), within(entry, part));
}

/** The folders of all bundles in a place, by where their main files lie now. */
export async function bundleFolders(
  db: Kysely<Database>,
  placeId: string,
): Promise<{ itemId: string; folder: string }[]> {
  const rows = await db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .innerJoin('accessionEntry as e', 'e.itemId', 'f.itemId')
    .select(['f.itemId', 'd.path', 'e.sourcePath', 'e.bundleFolder'])
    .where('f.placeId', '=', placeId)
    .where('f.role', '=', 'original')
    .where('i.kind', '=', 'bundle')
    .where(isHeld('i'))
    .execute();
  return rows.map(({ itemId, path, sourcePath, bundleFolder }) => {
    const depth = sourcePath.split('/').length - 1 - folderDepth(bundleFolder ?? '');
    return { itemId, folder: above(path, depth) };
  });
}

const folderDepth = (folder: string): number => (folder === '' ? 0 : folder.split('/').length);

/** The folder so many levels up. */
const above = (folder: string, levels: number): string =>
  levels === 0 ? folder : folder.split('/').slice(0, -levels).join('/');

/** Copy a bundle's parts beside its main file, each verified; safe to repeat. */
export async function placeParts(house: House, intake: Intake, entry: Entry): Promise<void> {
  if (!entry.parts) return;
  const placed: EntryPart[] = [];
  for (const part of entry.parts) {
    const source = joinPath(intake.root, part.path);
    await realInside(source, intake.root);
    const facts = await factsOf(source);
    const noted = facts ? sourceFactsFrom(facts) : part.sourceFacts;
    const target = joinPath(intake.place.root, partPath(entry, part));
    if (intake.mode === 'in-place')
      placed.push({ ...part, contentHash: await hashFile(source), sourceFacts: noted });
    else {
      const { folder } = splitPath(target);
      await makeFolder(folder);
      await realInside(folder, intake.place.root);
      const temporary = joinPath(folder, temporaryName(`${entry.id}-part`));
      try {
        const contentHash = await copyVerified(source, temporary);
        const isThere = (await factsOf(target)) && (await hashFile(target)) === contentHash;
        if (!isThere) await moveWithoutReplacing(temporary, target);
        await syncFolder(folder);
        placed.push({ ...part, contentHash, sourceFacts: noted });
      } finally {
        await removeFile(temporary);
      }
    }
  }
  entry.parts = placed;
  await setEntry(house, entry, { parts: JSON.stringify(placed) });
}

/** Rows of a bundle's parts, in the transaction that makes its item. */
export async function catalogueParts(
  db: Transaction<Database>,
  intake: Intake,
  entry: Entry,
  itemId: string,
): Promise<void> {
  for (const part of entry.parts ?? []) {
    const path = partPath(entry, part);
    const facts = await factsOf(joinPath(intake.place.root, path));
    if (!facts) continue;
    const { folder, name } = splitPath(path);
    const placeId = intake.place.id;
    const folderId = await ensureFolder(db, placeId, folder);
    const contentHash = part.contentHash!;
    await insertFile(db, { itemId, placeId, folderId, name, role: 'part', contentHash }, facts);
  }
}

/** Delete the parts of a moved bundle at their source; those that changed meanwhile stay. @returns how many stay */
export async function releaseParts(intake: Intake, entry: Entry): Promise<number> {
  let stay = 0;
  for (const part of entry.parts ?? []) {
    const source = joinPath(intake.root, part.path);
    const facts = await factsOf(source);
    if (!facts) continue;
    const isSame = part.sourceFacts && isStill(facts, part.sourceFacts);
    const copy = joinPath(intake.place.root, partPath(entry, part));
    if (isSame && (await hashFile(copy).catch(() => '')) === part.contentHash)
      await removeFile(source);
    else stay += 1;
  }
  return stay;
}
