import { ArchiveError, sentenceOf } from '#core/errors';
import { apartFrom, nameKey } from '#core/naming/names';
import {
  copyVerified,
  factsOf,
  makeFolder,
  moveWithoutReplacing,
  namesIn,
  removeFile,
  syncFolder,
  temporaryName,
} from '../../files/disk';
import { refuseHandsOff } from '../../files/door';
import { hashFile } from '../../files/hash';
import { originalOf } from '../../files/located';
import { joinPath, realInside } from '../../files/paths';
import { insertFile, takeNames } from '../../files/rows';
import type { House } from '../../house/house';
import { ensureFolder } from '../../places/folderRows';
import { placeById } from '../../places/places';
import { setEntry } from './entries';
import { type Entry, type Intake } from '../plan/entries';

/** A second copy in another place, verified as the first; a failure is noted and harms nothing. */
export async function makeSecondCopy(house: House, intake: Intake, entry: Entry): Promise<void> {
  if (entry.secondState !== 'due' || entry.state !== 'done') return;
  try {
    await copyToPlace(house, intake, entry, intake.plan.secondCopyId!);
    entry.secondState = 'done';
  } catch (error) {
    if (!(error instanceof ArchiveError)) throw error;
    entry.secondState = 'failed';
    await setEntry(house, entry, { secondState: 'failed', secondReason: sentenceOf(error) });
  }
}

async function copyToPlace(
  house: House,
  intake: Intake,
  entry: Entry,
  placeId: string,
): Promise<void> {
  const place = await placeById(house.db, placeId);
  refuseHandsOff({ place: place.name, handsOff: place.handsOff });
  if (!(await factsOf(place.root)))
    throw new ArchiveError('source-away', `The place “${place.name}” is away.`);
  const original = await originalOf(house.db, entry.itemId!);
  const folder = joinPath(place.root, entry.folder!);
  await makeFolder(folder);
  await realInside(folder, place.root);
  const temporary = joinPath(folder, temporaryName(`${entry.id}-2`));
  let name = entry.name!;
  try {
    const contentHash = await copyVerified(original.path, temporary);
    const standing = joinPath(folder, name);
    // A kill after the file was placed and before it was noted: the same bytes stand there already.
    const isThere = (await factsOf(standing)) && (await hashFile(standing)) === contentHash;
    if (!isThere) {
      const names = new Set((await namesIn(folder)).map(nameKey));
      name = apartFrom(name, (key) => names.has(key));
      await moveWithoutReplacing(temporary, joinPath(folder, name));
    }
    await syncFolder(folder);
    const facts = (await factsOf(joinPath(folder, name)))!;
    await house.db.transaction().execute(async (db) => {
      const folderId = await ensureFolder(db, placeId, entry.folder!);
      const { essenceHash, pictureKey } = original;
      const where = { placeId, folderId, name, role: 'second-copy' } as const;
      await takeNames(db, [where], []);
      await insertFile(
        db,
        { ...where, itemId: entry.itemId!, contentHash, essenceHash, pictureKey },
        facts,
      );
      await db
        .updateTable('accessionEntry')
        .set({ secondState: 'done', secondReason: null })
        .where('id', '=', entry.id)
        .execute();
    });
  } finally {
    await removeFile(temporary);
  }
}
