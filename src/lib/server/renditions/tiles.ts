import { mkdtemp, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import type { JobRow } from '../jobs/attempt';
import { notify } from '../live/notify';
import { pictureSourceOf } from './pictures';
import { withPicture } from './source';
import { inTurn } from './turns';
import { makeRenditionFolder, noteRenditions, tilesFolder } from './store';

export const TILE_SIZE = 512;
export const TILE_OVERLAP = 1;

/** Job: a pyramid of tiles (Deep Zoom layout) for looking closely at a big picture. */
export async function makeTiles(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  const folder = await mkdtemp(join(house.rooms.work, 'tiles-'));
  try {
    const info = await withPicture(pictureSourceOf(house, file), (image) => {
      const pyramid = image
        .toColourspace('srgb')
        .flatten({ background: '#e3e2de' })
        .jpeg({ quality: 86 })
        .tile({ size: TILE_SIZE, overlap: TILE_OVERLAP, layout: 'dz' });
      return inTurn(image, () => pyramid.toFile(join(folder, 'tiles.dz')));
    });
    await makeRenditionFolder(house, file.pictureKey);
    const target = tilesFolder(house, file.pictureKey);
    await rm(target, { recursive: true, force: true });
    await rename(join(folder, 'tiles_files'), target);
    await noteRenditions(house, file.pictureKey, [
      { recipe: 'tiles', width: info.width, height: info.height },
    ]);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
  await notify(house.db, { about: 'items', ids: [file.itemId] });
}
