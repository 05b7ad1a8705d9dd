import { ArchiveError } from '#core/errors';
import { copyVerified, factsOf, moveWithoutReplacing, removeFile, syncFolder } from './disk';
import type { Disks } from './disks';
import { folderPath, keepOwner, spotPath, type Spot } from './door';
import { hashFile, type ContentHash } from './hash';

/** A copy that is laid somewhere, or taken away again. */
export interface Copy {
  to: Spot;
  /** A name of ours in its folder, for what is not whole yet or not gone yet. */
  temporary: string;
  /** Nobody tried before: what lies there is another's. */
  isFirst: boolean;
}

/**
 * Lay a copy: verified, under a name of ours until it is whole, then under its own without ever replacing another.
 * Safe to repeat.
 * @returns its content hash
 * @throws ArchiveError conflict where the name is another's, file-changed where the first one changes meanwhile
 */
export async function layCopy(from: string, copy: Copy, disks: Disks): Promise<ContentHash> {
  const target = spotPath(copy.to);
  const disk = await disks.of(copy.to, true);
  const whole = spotPath({ ...copy.to, name: copy.temporary });
  try {
    const before = await factsOf(from);
    const hash = await copyVerified(from, whole);
    await keepOwner(from, whole);
    const now = await factsOf(from);
    if (!before || !now || before.mtimeNs !== now.mtimeNs || before.ino !== now.ino)
      throw new ArchiveError(
        'file-changed',
        `“${from}” was changed by another program just now; it was not copied.`,
      );
    if ((await factsOf(whole))?.dev !== disk)
      throw new ArchiveError('not-found', `The disk of “${folderPath(copy.to)}” was taken away.`);
    // Cut off after it was laid and before that was noted: the same bytes lie there already.
    const isLaid =
      !copy.isFirst && (await factsOf(target)) !== null && (await hashFile(target)) === hash;
    if (!isLaid) await moveWithoutReplacing(whole, target);
    await syncFolder(folderPath(copy.to));
    return hash;
  } finally {
    await removeFile(whole);
  }
}

/**
 * Take a copy away for good, if it still is what was laid. Out of everybody's hands first, then read, then removed:
 * what another program writes meanwhile is not lost. Safe to repeat.
 * @throws ArchiveError file-changed, not-found; it lies where it lay then
 */
export async function takeCopyAway(copy: Copy, contentHash: string, disks: Disks): Promise<void> {
  const lies = spotPath(copy.to);
  const parked = spotPath({ ...copy.to, name: copy.temporary });
  await disks.of(copy.to, false);
  if (!copy.isFirst && !(await factsOf(lies)) && !(await factsOf(parked))) return;
  await moveWithoutReplacing(lies, parked, copy.isFirst);
  if ((await hashFile(parked)) !== contentHash) {
    await moveWithoutReplacing(parked, lies);
    throw new ArchiveError(
      'file-changed',
      `“${copy.to.name}” is not what was copied there any more; it stays.`,
    );
  }
  await removeFile(parked);
  await syncFolder(folderPath(copy.to));
}
