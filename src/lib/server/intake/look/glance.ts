import type { FileHandle } from 'node:fs/promises';
import exifReader, { type Exif } from 'exif-reader';
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

/** `Exif\0\0` before the TIFF structure, as it stands in a JPEG (Exif 3.0, 4.7.2). */
const EXIF_MARK = 6;

/** The Exif of a file's first bytes; old raws are TIFF files whose own directories hold it. Null where there is none. */
async function exifOf(head: Buffer): Promise<{ exif: Exif; tiff: Buffer; wide: number } | null> {
  const start = head.toString('latin1', 0, 4);
  if (start === 'II*\0' || start === 'MM\0*')
    return { exif: exifReader(head), tiff: head, wide: 0 };
  const { exif, width = 0, height = 0 } = await sharp(head, { failOn: 'none' }).metadata();
  if (!exif) return null;
  return { exif: exifReader(exif), tiff: exif.subarray(EXIF_MARK), wide: width / (height || 1) };
}

export interface Glance {
  takenFrom: string | null;
  takenPrecision: 'moment' | null;
  camera: string;
  aspect: number;
}

/** A moment of a camera, which the reader takes for UTC, as Exif writes it. */
const momentOf = (date: unknown): string =>
  date instanceof Date && !Number.isNaN(date.getTime())
    ? date.toISOString().slice(0, 19).replaceAll('-', ':').replace('T', ' ')
    : '';

/** Day, camera and shape from the first bytes of a file; null where they say nothing. */
export async function glance(path: string): Promise<Glance | null> {
  try {
    const found = await exifOf(await withOpened(path, headOf));
    if (!found) return null;
    const { Image, Photo } = found.exif;
    const taken = takenFromExif(momentOf(Photo?.DateTimeOriginal));
    const width = Number(Photo?.PixelXDimension ?? Image?.ImageWidth);
    const height = Number(Photo?.PixelYDimension ?? Image?.ImageLength);
    const aspect = found.wide || (width > 0 && height > 0 ? width / height : 1.5);
    const tags = { 'IFD0:Make': Image?.Make, 'IFD0:Model': Image?.Model };
    return {
      takenFrom: taken?.from ?? null,
      takenPrecision: taken ? 'moment' : null,
      camera: technicalFromTags(tags).camera ?? '',
      aspect: Number(Image?.Orientation) >= 5 ? 1 / aspect : aspect,
    };
  } catch {
    // A file that says nothing at a glance is looked at closely later.
    return null;
  }
}

const TURNS: Record<number, number> = { 3: 180, 6: 90, 8: 270 };

/** The small picture in the second directory of an Exif block, upright; null where there is none. */
async function thumbnailOf(head: Buffer): Promise<Buffer | null> {
  const found = await exifOf(head).catch(() => null);
  const at = Number(found?.exif.Thumbnail?.['JPEGInterchangeFormat']);
  const length = Number(found?.exif.Thumbnail?.['JPEGInterchangeFormatLength']);
  if (!found || !(at > 0) || !(length >= SMALLEST)) return null;
  return sharp(found.tiff.subarray(at, at + length))
    .rotate(TURNS[Number(found.exif.Image?.Orientation)] ?? 0)
    .webp({ quality: 75, effort: 0 })
    .toBuffer();
}

/**
 * The small picture a camera puts into its files, upright; without one, a JPEG decoded at an eighth of its
 * size, which costs little more. Null for everything else. Run apart.
 * @returns WebP
 */
export async function embeddedPreview(path: string): Promise<Buffer | null> {
  try {
    const head = await withOpened(path, headOf);
    return (await thumbnailOf(head)) ?? (await shrunk(path, head));
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
