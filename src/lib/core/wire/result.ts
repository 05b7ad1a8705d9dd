import type { Shelf } from '../holdings/shelf';
import type { Tile, Wall } from '../catalogue/tile';

/** What a window shows of what it asked for. */
export interface Result {
  wall: Wall;
  /** All holdings, and the way to the folder that is asked for. */
  shelf: Shelf;
  /** Index of the first of the tiles. */
  from: number;
  tiles: Tile[];
}

/** Fields of the registry a tile shows something of. */
export const TILE_FIELDS: ReadonlySet<string> = new Set([
  ...['name', 'title', 'rating', 'stage', 'taken', 'creator', 'creditLine', 'camera', 'folder'],
  ...['picture', 'burst', 'lead', 'file', 'kind', 'format'],
]);

/** Whether tiles of items of which these fields changed say something else. */
export const isOnTiles = (fields: readonly string[]): boolean =>
  fields.length === 0 || fields.some((key) => TILE_FIELDS.has(key));
