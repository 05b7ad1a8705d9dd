import type { BigIntStats } from 'node:fs';
import { chmod, chown, link, rename, stat } from 'node:fs/promises';
import { hostname } from 'node:os';
import { sql, type Kysely } from 'kysely';
import { numbered } from '#core/naming/names';
import type { ToldValues } from '#core/records/reconcile';
import { ArchiveError } from '#core/errors';
import { withoutPaths } from '#core/text/paths';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import {
  copyVerified,
  factsOf,
  moveWithoutReplacing,
  removeFile,
  syncFile,
  syncFolder,
  temporaryName,
} from './disk';
import type { Disks } from './disks';
import { hashBoth, hashEssence, hashFile } from './hash';
import type { LocatedFile } from './located';
import { bytesOfPath, joinPath, realInside } from './paths';

/**
 * The one door to originals. Whatever changes a file or its name passes here: it is journalled before it is
 * done, done so that a kill at any moment leaves the old or the new and never half, and finished or taken
 * back at the next start.
 */
export interface MoveStep {
  operationId: string;
  position: number;
  fileId: string;
  /** Of the file as it is known, by which a copy on another disk is told. */
  contentHash: string;
  /** By which it is told on its own disk. */
  inode: string;
  /** It was not begun before, and cut off. */
  isFirst: boolean;
  from: Spot;
  to: Spot;
}

/** Where a file lies: its place, and the folder below. */
export interface Spot {
  placeId: string;
  root: string;
  folder: string;
  name: string;
}
export const spotPath = ({ root, folder, name }: Spot): string => joinPath(root, folder, name);
export const folderPath = ({ root, folder }: Spot): string => joinPath(root, folder);

/** @throws ArchiveError not-allowed for a place marked hands off */
export function refuseHandsOff(file: { place: string; handsOff: boolean }): void {
  if (file.handsOff)
    throw new ArchiveError(
      'not-allowed',
      `“${file.place}” is hands off: nothing of ours writes there.`,
    );
}

const temporary = ({ operationId, position }: MoveStep): string =>
  temporaryName(`${operationId}-${position}`);
/** What is not whole yet on another disk. */
const copyOf = (step: MoveStep): string => spotPath({ ...step.to, name: temporary(step) });
const parked = (step: MoveStep): string => spotPath({ ...step.from, name: temporary(step) });

/**
 * First half of a rename: park the file under a name of ours, so that names can trade places within a batch.
 * Safe to repeat.
 */
export async function parkFile(step: MoveStep, disks: Disks): Promise<void> {
  await disks.of(step.from, false);
  const [there, from] = [await factsOf(parked(step)), await factsOf(spotPath(step.from))];
  // Parked before it was cut off: under its old name another may lie by now.
  if (there && from && there.ino !== from.ino) return;
  await moveWithoutReplacing(spotPath(step.from), parked(step));
}

/**
 * To its new name; to another disk as a verified copy, after which the first one goes. Killed between the two there
 * are two of the same, and the next try finds that out.
 */
async function bring(
  step: MoveStep,
  path: string,
  { disks, isFirst }: { disks: Disks; isFirst: boolean },
): Promise<void> {
  const target = spotPath(step.to);
  const [source, other] = [await disks.of(step.from, false), await disks.of(step.to, true)];
  if (source === other) return moveWithoutReplacing(path, target, isFirst);
  const before = await factsOf(path);
  if (!before && !isFirst && (await factsOf(target))) return;
  if (
    !isFirst &&
    (await isHere(target, step.contentHash)) &&
    (await isHere(path, step.contentHash))
  ) {
    // Cut off just when the copy got its name: it may still have ours beside.
    await removeFile(copyOf(step));
    return removeFile(path);
  }
  await copyAcross(step, path, target, other);
}

/**
 * @param disk it has to lie on then
 * @throws ArchiveError file-changed where another program writes into the file meanwhile, not-found where the disk was
 * taken away: its own stays then
 */
async function copyAcross(
  step: MoveStep,
  path: string,
  target: string,
  disk: bigint,
): Promise<void> {
  const copy = copyOf(step);
  try {
    const before = await factsOf(path);
    await copyVerified(path, copy);
    await keepOwner(path, copy);
    const now = await factsOf(path);
    if (!before || !now || before.mtimeNs !== now.mtimeNs || before.ino !== now.ino)
      throw new ArchiveError(
        'file-changed',
        `“${step.from.name}” was changed by another program just now; it stays where it is.`,
      );
    if ((await factsOf(copy))?.dev !== disk)
      throw new ArchiveError('not-found', `The disk of “${folderPath(step.to)}” was taken away.`);
    await moveWithoutReplacing(copy, target);
  } catch (error) {
    await removeFile(copy).catch(() => undefined);
    throw error;
  }
  await syncFolder(folderPath(step.to));
  await removeFile(path);
}

const isHere = async (path: string, contentHash: string): Promise<boolean> =>
  (await factsOf(path)) !== null && (await hashFile(path)) === contentHash;

/** A move that meets no other name of its batch. Safe to repeat; what another program did just so is done. */
export async function moveFile(step: MoveStep, disks: Disks): Promise<void> {
  try {
    await bring(step, spotPath(step.from), { disks, isFirst: step.isFirst });
  } catch (error) {
    if (!(error instanceof ArchiveError && error.code === 'not-found' && (await isSettled(step))))
      throw error;
  }
}

/** Second half: from the parked name to the new one. Safe to repeat. */
export const settleFile = (step: MoveStep, disks: Disks): Promise<void> =>
  bring(step, parked(step), { disks, isFirst: false });

/**
 * Take a parked file back to its old name, or where another of its batch has that by now to one like it: nothing stays
 * under a name that nobody looks at. Safe to repeat.
 * @returns the name it has now
 */
export async function unparkFile(step: MoveStep): Promise<string> {
  const { from } = step;
  if (!(await factsOf(parked(step)))) return from.name;
  for (let number = 1; ; number += 1) {
    const name = number === 1 ? from.name : numbered(from.name, number);
    try {
      await moveWithoutReplacing(parked(step), spotPath({ ...from, name }));
      return name;
    } catch (error) {
      if (!(error instanceof ArchiveError && error.code === 'conflict') || number > MOST_TRIES)
        throw error;
    }
  }
}
const MOST_TRIES = 1000;

/** Whether a step that was cut off has its file under the new name already: it is the same file, or a copy of it. */
export async function isSettled(step: MoveStep): Promise<boolean> {
  const target = await factsOf(spotPath(step.to));
  if (!target) return false;
  if (String(target.ino) === step.inode) return true;
  return !(await isWaiting(step)) && (await isHere(spotPath(step.to), step.contentHash));
}

/** Whether its file lies where it came from still, under its old name or a parked one. */
export const isWaiting = async (step: MoveStep): Promise<boolean> =>
  (await factsOf(spotPath(step.from))) !== null || (await factsOf(parked(step))) !== null;

/** What is written into a file: the version of its record, and what the file says then. */
export interface Written {
  version: number;
  told: ToldValues | null;
}

/** A file as it was written: it may be another program's the moment it has its name. */
interface Produced {
  contentHash: string;
  /** Where it could be told; older rows lack it. */
  essenceHash?: string | null;
  facts: BigIntStats;
}

/** Whether nobody wrote into a file between two looks. */
export const isUntouched = (one: BigIntStats, other: BigIntStats | null): boolean =>
  other !== null &&
  one.ino === other.ino &&
  one.mtimeNs === other.mtimeNs &&
  one.size === other.size;

/** One statement each, for each file that is written: what a rewrite costs is mostly the way to the database. */
async function journal(db: Kysely<Database>, file: LocatedFile): Promise<string> {
  const operationId = newId();
  const before = { contentHash: file.contentHash, host: hostname(), pid: process.pid };
  await sql`with noted as (
      insert into operation (id, kind, summary, state, total)
      values (${operationId}::uuid, 'rewrite', ${`Wrote the record into ${file.name}`}, 'doing', 1) returning id)
    insert into operation_step (operation_id, position, action, item_id, file_id, before, after, state)
    select id, 0, 'rewrite', ${file.itemId}::uuid, ${file.id}::uuid, ${JSON.stringify(before)}::jsonb, '{}', 'doing'
    from noted`.execute(db);
  return operationId;
}

async function settleJournal(
  db: Kysely<Database>,
  operationId: string,
  state: 'done' | 'failed',
  reason: string | null,
): Promise<void> {
  await sql`with steps as (
      update operation_step set state = ${state}, reason = ${reason}
      where operation_id = ${operationId}::uuid)
    update operation set state = ${state}, finished_at = now() where id = ${operationId}::uuid`.execute(
    db,
  );
}

/** Mode and owner of a file as of another. */
export async function keepOwner(from: string, to: string): Promise<void> {
  const facts = await stat(bytesOfPath(from));
  await chmod(bytesOfPath(to), facts.mode & 0o7777);
  // Only the superuser may give files away; for everyone else the owner is the same anyway.
  await chown(bytesOfPath(to), facts.uid, facts.gid).catch(() => undefined);
}

/** Bring the file's row in step with what was written. */
async function recordFacts(
  db: Kysely<Database>,
  file: LocatedFile,
  { contentHash, essenceHash, facts }: Produced,
  written: Written,
): Promise<void> {
  await db
    .updateTable('file')
    .set({
      contentHash,
      size: Number(facts.size),
      ...(essenceHash ? { essenceHash } : {}),
      inode: facts.ino,
      modifiedNs: facts.mtimeNs,
      writtenVersion: written.version,
      ...(written.told ? { told: JSON.stringify(written.told) } : {}),
      writeProblem: null,
      verifiedAt: new Date(),
    })
    .where('id', '=', file.id)
    .execute();
}

const savedJustNow = ({ name }: LocatedFile): ArchiveError =>
  new ArchiveError(
    'file-changed',
    `“${name}” was changed by another program just now; it will be tried again.`,
  );

/**
 * Put a file in the place of one that was seen. Whoever writes into the old one at that very moment keeps it.
 * @throws ArchiveError file-changed
 */
async function replaceSeen(
  file: LocatedFile,
  seen: BigIntStats,
  target: string,
  aside: string,
): Promise<void> {
  // On disks where a file has one name only there is no second look.
  const isKept = await link(bytesOfPath(file.path), bytesOfPath(aside)).then(
    () => true,
    () => false,
  );
  try {
    const now = await factsOf(isKept ? aside : file.path);
    if (!isUntouched(seen, now)) throw savedJustNow(file);
    await rename(bytesOfPath(target), bytesOfPath(file.path));
    if (!isKept || isUntouched(seen, await factsOf(aside))) return;
    await rename(bytesOfPath(aside), bytesOfPath(file.path));
    throw savedJustNow(file);
  } finally {
    await removeFile(aside);
  }
}

export interface Rewrite {
  /** The file as it was when it was last known to be the one that is noted. */
  seen: BigIntStats;
  /** Version of the record that is written. */
  version: number;
  /** Writes a whole new file at the path it is given. @returns what it says; null where that is not noted of this file */
  produce: (target: string) => Promise<ToldValues | null>;
  /** It has picture data, which must stay the same. */
  hasPicture: boolean;
}

/** A new file's hashes. @throws ArchiveError tool-failed where its picture would differ */
async function hashProduced(
  file: LocatedFile,
  target: string,
  hasPicture: boolean,
): Promise<{ contentHash: string; essenceHash?: string | null }> {
  if (!hasPicture) return { contentHash: await hashFile(target) };
  const { contentHash, essenceHash } = await hashBoth(target, file.mediaType);
  // The picture is the one that was noted; else it must at least be the one that lies there now.
  const isKept =
    essenceHash !== null &&
    (essenceHash === file.essenceHash ||
      essenceHash === (await hashEssence(file.path, file.mediaType)));
  if (isKept) return { contentHash, essenceHash };
  throw new ArchiveError(
    'tool-failed',
    `Writing would have changed the picture in “${file.name}”; it was left alone.`,
  );
}

/**
 * Replace a file's bytes by what is produced beside it, provided that its picture data stay the same and nobody else wrote
 * into it meanwhile. Kill it anywhere: the old file stands until the new one is whole, synced and checked.
 * @throws ArchiveError file-changed where another program changed it meanwhile, tool-failed where it cannot be written
 */
export async function rewriteFile(
  house: House,
  file: LocatedFile,
  { seen, version, produce, hasPicture }: Rewrite,
): Promise<void> {
  refuseHandsOff(file);
  await realInside(file.path, file.root);
  const operationId = await journal(house.db, file);
  const folder = joinPath(file.root, file.folder);
  const target = joinPath(folder, temporaryName(operationId));
  try {
    const told = await produce(target);
    const hashes = await hashProduced(file, target, hasPicture);
    await keepOwner(file.path, target);
    await syncFile(target);
    const facts = (await factsOf(target))!;
    await house.db
      .updateTable('operationStep')
      .set({ after: JSON.stringify({ contentHash: hashes.contentHash, version, told }) })
      .where('operationId', '=', operationId)
      .execute();
    await replaceSeen(file, seen, target, joinPath(folder, temporaryName(`${operationId}-old`)));
    await syncFolder(folder);
    await recordFacts(house.db, file, { ...hashes, facts }, { version, told });
    await settleJournal(house.db, operationId, 'done', null);
  } catch (error) {
    await removeFile(target).catch(() => undefined);
    await settleJournal(house.db, operationId, 'failed', withoutPaths((error as Error).message));
    throw error;
  }
}

/**
 * After a crash: finish or take back a rewrite from its journal. The bytes on disk decide.
 */
export async function recoverRewrite(
  house: House,
  file: LocatedFile,
  operationId: string,
  after: { contentHash?: string } & Partial<Written>,
): Promise<void> {
  for (const id of [operationId, `${operationId}-old`])
    await removeFile(joinPath(file.root, file.folder, temporaryName(id)));
  const facts = await factsOf(file.path);
  const contentHash = facts ? await hashFile(file.path) : null;
  // Whoever saved it while it was read is found by the next comparison.
  if (facts && contentHash !== null && contentHash === after.contentHash) {
    await recordFacts(
      house.db,
      file,
      { contentHash, facts },
      { version: after.version ?? file.writtenVersion, told: after.told ?? null },
    );
    await settleJournal(house.db, operationId, 'done', null);
  } else
    await settleJournal(
      house.db,
      operationId,
      'failed',
      'The work ended before the file was replaced.',
    );
}
