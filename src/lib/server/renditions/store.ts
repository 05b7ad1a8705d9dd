import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import type { House } from '../house/house';

/** Long edge of the pictures we keep, in px. All are WebP in sRGB, upright. */
export const PICTURE_SIZES = { small: 360, medium: 720, large: 2048 } as const;
export type PictureSize = keyof typeof PICTURE_SIZES;

export const isPictureSize = (text: string): text is PictureSize => text in PICTURE_SIZES;

/**
 * Keys are hex digits, with an orientation behind a hyphen; and what a person chose of how the picture is taken: the
 * moment of footage, in ms, or raw data developed here. Anything else is no key.
 */
export const PICTURE_KEY = /^[0-9a-f]{32}(-[1-8])?(-t\d{1,9}|-developed)?$/;

/** What a person chose of how a picture is taken; null: as it is done without a wish. */
export type PictureChoice = { moment: number } | { developed: true } | null;
const CHOSEN = /-(t\d+|developed)$/;

/** EXIF orientation and choice that a key tells. */
export function toldByKey(key: string): { orientation: number; choice: PictureChoice } {
  const moment = /-t(\d+)$/.exec(key)?.[1];
  const developed = key.endsWith('-developed');
  return {
    orientation: Number(/-([1-8])$/.exec(withoutChoice(key))?.[1] ?? 1),
    choice: moment ? { moment: Number(moment) / 1000 } : developed ? { developed } : null,
  };
}
/** The key of everything that does not depend on what was chosen. */
export const withoutChoice = (key: string): string => key.replace(CHOSEN, '');
export const withChoice = (key: string, choice: PictureChoice): string =>
  withoutChoice(key) +
  (choice === null
    ? ''
    : 'moment' in choice
      ? `-t${Math.round(choice.moment * 1000)}`
      : '-developed');

/** Folder of everything derived from one picture. */
export function renditionFolder(house: House, key: string): string {
  if (!PICTURE_KEY.test(key)) throw new ArchiveError('not-found', 'There is no picture of this.');
  return join(house.folders.cache, 'pictures', key.slice(0, 2), key);
}

export const pictureFile = (house: House, key: string, size: PictureSize): string =>
  join(renditionFolder(house, key), `${size}.webp`);

/** The largest picture a reading room shows where it grants no larger one; made when first asked for. */
export const ROOM_EDGE = 1200;
export const roomPictureFile = (house: House, key: string): string =>
  join(renditionFolder(house, key), 'room.webp');
/** What a guest takes away of 2048 px. */
export const roomJpegFile = (house: House, key: string): string =>
  join(renditionFolder(house, key), 'room.jpg');

export const tilesFolder = (house: House, key: string): string =>
  join(renditionFolder(house, key), 'tiles');

export const proxyFile = (house: House, key: string, kind: 'footage' | 'sound'): string =>
  join(renditionFolder(house, withoutChoice(key)), kind === 'footage' ? 'proxy.mp4' : 'proxy.m4a');

/** What is known of the frames and the sound of footage, its strip of frames, and its sound drawn. */
const FILM_FILES = { film: 'film.json', strip: 'strip.jpg', peaks: 'peaks.bin' };
export const filmFile = (house: House, key: string, what: keyof typeof FILM_FILES): string =>
  join(renditionFolder(house, withoutChoice(key)), FILM_FILES[what]);

/** One page of several, made when first asked for. @param page from 1 */
export const pageFile = (house: House, key: string, page: number): string =>
  join(renditionFolder(house, key), `page-${page}.webp`);

export const makeRenditionFolder = async (house: House, key: string): Promise<void> => {
  await mkdir(renditionFolder(house, key), { recursive: true });
};

export interface MadeRendition {
  recipe: string;
  width?: number;
  height?: number;
  bytes?: number;
}

/** Note what was made of one picture. */
export async function noteRenditions(
  house: House,
  pictureKey: string,
  made: MadeRendition[],
): Promise<void> {
  const rows = made.map(({ recipe, width, height, bytes }) => ({
    pictureKey,
    recipe,
    width: width ?? null,
    height: height ?? null,
    bytes: bytes ?? null,
    problem: null,
    madeAt: house.now(),
  }));
  await house.db
    .insertInto('rendition')
    .values(rows)
    .onConflict((conflict) =>
      conflict.columns(['pictureKey', 'recipe']).doUpdateSet((set) => ({
        width: set.ref('excluded.width'),
        height: set.ref('excluded.height'),
        bytes: set.ref('excluded.bytes'),
        problem: null,
        madeAt: set.ref('excluded.madeAt'),
      })),
    )
    .execute();
}
