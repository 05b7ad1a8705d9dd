import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import type { House } from '../house/house';

/** Long edge of the pictures we keep, in px. All are WebP in sRGB, upright. */
export const PICTURE_SIZES = { small: 360, medium: 720, large: 2048 } as const;
export type PictureSize = keyof typeof PICTURE_SIZES;

export const isPictureSize = (text: string): text is PictureSize => text in PICTURE_SIZES;

/** Keys are hex digits, with an orientation behind a hyphen; anything else is no key. */
const KEY = /^[0-9a-f]{32}(-[1-8])?$/;

/** Folder of everything derived from one picture. */
export function renditionFolder(house: House, key: string): string {
  if (!KEY.test(key)) throw new ArchiveError('not-found', 'There is no picture of this.');
  return join(house.rooms.cache, 'pictures', key.slice(0, 2), key);
}

export const pictureFile = (house: House, key: string, size: PictureSize): string =>
  join(renditionFolder(house, key), `${size}.webp`);

/** The largest picture a reading room shows where it grants no larger one; made when first asked for. */
export const ROOM_EDGE = 1200;
export const roomPictureFile = (house: House, key: string): string =>
  join(renditionFolder(house, key), 'room.webp');

export const tilesFolder = (house: House, key: string): string =>
  join(renditionFolder(house, key), 'tiles');

export const proxyFile = (house: House, key: string, kind: 'footage' | 'sound'): string =>
  join(renditionFolder(house, key), kind === 'footage' ? 'proxy.mp4' : 'proxy.m4a');

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
