import { chmod, chown, rename, stat } from 'node:fs/promises';
import { hostname } from 'node:os';
import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import {
  factsOf,
  moveWithoutReplacing,
  removeFile,
  syncFile,
  syncFolder,
  temporaryName,
} from './disk';
import { hashBoth, hashEssence, hashFile } from './hash';
import type { LocatedFile } from './located';
import { bytesOfPath, joinPath, realInside } from './paths';

/**
 * The one door to originals. Whatever changes a file or its name passes here: it is journalled before it is
 * done, done so that a kill at any moment leaves the old or the new and never half, and finished or taken
 * back at the next start.
 */
export interface RenameStep {
  operationId: string;
  position: number;
  fileId: string;
  root: string;
  folder: string;
  before: string;
  after: string;
}

/** @throws ArchiveError not-allowed for a place marked hands off */
export function refuseHandsOff(file: { place: string; handsOff: boolean }): void {
  if (file.handsOff)
    throw new ArchiveError(
      'not-allowed',
      `“${file.place}” is hands off: nothing of ours writes there.`,
    );
}

const parkedName = (step: RenameStep): string =>
  temporaryName(`${step.operationId}-${step.position}`);

/**
 * First half of a rename: park the file under a name of ours, so that names can trade places within a batch.
 * Safe to repeat.
 */
export async function parkFile(step: RenameStep): Promise<void> {
  await realInside(joinPath(step.root, step.folder), step.root);
  const folder = joinPath(step.root, step.folder);
  await moveWithoutReplacing(joinPath(folder, step.before), joinPath(folder, parkedName(step)));
}

/** A rename that meets no other name of its batch. Safe to repeat. */
export async function renameFile(step: RenameStep): Promise<void> {
  const folder = joinPath(step.root, step.folder);
  await realInside(folder, step.root);
  await moveWithoutReplacing(joinPath(folder, step.before), joinPath(folder, step.after));
}

/** Second half: from the parked name to the new one. Safe to repeat. */
export async function settleFile(step: RenameStep): Promise<void> {
  const folder = joinPath(step.root, step.folder);
  await moveWithoutReplacing(joinPath(folder, parkedName(step)), joinPath(folder, step.after));
}

/** Take a parked file back to its old name. Safe to repeat. */
export async function unparkFile(step: RenameStep): Promise<void> {
  const folder = joinPath(step.root, step.folder);
  if (await factsOf(joinPath(folder, parkedName(step))))
    await moveWithoutReplacing(joinPath(folder, parkedName(step)), joinPath(folder, step.before));
}

interface Produced {
  contentHash: string;
  size: number;
}

async function journal(db: Kysely<Database>, file: LocatedFile): Promise<string> {
  const operationId = newId();
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('operation')
      .values({
        id: operationId,
        kind: 'rewrite',
        summary: `Wrote the record into ${file.name}`,
        state: 'doing',
        actorId: null,
        undoes: null,
        total: 1,
      })
      .execute();
    await transaction
      .insertInto('operationStep')
      .values({
        operationId,
        position: 0,
        action: 'rewrite',
        itemId: file.itemId,
        fileId: file.id,
        before: JSON.stringify({
          contentHash: file.contentHash,
          host: hostname(),
          pid: process.pid,
        }),
        after: '{}',
        state: 'doing',
      })
      .execute();
  });
  return operationId;
}

async function settleJournal(
  db: Kysely<Database>,
  operationId: string,
  state: 'done' | 'failed',
  reason: string | null,
): Promise<void> {
  await db.transaction().execute(async (transaction) => {
    await transaction
      .updateTable('operationStep')
      .set({ state, reason })
      .where('operationId', '=', operationId)
      .execute();
    await transaction
      .updateTable('operation')
      .set({ state, finishedAt: new Date() })
      .where('id', '=', operationId)
      .execute();
  });
}

async function keepOwner(from: string, to: string): Promise<void> {
  const facts = await stat(bytesOfPath(from));
  await chmod(bytesOfPath(to), facts.mode & 0o7777);
  // Only the superuser may give files away; for everyone else the owner is the same anyway.
  await chown(bytesOfPath(to), facts.uid, facts.gid).catch(() => undefined);
}

/** Bring the file's row in step with what lies on disk. */
export async function recordFacts(
  db: Kysely<Database>,
  file: LocatedFile,
  produced: Produced,
  writtenVersion: number,
): Promise<void> {
  const facts = await factsOf(file.path);
  if (!facts) throw new ArchiveError('not-found', `“${file.path}” is not there.`);
  await db
    .updateTable('file')
    .set({
      contentHash: produced.contentHash,
      size: produced.size,
      inode: facts.ino,
      modifiedNs: facts.mtimeNs,
      writtenVersion,
      writeProblem: null,
      verifiedAt: new Date(),
    })
    .where('id', '=', file.id)
    .execute();
}

/**
 * Replace a file's bytes by what `produce` writes beside it, provided that its picture data stay the same.
 * Kill it anywhere: the old file stands until the new one is whole, synced and checked.
 * @param produce writes a whole new file at the path it is given
 * @throws ArchiveError file-changed where the picture would differ or the file changed meanwhile
 */
export async function rewriteFile(
  house: House,
  file: LocatedFile,
  version: number,
  produce: (target: string) => Promise<void>,
): Promise<void> {
  refuseHandsOff(file);
  await realInside(file.path, file.root);
  const operationId = await journal(house.db, file);
  const folder = joinPath(file.root, file.folder);
  const target = joinPath(folder, temporaryName(operationId));
  try {
    const before = await factsOf(file.path);
    await produce(target);
    const { contentHash, essenceHash } = await hashBoth(target, file.mediaType);
    const facts = await factsOf(target);
    // The picture is the one that was noted; else it must at least be the one that lies there now.
    const isKept =
      (essenceHash !== null && essenceHash === file.essenceHash) ||
      essenceHash === (await hashEssence(file.path, file.mediaType));
    if (!isKept)
      throw new ArchiveError(
        'file-changed',
        `Writing would have changed the picture in “${file.name}”; it was left alone.`,
      );
    await keepOwner(file.path, target);
    await syncFile(target);
    await house.db
      .updateTable('operationStep')
      .set({ after: JSON.stringify({ contentHash, version }) })
      .where('operationId', '=', operationId)
      .execute();
    const now = await factsOf(file.path);
    if (!before || !now || before.mtimeNs !== now.mtimeNs || before.ino !== now.ino)
      throw new ArchiveError(
        'file-changed',
        `“${file.name}” was changed by another program just now; it will be tried again.`,
      );
    await rename(bytesOfPath(target), bytesOfPath(file.path));
    await syncFolder(folder);
    await recordFacts(house.db, file, { contentHash, size: Number(facts!.size) }, version);
    await settleJournal(house.db, operationId, 'done', null);
  } catch (error) {
    await removeFile(target).catch(() => undefined);
    await settleJournal(house.db, operationId, 'failed', (error as Error).message);
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
  after: { contentHash?: string; version?: number },
): Promise<void> {
  await removeFile(joinPath(file.root, file.folder, temporaryName(operationId)));
  const facts = await factsOf(file.path);
  const hash = facts ? await hashFile(file.path) : null;
  if (facts && hash !== null && hash === after.contentHash) {
    await recordFacts(
      house.db,
      file,
      { contentHash: hash, size: Number(facts.size) },
      after.version ?? file.writtenVersion,
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
