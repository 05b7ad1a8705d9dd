import { rename, stat } from 'node:fs/promises';
import type { Sharp } from 'sharp';
import { ArchiveError, sentenceOf } from '#core/errors';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/run';
import { enqueue } from '../jobs/queue';
import { pictureOfParts } from '../intake/parts';
import { likenessOfPicture, noteLikeness } from '../likeness/likeness';
import { notify } from '../live/notify';
import { withPlainPath } from '../metadata/exiftool';
import { probe } from './probe';
import { needsProxy } from './proxy';
import { openPicture, type PictureSource } from './source';
import {
  makeRenditionFolder,
  noteRendition,
  PICTURE_SIZES,
  pictureFile,
  type PictureSize,
} from './store';

const QUALITY: Record<PictureSize, number> = { small: 78, medium: 80, large: 84 };

/** How a picture of an item's file is opened. */
export function pictureSourceOf(house: House, file: LocatedFile): PictureSource {
  const orientation = Number(/-([1-8])$/.exec(file.pictureKey)?.[1] ?? 1);
  return {
    path: file.path,
    format: file.format,
    kind: file.kind,
    mediaType: file.mediaType,
    orientation,
    work: house.rooms.work,
  };
}

/** Decode once to the large size in sRGB; the smaller ones come from there. */
async function decodeLarge(
  image: Sharp,
): Promise<{ data: Buffer; width: number; height: number; channels: 3 | 4 }> {
  const { data, info } = await image
    .resize({
      width: PICTURE_SIZES.large,
      height: PICTURE_SIZES.large,
      fit: 'inside',
      withoutEnlargement: true,
    })
    .toColourspace('srgb')
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height, channels: info.channels as 3 | 4 };
}

async function storePictures(house: House, key: string, image: Sharp): Promise<void> {
  const { default: sharp } = await import('sharp');
  const large = await decodeLarge(image);
  await makeRenditionFolder(house, key);
  for (const size of Object.keys(PICTURE_SIZES) as PictureSize[]) {
    const target = pictureFile(house, key, size);
    const temporary = `${target}.${newId()}`;
    const { width, height, channels } = large;
    const info = await sharp(large.data, { raw: { width, height, channels } })
      .resize({
        width: PICTURE_SIZES[size],
        height: PICTURE_SIZES[size],
        fit: 'inside',
        withoutEnlargement: true,
      })
      .webp({ quality: QUALITY[size], effort: size === 'large' ? 0 : 2 })
      .toFile(temporary);
    await rename(temporary, target);
    await noteRendition(house, key, size, {
      width: info.width,
      height: info.height,
      bytes: info.size,
    });
  }
}

/** Size as shown upright, for kinds whose metadata do not tell. */
async function measure(house: House, file: LocatedFile, image: Sharp): Promise<void> {
  const item = await house.db
    .selectFrom('item')
    .select('width')
    .where('id', '=', file.itemId)
    .executeTakeFirst();
  if (item?.width) return;
  const { autoOrient } = await image.metadata();
  await house.db
    .updateTable('item')
    .set({ width: autoOrient.width, height: autoOrient.height })
    .where('id', '=', file.itemId)
    .execute();
}

/** Duration, frame rate, timecode; and a proxy where a browser cannot play the original. */
async function probeMedia(house: House, file: LocatedFile, job: JobRow): Promise<void> {
  const found = await withPlainPath(file.path, probe);
  const item = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  await house.db
    .updateTable('item')
    .set({
      duration: found.duration,
      ...(found.width ? { width: found.width, height: found.height } : {}),
      technical: JSON.stringify({ ...item.technical, ...found.technical }),
    })
    .where('id', '=', file.itemId)
    .execute();
  if (needsProxy(file.format, found.technical))
    await enqueue(house.db, [
      {
        task: 'proxy',
        title: `Making a proxy of ${file.name}`,
        subject: file.itemId,
        itemId: file.itemId,
        parentId: job.parentId,
      },
    ]);
}

/** What near pictures are found by; from the small rendition, so that every kind of file has one. */
async function learnLikeness(house: House, file: LocatedFile): Promise<void> {
  if (file.kind !== 'photo') return;
  const picture = pictureFile(house, file.pictureKey, 'small');
  await noteLikeness(house, file.itemId, await likenessOfPicture(picture));
}

async function setNoPicture(house: House, itemId: string, reason: string | null): Promise<void> {
  await house.db.updateTable('item').set({ noPicture: reason }).where('id', '=', itemId).execute();
}

async function isMade(house: House, key: string): Promise<boolean> {
  const row = await house.db
    .selectFrom('rendition')
    .select('recipe')
    .where('pictureKey', '=', key)
    .where('recipe', '=', 'large')
    .executeTakeFirst();
  return (
    row !== undefined &&
    (await stat(pictureFile(house, key, 'large')).then(
      () => true,
      () => false,
    ))
  );
}

/** A bundle without a picture of its own shows that of its largest part. */
async function openAny(house: House, file: LocatedFile): Promise<Sharp> {
  try {
    return await openPicture(pictureSourceOf(house, file));
  } catch (error) {
    const part = file.kind === 'bundle' ? await pictureOfParts(house, file.itemId) : null;
    if (!part) throw error;
    return openPicture({ ...pictureSourceOf(house, file), ...part, orientation: 1 });
  }
}

/** Job: the pictures of one item, or the reason why there are none. A file that cannot be read is no failure. */
export async function makePictures(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  try {
    if (file.kind === 'footage' || file.kind === 'sound') await probeMedia(house, file, job);
    if (!(await isMade(house, file.pictureKey))) {
      const image = await openAny(house, file);
      await measure(house, file, image);
      await storePictures(house, file.pictureKey, image);
    } else await measure(house, file, await openAny(house, file));
    await learnLikeness(house, file);
    await setNoPicture(house, file.itemId, null);
  } catch (error) {
    await setNoPicture(house, file.itemId, reasonOf(error));
  }
  await notify(house.db, { about: 'items', ids: [file.itemId] });
}

/** Why there is no picture, in words. */
function reasonOf(error: unknown): string {
  if (error instanceof ArchiveError) return error.message;
  const complaint = sentenceOf(error);
  if (/pixel limit/i.test(complaint)) return 'It has more pixels than we open.';
  if (
    /premature end|truncated|ended prematurely|end of (file|stream|image)|VipsJpeg: out of order/i.test(
      complaint,
    )
  )
    return 'The file ends too early: part of it is missing.';
  return `The picture cannot be read: ${complaint.split('\n')[0]!.slice(0, 200)}`;
}
