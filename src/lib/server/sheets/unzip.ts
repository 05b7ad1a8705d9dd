import { createWriteStream } from 'node:fs';
import type { FileHandle } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { fromFdPromise, type Entry } from 'yauzl';
import { ArchiveError, sentenceOf } from '#core/errors';
import { isClutter } from '#core/kinds/kinds';
import { makeFolder, removeFile } from '../files/disk';
import { openPlain } from '../files/open';
import { newId } from '../house/ids';
import { putIntoParcel } from '../uploads/parcels';

const MOST_ENTRIES = 20_000;
const MOST_BYTES = 50e9;
/** A ZIP that grows more than this is a bomb; pictures hardly shrink at all. */
const MOST_GROWTH = 120;
/** Below this nobody minds how much it grew. */
const HARMLESS = 64e6;
const LINK_MODE = 0o120000;
const TYPE_MASK = 0o170000;

export interface Unpacked {
  paths: string[];
  refused: { path: string; reason: string }[];
}

/** Why an entry is not unpacked; null where it is. */
function refusal(entry: Entry): string | null {
  const name = entry.fileName;
  if (name.startsWith('/') || /^[a-z]:/i.test(name)) return 'its path begins outside';
  if (name.split(/[/\\]/).includes('..')) return 'its path leads outside';
  if (((entry.externalFileAttributes >>> 16) & TYPE_MASK) >>> 0 === LINK_MODE)
    return 'it is a link';
  if (entry.isEncrypted?.()) return 'it is encrypted';
  return null;
}

/**
 * Unpack a ZIP into a parcel. Nothing leaves it, links are refused, and what is really written is counted,
 * whatever the ZIP says of itself.
 * @throws ArchiveError file-unreadable where it is no ZIP, or a bomb
 */
export async function unzip(wish: {
  uploads: string;
  parcel: string;
  path: string;
}): Promise<Unpacked> {
  const { uploads, parcel, path } = wish;
  const found: Unpacked = { paths: [], refused: [] };
  const work = join(uploads, '.unzip');
  await makeFolder(work);
  let written = 0;
  let handle: FileHandle | null = null;
  try {
    handle = await openPlain(path);
    const zip = await fromFdPromise(handle.fd, { lazyEntries: true, autoClose: false });
    if (zip.entryCount > MOST_ENTRIES)
      throw new ArchiveError('file-unreadable', `The ZIP holds more than ${MOST_ENTRIES} files.`);
    const most = Math.min(MOST_BYTES, Math.max(HARMLESS, zip.fileSize * MOST_GROWTH));
    const bomb = (): ArchiveError =>
      new ArchiveError('file-unreadable', 'The ZIP grows far beyond its size; it is not unpacked.');
    for await (const entry of zip.eachEntry()) {
      const name = entry.fileName;
      if (/[/\\]$/.test(name) || name.split('/').some(isClutter) || name.startsWith('__MACOSX/'))
        continue;
      const reason = refusal(entry);
      if (reason) {
        found.refused.push({ path: name, reason });
        continue;
      }
      if (written + entry.uncompressedSize > most) throw bomb();
      const temporary = join(work, newId());
      try {
        const count = new Transform({
          transform(chunk: Buffer, _encoding, done) {
            written += chunk.length;
            if (written > most) done(bomb());
            else done(null, chunk);
          },
        });
        await pipeline(
          await zip.openReadStreamPromise(entry),
          count,
          createWriteStream(temporary, { flags: 'wx' }),
        );
        found.paths.push(await putIntoParcel(uploads, parcel, name, temporary));
      } finally {
        await removeFile(temporary);
      }
    }
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw new ArchiveError(
      'file-unreadable',
      `The ZIP cannot be read: ${sentenceOf(error)}`,
      {},
      { cause: error },
    );
  } finally {
    await handle?.close();
  }
  return found;
}
