import { ArchiveError } from '#core/errors';
import { stemOf } from '#core/kinds/kinds';
import { counted, formatBytes } from '#core/text/quantities';
import { factsOf, namesIn, removeFile, syncFolder } from '../../files/disk';
import { hashBoth, hashEssence } from '../../files/hash';
import { filesOf, type LocatedFile } from '../../files/located';
import { isStill } from '../../files/seen';
import { joinPath, realInside, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { enqueue } from '../../jobs/queue';
import type { JobRow, Progress } from '../../jobs/attempt';
import { releaseParts } from './parts';
import { eachEntry, checkGrounds, readIntake, setEntry } from './entries';
import { ENTRY, type Entry, type Intake } from '../plan/entries';

/** A file of ours may be rewritten (described) while it is compared: look again this often. */
const LOOKS = 5;
const LOOK_AGAIN_MS = 300;

/** Whether a copy of ours holds what the source holds: the same bytes, or described since, the same picture. */
async function holdsTheSame(entry: Entry, source: string, copy: LocatedFile): Promise<boolean> {
  const { mediaType } = entry.facts!;
  const now = await hashBoth(copy.path, mediaType);
  if (now.contentHash === entry.contentHash) return true;
  // What the archive notes of it follows other programs too: only the source itself tells what must be there.
  return (
    now.contentHash === copy.contentHash &&
    now.essenceHash !== null &&
    now.essenceHash === (await hashEssence(source, mediaType))
  );
}

/** Whether our copy still is one. Reads the whole file. */
async function copyIsGood(house: House, entry: Entry, source: string): Promise<boolean> {
  for (let look = 0; look < LOOKS; look += 1) {
    if (look > 0) await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
    const files = await filesOf(house.db, [entry.itemId!]);
    const copy = files.find(({ role }) => role === 'original');
    if (copy && (await holdsTheSame(entry, source, copy).catch(() => false))) return true;
  }
  return false;
}

/** Why the source of an entry must stay; null where it may go. */
async function reasonToKeep(house: House, entry: Entry, source: string): Promise<string | null> {
  if (entry.secondState === 'failed') return 'its second copy failed';
  const facts = await factsOf(source);
  const noted = entry.sourceFacts;
  if (!facts || !noted) return 'it was not noted as it was read';
  if (!isStill(facts, noted)) return 'it changed since it was copied';
  return (await copyIsGood(house, entry, source)) ? null : 'its copy does not read as it should';
}

/** The sidecar goes with its file, once no other file of its stem is left beside it. */
async function releaseSidecar(house: House, entry: Entry): Promise<void> {
  const sidecar = entry.facts?.sidecar;
  if (!sidecar || !(await factsOf(sidecar))) return;
  const { folder, name } = splitPath(sidecar);
  const stem = stemOf(stemOf(name));
  const others = (await namesIn(folder)).filter(
    (other) => other !== name && stemOf(other) === stem,
  );
  const kept = (await filesOf(house.db, [entry.itemId!])).find(({ role }) => role === 'sidecar');
  if (others.length === 0 && kept && (await factsOf(kept.path))) await removeFile(sidecar);
}

/** Delete the source of one entry: only after its own copy was verified, only if it still is what was copied. */
export async function releaseSource(house: House, intake: Intake, entry: Entry): Promise<void> {
  if (entry.sourceState !== 'due' || entry.state !== 'done') return;
  const source = joinPath(intake.root, entry.sourcePath);
  const settle = async (sourceState: 'removed' | 'refused', sourceReason: string | null) => {
    entry.sourceState = sourceState;
    await setEntry(house, entry, { sourceState, sourceReason });
  };
  if (!(await factsOf(source))) return settle('removed', null);
  await realInside(source, intake.root);
  const reason = await reasonToKeep(house, entry, source);
  if (reason) return settle('refused', reason);
  try {
    await removeFile(source);
    await releaseSidecar(house, entry);
    const stay = await releaseParts(intake, entry);
    await syncFolder(splitPath(source).folder);
    await settle('removed', stay ? `${counted(stay, 'part')} changed and stayed` : null);
  } catch (error) {
    if (!(error instanceof ArchiveError)) throw error;
    await settle('refused', error.message);
  }
}

export interface Emptying {
  /** Files whose copies are in the archive: they would go. */
  files: number;
  bytes: number;
  /** Files of the accession that were not brought in: they stay. */
  stay: number;
  /** Items that would then have one copy only. */
  single: number;
}

/** What emptying the source of an accession would do. */
export async function emptyingOf(house: House, accessionId: string): Promise<Emptying> {
  const entries = await house.db
    .selectFrom('accessionEntry')
    .select(['state', 'size', 'sourceState', 'secondState'])
    .where('accessionId', '=', accessionId)
    .execute();
  const goes = entries.filter(
    ({ state, sourceState }) => state === 'done' && sourceState !== 'removed',
  );
  return {
    files: goes.length,
    bytes: goes.reduce((sum, { size }) => sum + size, 0),
    stay: entries.filter(({ state }) => state !== 'done').length,
    single: goes.filter(({ secondState }) => secondState !== 'done').length,
  };
}

/**
 * Empty the source of a finished accession: a step of its own, never part of copying.
 * @param confirmed somebody has seen what it will do
 * @throws ArchiveError conflict, confirm-needed, not-found
 */
export async function startEmptying(
  house: House,
  accessionId: string,
  actorId: string | null,
  confirmed: boolean,
): Promise<string> {
  const accession = await house.db
    .selectFrom('accession')
    .select(['state', 'mode', 'root'])
    .where('id', '=', accessionId)
    .executeTakeFirst();
  if (!accession) throw new ArchiveError('not-found', 'There is no such accession.');
  if (accession.mode === 'in-place')
    throw new ArchiveError('conflict', 'Its files are kept in place: source and archive are one.');
  if (accession.state !== 'done')
    throw new ArchiveError('conflict', 'The accession is not finished; nothing is deleted before.');
  const { files, bytes, single } = await emptyingOf(house, accessionId);
  if (files === 0) throw new ArchiveError('conflict', 'Nothing of it is left in the source.');
  if (!confirmed)
    throw new ArchiveError(
      'confirm-needed',
      `${counted(files, 'file')} (${formatBytes(bytes)}) would be deleted from “${accession.root}”${single ? `; ${counted(single, 'item')} would have one copy only` : ''}.`,
      { files, bytes, single },
    );
  return house.db.transaction().execute(async (db) => {
    await db
      .updateTable('accessionEntry')
      .set({ sourceState: 'due', sourceReason: null })
      .where('accessionId', '=', accessionId)
      .where('state', '=', 'done')
      .where('sourceState', '<>', 'removed')
      .execute();
    const [id] = await enqueue(db, [
      {
        task: 'empty-source',
        title: `Emptying the source: ${counted(files, 'file')}`,
        subject: accessionId,
        accessionId,
        createdBy: actorId,
        total: files,
        unit: 'files',
      },
    ]);
    if (!id) throw new ArchiveError('conflict', 'The source is being emptied already.');
    return id;
  });
}

/** Job: delete the source files that are due, each after a fresh look at its copy. */
export async function emptySource(house: House, job: JobRow, progress: Progress): Promise<void> {
  const intake = await readIntake(house, job);
  await checkGrounds(house, intake);
  const entries = (await house.db
    .selectFrom('accessionEntry')
    .select(ENTRY)
    .where('accessionId', '=', intake.id)
    .where('sourceState', '=', 'due')
    .orderBy('position')
    .execute()) as Entry[];
  let done = job.total - entries.length;
  await eachEntry(house, intake, entries, progress, async (entry) => {
    await releaseSource(house, intake, entry);
    done += 1;
    await progress.report(done, job.total, 'files');
  });
}
