import type { Viewer } from '#core/sight/viewer';
import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import { fileFor } from '../sight/files';
import { noteUse } from './cache';
import { TILE_OVERLAP, TILE_SIZE } from './tiles';

export interface TilesState {
  state: 'ready' | 'waiting' | 'failed';
  reason: string | null;
  width: number;
  height: number;
  size: number;
  overlap: number;
}

/** How far the tiles of an item's picture are; the first to ask sets the work going. */
export async function tilesState(
  house: House,
  viewer: Viewer,
  wished: string,
): Promise<TilesState> {
  const file = await fileFor(house.db, viewer, wished, 'play');
  const { itemId } = file;
  const made = await house.db
    .selectFrom('rendition')
    .selectAll()
    .where('pictureKey', '=', file.pictureKey)
    .where('recipe', '=', 'tiles')
    .executeTakeFirst();
  const shape = {
    width: made?.width ?? 0,
    height: made?.height ?? 0,
    size: TILE_SIZE,
    overlap: TILE_OVERLAP,
  };
  if (made) {
    await noteUse(house, file.pictureKey, 'tiles');
    return { state: 'ready', reason: null, ...shape };
  }
  const last = await house.db
    .selectFrom('job')
    .select(['state', 'reason'])
    .where('task', '=', 'tiles')
    .where('itemId', '=', itemId)
    .orderBy('createdAt', 'desc')
    .limit(1)
    .executeTakeFirst();
  if (last?.state === 'failed') return { state: 'failed', reason: last.reason, ...shape };
  if (last?.state !== 'running' && last?.state !== 'waiting')
    await enqueue(house.db, [
      { task: 'tiles', title: `Preparing ${file.name} for a close look`, subject: itemId, itemId },
    ]);
  return { state: 'waiting', reason: null, ...shape };
}
