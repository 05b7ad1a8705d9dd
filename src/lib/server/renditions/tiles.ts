import { mkdtemp, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { apart } from '../apart/apart';
import { walk } from '../files/disk';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import type { JobRow } from '../jobs/attempt';
import { notifyItems } from '../live/notify';
import { pictureSourceOf } from './pictures';
import { withPrepared } from './prepared';
import type { renderTiles } from './render';
import { rendered } from './turns';
import { makeRenditionFolder, noteRenditions, tilesFolder } from './store';

/** px; as ./render makes them, which is loaded apart only. */
export const TILE_SIZE = 512;
export const TILE_OVERLAP = 1;

const TILES = apart<typeof renderTiles>('renditions/render', 'renderTiles', 'pictures');
const TILES_SECONDS = 120;

/** Job: a pyramid of tiles (Deep Zoom layout) for looking closely at a big picture. */
export async function makeTiles(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  const folder = await mkdtemp(join(house.folders.work, 'tiles-'));
  try {
    const wish = { target: join(folder, 'tiles.dz'), size: TILE_SIZE, overlap: TILE_OVERLAP };
    const info = await withPrepared(pictureSourceOf(house, file), (from) =>
      rendered(TILES, { ...from, ...wish }, TILES_SECONDS),
    );
    await makeRenditionFolder(house, file.pictureKey);
    const target = tilesFolder(house, file.pictureKey);
    await rm(target, { recursive: true, force: true });
    const made = join(folder, 'tiles_files');
    const bytes = (await walk(made)).reduce((sum, { size }) => sum + size, 0);
    await rename(made, target);
    await noteRenditions(house, file.pictureKey, [
      { recipe: 'tiles', width: info.width, height: info.height, bytes },
    ]);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
  await notifyItems(house.db, [file.itemId], ['picture']);
}
