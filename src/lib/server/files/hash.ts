import { open, readFile, type FileHandle } from 'node:fs/promises';
import { createXXHash128, type IHasher } from 'hash-wasm';
import { jpegEssence } from '#core/likeness/jpeg';
import { withBuffer } from './buffers';
import { bytesOfPath } from './paths';

/** xxh3-128 as ASC MHL names it, 32 hex digits. */
export type ContentHash = string;

/** A JPEG larger than this keeps no essence hash: it would have to be held in memory whole. */
const LARGEST_ESSENCE = 256 << 20;

let hashers: IHasher[] = [];

/** A fresh streaming xxh3-128; hand it back with `release` so that its memory is used again. */
export async function startHash(): Promise<IHasher> {
  const hasher = hashers.pop() ?? (await createXXHash128());
  return hasher.init();
}

/** Finish and hand back. */
export function endHash(hasher: IHasher): ContentHash {
  const digest = hasher.digest('hex');
  hashers = [...hashers.slice(0, 15), hasher];
  return digest;
}

/** Hash of all bytes of an open file, from its beginning. */
export const hashHandle = (handle: FileHandle): Promise<ContentHash> =>
  withBuffer(async (buffer) => {
    const hasher = await startHash();
    let at = 0;
    for (;;) {
      const { bytesRead } = await handle.read(buffer, 0, buffer.length, at);
      if (bytesRead === 0) return endHash(hasher);
      hasher.update(buffer.subarray(0, bytesRead));
      at += bytesRead;
    }
  });

/** Hash of all bytes of a file (path text). */
export async function hashFile(path: string): Promise<ContentHash> {
  const handle = await open(bytesOfPath(path), 'r');
  try {
    return await hashHandle(handle);
  } finally {
    await handle.close();
  }
}

/** Hash of a JPEG's picture data without metadata; null for other files and broken ones. */
export async function hashEssence(
  path: string,
  size: number,
  mediaType: string,
): Promise<ContentHash | null> {
  if (mediaType !== 'image/jpeg' || size > LARGEST_ESSENCE) return null;
  const bytes = await readFile(bytesOfPath(path));
  const ranges = jpegEssence(bytes);
  if (!ranges) return null;
  const hasher = await startHash();
  for (const [from, to] of ranges) hasher.update(bytes.subarray(from, to));
  return endHash(hasher);
}
