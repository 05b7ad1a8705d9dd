import { ArchiveError } from '#core/errors';
import { isInside } from '#core/holdings/grounds';
import { apartFrom, nameKey } from '#core/naming/names';
import { fieldWords } from '#core/records/takeOver';
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
import type { SourceFacts } from '#core/intake/facts';
import { hashBoth, hashFile, startEssence } from '../../files/hash';
import { sourceFactsFrom } from '../../files/seen';
import { joinPath, realInside, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { takeOver, toldOf } from '../../records/takeOver';
import { catalogue } from './cataloguing';
import { setEntry } from './entries';
import { type Entry, type Intake } from '../plan/entries';
import { heldItems, type Holder } from '../look/held';
import { placeParts } from './parts';
import { describeCopy } from './planned';

const sourceOf = (intake: Intake, entry: Entry): string => joinPath(intake.root, entry.sourcePath);

/** What is said of a file whose picture is held; its description is taken over where somebody wished so. */
async function saidOfHeld(
  house: House,
  intake: Intake,
  { decision, facts }: Entry,
  held: Holder,
): Promise<string> {
  if (held.isSame) return '';
  const told = facts!.record;
  if (decision === 'describe') {
    const fields = await takeOver(house.db, intake.createdBy, held.id, told);
    return fields.length > 0
      ? `: the same picture; ${fieldWords(fields)} taken over from this file`
      : ': the same picture, described alike';
  }
  const fields = await toldOf(house.db, held.id, told);
  return fields.length > 0
    ? `: the same picture, described differently (${fieldWords(fields)})`
    : ': the same picture, described alike';
}

/** Held by another accession already: left out, unless somebody decided otherwise. */
async function skipIfHeld(house: House, intake: Intake, entry: Entry): Promise<boolean> {
  // Two layouts may share a page that stands for them: a bundle is more than its main file.
  if (!['new', 'describe'].includes(entry.decision) || entry.parts) return false;
  const print = { content: entry.contentHash!, essence: entry.essenceHash ?? null };
  const [held] = await heldItems(house.db, [print], intake.id);
  if (!held) return false;
  const how = await saidOfHeld(house, intake, entry, held);
  const skipped = { state: 'skipped', reason: `already held as ${held.number}${how}` };
  await setEntry(house, entry, { ...skipped, ...verified(entry), verifiedAt: null });
  Object.assign(entry, skipped);
  return true;
}

/** The file as it is before it is read, so that a later deletion can tell whether it still is the same. */
async function sourceFactsOf(entry: Entry, source: string): Promise<SourceFacts> {
  const facts = await factsOf(source);
  if (!facts) throw new ArchiveError('not-found', `“${entry.sourcePath}” is not there.`);
  return sourceFactsFrom(facts);
}

/** What is kept of an entry whose bytes are known and, where they were copied, were read back. */
const verified = ({ contentHash, sourceFacts, size }: Entry) => ({
  contentHash,
  sourceFacts: JSON.stringify(sourceFacts),
  size,
  verifiedAt: new Date(),
});

/** Copy under a name of ours, verified; then put in place under the final name, never over another file. */
export async function place(house: House, intake: Intake, entry: Entry): Promise<void> {
  const folder = joinPath(intake.place.root, entry.folder!);
  const source = sourceOf(intake, entry);
  const temporary = joinPath(folder, temporaryName(entry.id));
  if (entry.state === 'placing') {
    if (await factsOf(temporary)) return finishPlacing(house, intake, entry, temporary);
    const final = joinPath(folder, entry.name!);
    const placed = entry.placed?.contentHash ?? entry.contentHash;
    if ((await factsOf(final)) && (await hashFile(final)) === placed) {
      await placeParts(house, intake, entry);
      return catalogue(house, intake, entry);
    }
    entry.placed = null;
    await setEntry(house, entry, { state: 'planned', placed: null });
  }
  await realInside(source, intake.root);
  const sourceFacts = await sourceFactsOf(entry, source);
  await makeFolder(folder);
  await realInside(folder, intake.place.root);
  try {
    const essence = await startEssence(entry.facts!.mediaType);
    const contentHash = await copyVerified(source, temporary, essence.update);
    const essenceHash = await essence.end(temporary);
    Object.assign(entry, { contentHash, essenceHash, sourceFacts, size: sourceFacts.size });
    if (await skipIfHeld(house, intake, entry)) return await removeFile(temporary);
    await describeCopy(house, intake, entry, temporary);
    await setEntry(house, entry, {
      state: 'placing',
      ...verified(entry),
      placed: entry.placed && JSON.stringify(entry.placed),
    });
    entry.state = 'placing';
  } catch (error) {
    await removeFile(temporary).catch(() => undefined);
    throw error;
  }
  await finishPlacing(house, intake, entry, temporary);
}

async function finishPlacing(
  house: House,
  intake: Intake,
  entry: Entry,
  temporary: string,
): Promise<void> {
  const folder = joinPath(intake.place.root, entry.folder!);
  for (;;) {
    try {
      await moveWithoutReplacing(temporary, joinPath(folder, entry.name!));
      break;
    } catch (error) {
      if (!(error instanceof ArchiveError) || error.code !== 'conflict') throw error;
      // Somebody else took the name meanwhile: the next free one, noted before it is used.
      const names = new Set((await namesIn(folder)).map(nameKey));
      entry.name = apartFrom(entry.name!, (key) => names.has(key));
      await setEntry(house, entry, { name: entry.name });
    }
  }
  await syncFolder(folder);
  await placeParts(house, intake, entry);
  await catalogue(house, intake, entry);
}

/** Keep in place: the file lies where it lies; only its content is read. */
export async function keep(house: House, intake: Intake, entry: Entry): Promise<void> {
  const path = sourceOf(intake, entry);
  if (!isInside(path, intake.place.root))
    throw new ArchiveError('outside-place', `“${path}” is outside its place.`);
  await realInside(path, intake.place.root);
  const { folder, name } = splitPath(path.slice(intake.place.root.length + 1));
  const known = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select('i.number')
    .where('f.placeId', '=', intake.place.id)
    .where('d.path', '=', folder)
    .where('f.name', '=', name)
    .executeTakeFirst();
  if (known)
    return setEntry(house, entry, {
      state: 'skipped',
      reason: `in the catalogue as ${known.number}`,
    });
  const sourceFacts = await sourceFactsOf(entry, path);
  const hashes = await hashBoth(path, entry.facts!.mediaType);
  Object.assign(entry, { ...hashes, sourceFacts, size: sourceFacts.size, folder, name });
  // Kept in place it is an item of its own, unless only its description is wished.
  if (entry.decision === 'describe' && (await skipIfHeld(house, intake, entry))) return;
  await setEntry(house, entry, { folder, name, ...verified(entry) });
  await placeParts(house, intake, entry);
  await catalogue(house, intake, entry);
}
