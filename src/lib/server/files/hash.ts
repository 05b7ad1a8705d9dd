import type { FileHandle } from 'node:fs/promises';
import { createXXHash128, type IHasher } from 'hash-wasm';
import { boxPicker } from '#core/likeness/boxes';
import { pngPicker, webpPicker } from '#core/likeness/chunks';
import { pickItems } from '#core/likeness/items';
import { essencePicker } from '#core/likeness/jpeg';
import { pdfPicker } from '#core/likeness/pdf';
import { pickTiff } from '#core/likeness/tiff';
import { withBuffer } from './buffers';
import { withOpened } from './open';

/** xxh3-128 as ASC MHL names it, 32 hex digits. */
export type ContentHash = string;

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

/** Read a file from its beginning; each piece is only lent. */
export const eachPiece = (
  handle: FileHandle,
  take: (bytes: Buffer, at: number) => unknown,
): Promise<void> =>
  withBuffer(async (buffer) => {
    for (let at = 0; ;) {
      const { bytesRead } = await handle.read(buffer, 0, buffer.length, at);
      if (bytesRead === 0) return;
      await take(buffer.subarray(0, bytesRead), at);
      at += bytesRead;
    }
  });

/** Hash of all bytes of an open file, from its beginning. */
export async function hashHandle(handle: FileHandle): Promise<ContentHash> {
  const hasher = await startHash();
  await eachPiece(handle, (bytes) => void hasher.update(bytes));
  return endHash(hasher);
}

/** Hash of all bytes of a file (path text). */
export const hashFile = (path: string): Promise<ContentHash> => withOpened(path, hashHandle);

/** Hash of the picture data of a file that is read piece by piece. */
export interface EssenceHash {
  update: (bytes: Uint8Array) => void;
  /**
   * Null where the file is not whole, or its picture data cannot be told from its metadata here.
   * @param path where what was read lies
   */
  end: (path: string) => Promise<ContentHash | null>;
}

/** Formats whose picture data can be told from their metadata. */
const PICKERS: Record<string, typeof essencePicker> = {
  'image/jpeg': essencePicker,
  'image/png': pngPicker,
  'image/webp': webpPicker,
  'video/mp4': boxPicker,
  'video/quicktime': boxPicker,
  'application/pdf': pdfPicker,
};
/** Here the picture lies all over the file: it is looked up once the file is there. */
const SCATTERED: Record<string, typeof pickTiff> = {
  'image/tiff': pickTiff,
  'image/heic': pickItems,
  'image/avif': pickItems,
};

export async function startEssence(mediaType: string): Promise<EssenceHash> {
  const scattered = SCATTERED[mediaType];
  if (scattered)
    return {
      update: () => undefined,
      end: (path) => withOpened(path, (handle) => hashScattered(handle, scattered)),
    };
  const pickerOf = PICKERS[mediaType];
  if (!pickerOf) return { update: () => undefined, end: () => Promise.resolve(null) };
  const hasher = await startHash();
  const picker = pickerOf((bytes) => void hasher.update(bytes));
  return {
    update: picker.push,
    end() {
      const isWhole = picker.end();
      const hash = endHash(hasher);
      return Promise.resolve(isWhole ? hash : null);
    },
  };
}

const hashScattered = (handle: FileHandle, pick: typeof pickTiff): Promise<ContentHash | null> =>
  withBuffer(async (buffer) => {
    const { size } = await handle.stat();
    const hasher = await startHash();
    const read = async (at: number, length: number): Promise<Uint8Array> => {
      const into = length <= buffer.length ? buffer : Buffer.alloc(length);
      const { bytesRead } = await handle.read(into, 0, length, at);
      return into.subarray(0, bytesRead);
    };
    const isWhole = await pick({ size, read }, (bytes) => void hasher.update(bytes));
    const hash = endHash(hasher);
    return isWhole ? hash : null;
  });

/** Both hashes of a file from one reading. */
export async function hashBoth(
  path: string,
  mediaType: string,
): Promise<{ contentHash: ContentHash; essenceHash: ContentHash | null }> {
  const essence = await startEssence(mediaType);
  const hasher = await startHash();
  await withOpened(path, (handle) =>
    eachPiece(handle, (bytes) => {
      hasher.update(bytes);
      essence.update(bytes);
    }),
  );
  return { contentHash: endHash(hasher), essenceHash: await essence.end(path) };
}

/** Hash of a file's picture data without metadata; null where they cannot be told apart, and for broken files. */
export const hashEssence = async (path: string, mediaType: string): Promise<ContentHash | null> =>
  (await hashBoth(path, mediaType)).essenceHash;
