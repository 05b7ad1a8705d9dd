import { rename, stat, utimes } from 'node:fs/promises';
import type { Kysely, Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { stamped } from '#core/intake/stamp';
import { stampChange } from '#core/stamps/stamp';
import { embeds } from '#core/kinds/kinds';
import { splitName } from '#core/naming/names';
import type { FieldKey, RecordValues } from '#core/records/fields';
import { followersIn } from '#core/records/mapping';
import { toldOf } from '#core/records/reconcile';
import { storedSize, tagsFromRecord, targetIn } from '#core/records/writing';
import type { Database } from '../../db/schema';
import { isDiskFull, removeFile, syncFile, temporaryName } from '../../files/disk';
import { hashBoth } from '../../files/hash';
import { bytesOfPath, joinPath, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { readTags, writeTagsTo } from '../../metadata/exiftool';
import { readFacts } from '../../metadata/facts';
import { applyChange, differences } from '../../records/records';
import { firstNameTags } from '../../records/write';
import { linesOfStamps } from '../../lists/stamps';
import { givenTerms } from '../../terms/rules';
import { clockOf } from '../plan/clocks';
import type { Entry, Intake } from '../plan/entries';

/** A renamed file remembers its first name in XMP (xmpMM:PreservedFileName). */
export const isRenamed = (entry: Entry): boolean =>
  splitName(entry.name!).stem !== splitName(splitPath(entry.sourcePath).name).stem;

/** The record a file comes in with: what it tells, what plan, clocks and sheet say; and the fields they add. */
export async function plannedRecord(
  db: Kysely<Database> | Transaction<Database>,
  intake: Intake,
  entry: Entry,
): Promise<{ values: RecordValues; added: FieldKey[] }> {
  const facts = entry.facts!;
  const corrected = { ...facts.record };
  corrected.taken = clockOf(intake.plan, facts)?.taken ?? corrected.taken;
  const own = applyChange(stamped(corrected, intake.plan.stamp), {
    addTerms: await givenTerms(db, intake.plan.terms),
  });
  const kept = await underKeptStamps(db, intake, entry, own);
  const values = applyChange(kept, {
    ...entry.given,
    addTerms: await givenTerms(db, entry.given?.addTerms ?? []),
  });
  return { values, added: differences(facts.record, values) };
}

/** A record with the kept stamps of the plan put on it, one after the other. */
async function underKeptStamps(
  db: Kysely<Database> | Transaction<Database>,
  { plan }: Intake,
  { facts, name, sourcePath }: Entry,
  record: RecordValues,
): Promise<RecordValues> {
  const original = splitPath(sourcePath).name;
  let values = record;
  for (const lines of await linesOfStamps(db, plan.stamps ?? [])) {
    const subject = {
      name: name ?? original,
      original,
      number: '',
      title: values.title,
      camera: facts!.technical.camera ?? '',
      creator: values.creator.join(', '),
    };
    const change = stampChange(lines, { values, subject });
    values = applyChange(values, {
      ...change,
      ...(change.addTerms ? { addTerms: await givenTerms(db, change.addTerms) } : {}),
    });
  }
  return values;
}

/** Where the described copy of an entry is made. */
export const describedPath = (folder: string, entry: { id: string }): string =>
  joinPath(folder, temporaryName(`${entry.id}-described`));

/**
 * Write what is known of a file into its verified copy, before that is put in place: it is written once, not
 * placed and rewritten. The picture must be the same to the bit. Where this cannot be done the copy stays as it
 * is, and the record waits to be written like any other.
 */
export async function describeCopy(
  house: House,
  intake: Intake,
  entry: Entry,
  temporary: string,
): Promise<void> {
  const { mediaType, technical, format, width, height, orientation, record } = entry.facts!;
  const how = embeds(mediaType);
  // A film is written by the job, which looks at its frames as well.
  const { handsOff, beside } = intake.place;
  if (!how || how === 'xmp' || !entry.essenceHash || handsOff || beside) return;
  const { values, added } = await plannedRecord(house.db, intake, entry);
  if (added.length === 0 && !isRenamed(entry)) return;
  const target = describedPath(splitPath(temporary).folder, entry);
  await removeFile(target);
  try {
    await writeTagsTo(temporary, target, {
      ...tagsFromRecord(values, added, {
        ...targetIn(mediaType, technical.iim === true),
        format,
        size: storedSize(width, height, orientation),
        followers:
          added.includes('taken') && record.taken
            ? followersIn(await readTags(temporary, format === 'jpeg'), record.taken)
            : [],
      }),
      ...firstNameTags(splitPath(entry.sourcePath).name, entry.name!),
    });
    const { record: said, problem } = await readFacts(target, null);
    const { contentHash, essenceHash } = await hashBoth(target, mediaType);
    if (essenceHash !== entry.essenceHash || problem !== null)
      throw new ArchiveError('tool-failed', 'Writing would have changed the picture.');
    const { atime, mtime } = await stat(bytesOfPath(temporary));
    await utimes(bytesOfPath(target), atime, mtime);
    await syncFile(target);
    const { size } = await stat(bytesOfPath(target));
    await rename(bytesOfPath(target), bytesOfPath(temporary));
    entry.placed = { contentHash, size, told: toldOf(said) };
  } catch (error) {
    await removeFile(target);
    if (isDiskFull(error)) throw error;
    house.log.warn({ entry: entry.id, error: String(error) }, 'a copy could not be described');
  }
}
