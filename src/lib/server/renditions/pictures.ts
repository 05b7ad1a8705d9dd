import { readFile, rename, stat } from 'node:fs/promises';
import { sql } from 'kysely';
import sharp, { type ResizeOptions, type Sharp } from 'sharp';
import { ArchiveError, sentenceOf } from '#core/errors';
import { mainColours } from '#core/colour/palette';
import { plainReason } from '#core/kinds/reasons';
import { withoutPaths } from '#core/text/paths';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { lookColumns, looksOf, tieLookalikes } from '../likeness/likeness';
import { notify } from '../live/notify';
import { pictureOfParts } from './parts';
import { opened, pixelsOf, type Pixels } from './pixels';
import { probe } from './probe';
import { needsProxy } from './proxy';
import { withPicture, type PictureSource } from './source';
import { inTurn } from './turns';
import {
  makeRenditionFolder,
  noteRenditions,
  PICTURE_SIZES,
  pictureFile,
  type MadeRendition,
  type PictureSize,
} from './store';

/** px; colours do not get truer with more. */
const COLOUR_EDGE = 64;
const QUALITY: Record<PictureSize, number> = { small: 78, medium: 80, large: 82 };

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

const fitted = (size: PictureSize): ResizeOptions => ({
  width: PICTURE_SIZES[size],
  height: PICTURE_SIZES[size],
  fit: 'inside',
  withoutEnlargement: true,
});

/** Decode once to the large size; each smaller one comes from the next larger. */
async function storePictures(house: House, key: string, image: Sharp): Promise<Pixels> {
  await makeRenditionFolder(house, key);
  const made: MadeRendition[] = [];
  // Cubic: from a decoder that already halved, the difference to a longer kernel is not seen but paid for.
  const first = image.resize({ ...fitted('large'), kernel: 'cubic' }).toColourspace('srgb');
  let pixels = await inTurn(image, () => pixelsOf(first));
  for (const size of ['large', 'medium', 'small'] as const) {
    if (size !== 'large') pixels = await pixelsOf(opened(pixels).resize(fitted(size)));
    const target = pictureFile(house, key, size);
    const temporary = `${target}.${newId()}`;
    const { width, height } = pixels;
    const { size: bytes } = await opened(pixels)
      .webp({ quality: QUALITY[size], effort: size === 'large' ? 0 : 2 })
      .toFile(temporary);
    await rename(temporary, target);
    made.push({ recipe: size, width, height, bytes });
  }
  await noteRenditions(house, key, made);
  return pixels;
}

/** Size as shown upright, for kinds whose metadata do not tell. */
async function measured(
  file: LocatedFile,
  image: Sharp,
): Promise<{ width?: number; height?: number }> {
  return file.width === null ? (await image.metadata()).autoOrient : {};
}

/** Duration, frame rate, timecode; and a proxy where a browser cannot play the original. */
async function probeMedia(house: House, file: LocatedFile, job: JobRow): Promise<void> {
  const found = await probe(file.path, file.format);
  const item = await house.db
    .selectFrom('item')
    .select('technical')
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  const isSound = found.width === null && found.technical.audioCodec !== undefined;
  await house.db
    .updateTable('item')
    .set({
      // A container of moving pictures that holds sound alone is sound.
      ...(isSound && file.kind === 'footage' ? { kind: 'sound' as const } : {}),
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

/** Main colours, from the small picture. */
export async function coloursOf(small: Sharp): Promise<string[]> {
  const pixels = await small
    .flatten({ background: '#808080' })
    .resize(COLOUR_EDGE, COLOUR_EDGE, { fit: 'inside' })
    .toColourspace('srgb')
    .raw()
    .toBuffer();
  return mainColours(pixels);
}

const smallOf = async (small: Pixels | string): Promise<Sharp> =>
  typeof small === 'string' ? sharp(await readFile(small)) : opened(small);

/** What near pictures are found by; from the small picture, so that every kind of file has one. */
async function looksFor(file: LocatedFile, small: Pixels | string) {
  if (file.kind !== 'photo') return null;
  return looksOf(await smallOf(small));
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
async function withAny<T>(
  house: House,
  file: LocatedFile,
  run: (image: Sharp) => Promise<T>,
): Promise<T> {
  try {
    return await withPicture(pictureSourceOf(house, file), run);
  } catch (error) {
    const part = file.kind === 'bundle' ? await pictureOfParts(house, file.itemId) : null;
    if (!part) throw error;
    return withPicture({ ...pictureSourceOf(house, file), ...part, orientation: 1 }, run);
  }
}

/** What is seen on a small picture. */
const seenOn = async (file: LocatedFile, small: Pixels | string) => ({
  looks: await looksFor(file, small),
  colours: await coloursOf(await smallOf(small)),
});

/** The pictures of a file, made where they are not; and what its item learns from them. */
async function learnFrom(house: House, file: LocatedFile) {
  if (await isMade(house, file.pictureKey)) {
    const measure = (image: Sharp) => measured(file, image);
    const size = file.width === null ? await withAny(house, file, measure) : {};
    return { size, ...(await seenOn(file, pictureFile(house, file.pictureKey, 'small'))) };
  }
  return withAny(house, file, async (image) => {
    const size = await measured(file, image);
    const small = await storePictures(house, file.pictureKey, image);
    return { size, ...(await seenOn(file, small)) };
  });
}

/** Job: the pictures of one item, or the reason why there are none. A file that cannot be read is no failure. */
export async function makePictures(house: House, job: JobRow): Promise<void> {
  let file = await originalOf(house.db, job.itemId!);
  const learn = async () => {
    if (file.kind === 'footage' || file.kind === 'sound') {
      await probeMedia(house, file, job);
      file = await originalOf(house.db, job.itemId!);
    }
    const { size, looks, colours } = await learnFrom(house, file);
    const values = {
      ...size,
      colours,
      ...lookColumns(looks?.look ?? null),
      lookNo: looks && sql<string>`nextval('change_number')`,
      ...{ likenessMade: true, noPicture: null, noPictureDetail: null },
    };
    return { values, seeker: looks?.seeker };
  };
  const { values, seeker } = await learn().catch((error: unknown) => ({
    values: reasonOf(error),
    seeker: undefined,
  }));
  await house.db.updateTable('item').set(values).where('id', '=', file.itemId).execute();
  if (seeker) await tieLookalikes(house, file.itemId, seeker);
  await notify(house.db, { about: 'items', ids: [file.itemId] });
}

/** Why there is no picture, in plain words; and what was complained, without paths, for who wants to know. */
function reasonOf(error: unknown): { noPicture: string; noPictureDetail: string | null } {
  const complaint = withoutPaths(sentenceOf(error)).slice(0, 500);
  if (error instanceof ArchiveError && error.code === 'file-unreadable') {
    const { detail } = error.data;
    return { noPicture: complaint, noPictureDetail: typeof detail === 'string' ? detail : null };
  }
  return { noPicture: plainReason(complaint), noPictureDetail: complaint };
}
