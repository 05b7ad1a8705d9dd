import { readFile } from 'node:fs/promises';
import { sql } from 'kysely';
import pLimit from 'p-limit';
import sharp, { type Sharp } from 'sharp';
import { ArchiveError, sentenceOf } from '#core/errors';
import { plainReason, withoutMarkup } from '#core/kinds/reasons';
import type { Technical } from '#core/records/technical';
import { withoutPaths } from '#core/text/paths';
import { apart, runApart } from '../apart/apart';
import { headOf, isThere } from '../files/disk';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { lookColumns, looksOf, tieLookalikes } from '../likeness/likeness';
import { notifyItems } from '../live/notify';
import { pictureOfParts } from './parts';
import { opened, type Pixels } from './pixels';
import { probe } from './probe';
import { needsProxy } from './proxy';
import { MEASURE, MEASURE_SECONDS, withPrepared, type PictureSource } from './prepared';
import type { Decodable, Rendered, renderSizes } from './render';
import { burstsOf } from '../bursts/ask';
import { coloursOf, measuresFrom, measuresOf } from './seen';
import { rendered } from './turns';
import {
  makeRenditionFolder,
  noteRenditions,
  PICTURE_SIZES,
  pictureFile,
  toldByKey,
  type MadeRendition,
  type PictureSize,
} from './store';

const RECIPES: Record<PictureSize, { quality: number; effort: number }> = {
  large: { quality: 82, effort: 0 },
  medium: { quality: 80, effort: 2 },
  small: { quality: 78, effort: 2 },
};
const RENDER = apart<typeof renderSizes>('renditions/render', 'renderSizes', 'pictures');
const RENDER_SECONDS = 60;

/** How a picture of an item's file is opened. */
export function pictureSourceOf(house: House, file: LocatedFile): PictureSource {
  const { path, format, kind } = file;
  return { path, format, kind, ...toldByKey(file.pictureKey), work: house.folders.work };
}

/** Make all sizes of a picture and note them. */
async function storePictures(
  house: House,
  key: string,
  from: Decodable,
  measures: boolean,
): Promise<Rendered> {
  await makeRenditionFolder(house, key);
  const names = ['large', 'medium', 'small'] as const;
  const run = newId();
  const sizes = names.map((size) => ({
    edge: PICTURE_SIZES[size],
    ...RECIPES[size],
    target: pictureFile(house, key, size),
    run,
  }));
  const found = await rendered(RENDER, { ...from, sizes, measures }, RENDER_SECONDS);
  const made = found.made.map((one, at): MadeRendition => ({ recipe: names[at]!, ...one }));
  await noteRenditions(house, key, made);
  return found;
}

/** Duration, frame rate, timecode; and a proxy where a browser cannot play the original. */
async function probeMedia(house: House, file: LocatedFile, parentId: string | null): Promise<void> {
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
  const next = (task: 'film' | 'proxy', title: string) => ({
    task,
    title,
    subject: file.itemId,
    itemId: file.itemId,
    parentId,
  });
  await enqueue(house.db, [
    next('film', `Reading frames and sound of ${file.name}`),
    ...(needsProxy(file.format, found.technical)
      ? [next('proxy', `Making a proxy of ${file.name}`)]
      : []),
  ]);
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
  return row !== undefined && (await isThere(pictureFile(house, key, 'large')));
}

/** A bundle without a picture of its own shows that of its largest part. */
async function withAny<T>(
  house: House,
  file: LocatedFile,
  run: (from: Decodable) => Promise<T>,
): Promise<T> {
  const source = pictureSourceOf(house, file);
  try {
    return await withPrepared(source, run);
  } catch (error) {
    const part = file.kind === 'bundle' ? await pictureOfParts(house, file.itemId) : null;
    if (!part) throw error;
    return withPrepared({ ...source, ...part, orientation: 1 }, run);
  }
}

/** Wherever one waits for them: two at a time. */
const asked = pLimit(2);

/** Make pictures as somebody chose them, before anybody is shown them. */
export const makeChosenPictures = (house: House, file: LocatedFile, pictureKey: string) =>
  asked(() =>
    withAny(house, { ...file, pictureKey }, (from) =>
      storePictures(house, pictureKey, from, false),
    ),
  );

/** What is seen on a small picture. */
const seenOn = async (file: LocatedFile, small: Pixels | string) => ({
  looks: await looksFor(file, small),
  colours: await coloursOf(await smallOf(small)),
});

/** How many pictures a moving one has: GIF and WebP by libvips, APNG by itself (PNG, third edition, 11.3.6.1). */
async function movesOf({ format, path }: LocatedFile, pages: number): Promise<Technical> {
  if (format === 'png') {
    const head = await headOf(path);
    const at = head.indexOf('acTL');
    const frames = at > 0 && at + 8 <= head.length ? head.readUInt32BE(at + 4) : 1;
    return frames > 1 ? { frames } : {};
  }
  return pages > 1 && (format === 'gif' || format === 'webp') ? { frames: pages } : {};
}

/** The pictures of a file, made where they are not; and what its item learns from them. */
async function learnFrom(house: House, file: LocatedFile) {
  const hasSize = file.kind === 'photo' || file.kind === 'vector';
  const sizeOf = ({ width, height }: { width: number; height: number }) =>
    hasSize && file.width === null ? { width, height } : {};
  if (await isMade(house, file.pictureKey)) {
    const picture = (size: PictureSize): string => pictureFile(house, file.pictureKey, size);
    const size =
      hasSize && file.width === null
        ? sizeOf(await withAny(house, file, (from) => runApart(MEASURE, from, MEASURE_SECONDS)))
        : {};
    return {
      size,
      learnt: file.kind === 'photo' ? await measuresFrom(picture('large'), picture('small')) : {},
      ...(await seenOn(file, picture('small'))),
    };
  }
  const made = await withAny(house, file, (from) =>
    storePictures(house, file.pictureKey, from, file.kind === 'photo'),
  );
  const learnt: Technical = {
    ...(made.isClear ? { transparency: 'alpha channel' } : {}),
    ...(await movesOf(file, made.pages)),
    ...(file.format === 'tiff' && made.pages > 1 ? { pages: made.pages } : {}),
    ...(made.measures ? measuresOf(made.measures) : {}),
  };
  return { size: { ...sizeOf(made) }, learnt, ...(await seenOn(file, made.small)) };
}

/** Lanes that make pictures at once end about together: the last of them asks, and some before it may. */
const LAST = 5;

/** Bursts are folded when the pictures of an accession are there: not after each of a hundred thousand. */
async function askForBursts(house: House, itemId: string, parentId: string | null): Promise<void> {
  const { db } = house;
  if (parentId) {
    const others = await db
      .selectFrom('job')
      .select('id')
      .where((of) => of.or([of('parentId', '=', parentId), of('id', '=', parentId)]))
      .where('task', 'in', ['pictures', 'intake'])
      .where('state', 'in', ['waiting', 'running'])
      .limit(LAST)
      .execute();
    if (others.length === LAST) return;
    // Until everything is in, its end asks.
    if (others.some(({ id }) => id === parentId)) return;
  }
  const { accessionId } = await db
    .selectFrom('item')
    .select('accessionId')
    .where('id', '=', itemId)
    .executeTakeFirstOrThrow();
  await enqueue(db, [burstsOf(accessionId)]);
}

const isPicturedAway = async (house: House, file: LocatedFile): Promise<boolean> =>
  !(await isThere(file.path)) && (await isThere(pictureFile(house, file.pictureKey, 'small')));

/** Job: the pictures of one item. */
export const makePictures = (house: House, { itemId, parentId }: JobRow): Promise<void> =>
  makePicturesOf(house, { itemId: itemId!, parentId });

/** Whose pictures, and what asked for them. */
interface PictureWish {
  itemId: string;
  parentId: string | null;
}

/** The pictures of one item, or the reason why there are none. A file that cannot be read is no failure. */
export async function makePicturesOf(house: House, asked: PictureWish): Promise<void> {
  let file = await originalOf(house.db, asked.itemId);
  const learn = async () => {
    if (file.kind === 'footage' || file.kind === 'sound') {
      await probeMedia(house, file, asked.parentId);
      file = await originalOf(house.db, asked.itemId);
    }
    const { size, learnt, looks, colours } = await learnFrom(house, file);
    const values = {
      ...size,
      technical: sql<string>`technical || ${JSON.stringify(learnt)}::jsonb`,
      colours,
      ...lookColumns(looks?.look ?? null),
      lookNo: looks && sql<string>`nextval('change_number')`,
      likenessMade: true,
      noPicture: null,
      noPictureDetail: null,
    };
    return { values, seeker: looks?.seeker };
  };
  const { values, seeker } = await learn().catch(async (error: unknown) => ({
    // A file that is away says nothing of the pictures that were made of it before.
    values: (await isPicturedAway(house, file)) ? {} : reasonOf(error),
    seeker: undefined,
  }));
  if (Object.keys(values).length === 0) return;
  await house.db.updateTable('item').set(values).where('id', '=', file.itemId).execute();
  if (seeker) {
    await tieLookalikes(house, file.itemId, seeker);
    await askForBursts(house, file.itemId, asked.parentId);
  }
  await notifyItems(house.db, [file.itemId]);
}

/** Why there is no picture, in plain words; and what was complained, without paths, for who wants to know. */
function reasonOf(error: unknown): { noPicture: string; noPictureDetail: string | null } {
  const complaint = withoutMarkup(withoutPaths(sentenceOf(error))).slice(0, 500);
  if (error instanceof ArchiveError && error.code === 'file-unreadable') {
    const { detail } = error.data;
    return { noPicture: complaint, noPictureDetail: typeof detail === 'string' ? detail : null };
  }
  return { noPicture: plainReason(complaint), noPictureDetail: complaint };
}
