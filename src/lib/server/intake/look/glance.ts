import type { FileHandle } from 'node:fs/promises';
import exifr from 'exifr';
import sharp from 'sharp';
import { takenFromExif } from '#core/records/taken';
import { technicalFromTags } from '#core/records/technical';
import { pathOfHandle, withOpened } from '../../files/open';

/** Metadata and its small picture stand at the beginning of a camera's file. */
const HEAD = 256 << 10;
const SMALLEST = 2000;

async function headOf(handle: FileHandle): Promise<Buffer> {
  const buffer = Buffer.alloc(HEAD);
  const { bytesRead } = await handle.read(buffer, 0, HEAD, 0);
  return buffer.subarray(0, bytesRead);
}

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

export interface Glance {
  takenFrom: string | null;
  takenPrecision: 'moment' | null;
  camera: string;
  aspect: number;
}

/** Day, camera and shape from the first bytes of a file; null where they say nothing. */
export async function glance(path: string): Promise<Glance | null> {
  try {
    const tags = (await exifr.parse(await withOpened(path, headOf), {
      tiff: true,
      exif: true,
      ifd1: false,
      reviveValues: false,
      translateValues: false,
      mergeOutput: true,
    })) as Record<string, unknown> | undefined;
    if (!tags) return null;
    const taken = takenFromExif(text(tags['DateTimeOriginal']));
    const width = Number(tags['ExifImageWidth'] ?? tags['ImageWidth']);
    const height = Number(tags['ExifImageHeight'] ?? tags['ImageHeight']);
    const lies = Number(tags['Orientation']) >= 5;
    const aspect = width > 0 && height > 0 ? (lies ? height / width : width / height) : 1.5;
    return {
      takenFrom: taken?.from ?? null,
      takenPrecision: taken ? 'moment' : null,
      camera:
        technicalFromTags({ 'IFD0:Make': tags['Make'], 'IFD0:Model': tags['Model'] }).camera ?? '',
      aspect,
    };
  } catch {
    // A file that says nothing at a glance is looked at closely later.
    return null;
  }
}

/**
 * The small picture a camera puts into its files, upright; without one, a JPEG decoded at an eighth of its
 * size, which costs little more. Null for everything else.
 * @returns WebP
 */
export async function embeddedPreview(path: string): Promise<Buffer | null> {
  try {
    const head = await withOpened(path, headOf);
    const small = await exifr.thumbnail(head).catch(() => undefined);
    if (!small || small.length < SMALLEST) return await shrunk(path, head);
    const orientation = Number((await exifr.orientation(head)) ?? 1);
    const turns: Record<number, number> = { 3: 180, 6: 90, 8: 270 };
    return await sharp(Buffer.from(small))
      .rotate(turns[orientation] ?? 0)
      .webp({ quality: 75, effort: 0 })
      .toBuffer();
  } catch {
    return null;
  }
}

const EDGE = 240;

/** A JPEG is decoded by its eighths: most of its bytes are only skipped through. */
async function shrunk(path: string, head: Buffer): Promise<Buffer | null> {
  if (head[0] !== 0xff || head[1] !== 0xd8) return null;
  return withOpened(path, (handle) =>
    sharp(pathOfHandle(handle), { sequentialRead: true })
      .autoOrient()
      .resize({ width: EDGE, height: EDGE, fit: 'inside' })
      .webp({ quality: 70, effort: 0 })
      .toBuffer(),
  );
}
