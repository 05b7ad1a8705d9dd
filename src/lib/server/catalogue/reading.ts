import type { Box, Cluster } from '#core/atlas/clusters';
import type { Density, Unit } from '#core/timeline/bins';
import type { Choices, FolderNode, Tile, Wall } from '#core/catalogue/tile';
import type { Result } from '#core/wire/result';
import { shelfOf, type Shelf } from '#core/holdings/shelf';
import { sightOfQuery, type Viewer } from '#core/sight/viewer';
import { conditionsOf, EVERYTHING, idOfRef, type Query } from '#core/query/tree';
import type { House } from '../house/house';
import type { AnswerTo, Ask } from '../index/answer';
import { askIndex } from '../index/client';
import { resolve } from '../query/names';
import { asSeen, type SeenIds } from '../sight/seen';
import { withPlaces } from '../gazetteer/clusters';
import { densityIn, positionsIn } from './spread';
import { choicesOf, countedField, holdings, termSums } from './facets';
import {
  countOf,
  findIds,
  findTiles,
  MOST_IDS,
  neighboursOf,
  stretchOf,
  tilesOf,
  tooMany,
  wallOf,
  type Neighbours,
} from './find';
import { rowsFound, rowsOf, type FoundRow } from './rows';

/**
 * What pages read of the catalogue: the index answers where there is one that is up to date, else the database, which
 * stays the truth.
 */
type Read = [house: House, viewer: Viewer, query: Query];

async function indexed<A extends Ask>(
  house: House,
  viewer: Viewer,
  ask: A,
): Promise<AnswerTo<A> | null> {
  if (!house.settings.index) return null;
  const { query } = await resolve(house.db, ask.query);
  return askIndex<A>(house, { ...ask, query }, sightOfQuery(viewer, query));
}

export async function wall(...[house, viewer, query]: Read): Promise<Wall> {
  const answer = await indexed(house, viewer, { ask: 'wall', query });
  if (answer) return answer;
  const found = await wallOf(house.db, viewer, query);
  return house.settings.index ? { ...found, catchingUp: true } : found;
}

export const total = async (...[house, viewer, query]: Read): Promise<number> =>
  (await indexed(house, viewer, { ask: 'total', query })) ?? countOf(house.db, viewer, query);

export const stretch = async (
  ...[house, viewer, query, from, count]: [...Read, from: number, count: number]
): Promise<number[]> =>
  (await indexed(house, viewer, { ask: 'stretch', query, from, count })) ??
  stretchOf(house.db, viewer, query, from, count);

export async function tiles(
  ...[house, viewer, query, offset, limit]: [...Read, offset: number, limit: number]
): Promise<Tile[]> {
  const ids = await indexed(house, viewer, { ask: 'ids', query, from: offset, to: offset + limit });
  return ids ? tilesOf(house.db, viewer, ids) : findTiles(house.db, viewer, query, offset, limit);
}

/** Everything a window shows of a result: what is found, where it lies, and a stretch of its tiles. */
export async function result(
  ...[house, viewer, query, from, to]: [...Read, from: number, to: number]
): Promise<Result> {
  const folder = [...conditionsOf(query.where)].find(
    ({ field, not }) => field === 'folder' && !not,
  );
  const [found, line, stretched] = await Promise.all([
    wall(house, viewer, query),
    shelf(house, viewer, EVERYTHING, idOfRef(folder?.values[0])),
    tiles(house, viewer, query, from, to - from),
  ]);
  return { wall: found, shelf: line, from, tiles: stretched };
}

/** Some fields of a stretch of a result, for a table. */
export async function cells(
  ...[house, viewer, query, keys, offset, limit]: [
    ...Read,
    keys: readonly string[],
    offset: number,
    limit: number,
  ]
): Promise<FoundRow[]> {
  const ids = await indexed(house, viewer, { ask: 'ids', query, from: offset, to: offset + limit });
  return ids
    ? rowsOf(house.db, viewer, ids, keys)
    : rowsFound(house.db, viewer, query, keys, { offset, limit });
}

/** The nearest names to what is typed, counted; null where the database is to be asked. */
export const nearestNames = (
  house: House,
  viewer: Viewer,
  typed: string,
): Promise<AnswerTo<{ ask: 'closest'; query: Query; typed: string }> | null> =>
  indexed(house, viewer, { ask: 'closest', query: EVERYTHING, typed });

export async function choices(
  ...[house, viewer, query, wish]: [...Read, wish: { field: string; at: number; typed: string }]
): Promise<Choices> {
  countedField(wish.field);
  return (
    (await indexed(house, viewer, { ask: 'choices', query, ...wish })) ??
    choicesOf(house.db, viewer, query, wish)
  );
}

/** How many items have some terms, or narrower ones; by id. */
export const sums = async (
  house: House,
  viewer: Viewer,
  field: 'terms',
  values: string[],
): Promise<Record<string, number>> =>
  (await indexed(house, viewer, { ask: 'sums', query: EVERYTHING, field, values })) ??
  termSums(house.db, viewer, values);

export const neighbours = async (
  ...[house, viewer, query, id]: [...Read, id: string]
): Promise<Neighbours | null> =>
  (await indexed(house, viewer, { ask: 'neighbours', query, id })) ??
  neighboursOf(house.db, viewer, query, id);

export const folderTree = async (...[house, viewer, query]: Read): Promise<FolderNode[]> =>
  (await indexed(house, viewer, { ask: 'folders', query })) ?? holdings(house.db, viewer, query);

/** The way down to a folder and what lies below it, with counts of what a query finds. */
export const shelf = async (
  ...[house, viewer, query, folder]: [...Read, folder: string | null]
): Promise<Shelf> =>
  (await indexed(house, viewer, { ask: 'shelf', query, folder })) ??
  shelfOf(await holdings(house.db, viewer, query), folder);

/** How densely the times of a field lie. */
export const density = async (
  ...[house, viewer, query, field, unit]: [...Read, field: string, unit: Unit]
): Promise<Density> =>
  (await indexed(house, viewer, { ask: 'density', query, field, unit })) ??
  densityIn(house.db, viewer, query, field, unit);

/** Positions in a box, gathered for a map of some scale; with the names of near places where wished. */
export async function positions(
  ...[house, viewer, query, box, cell, named]: [...Read, box: Box, cell: number, named: boolean]
): Promise<{ clusters: Cluster[]; lacking: number }> {
  const found =
    (await indexed(house, viewer, { ask: 'positions', query, box, cell })) ??
    (await positionsIn(house.db, viewer, query, box, cell));
  return named ? { ...found, clusters: await withPlaces(found.clusters, cell) } : found;
}

/** Ids from one place of a result to another. @throws ArchiveError value-refused where there are too many */
export async function idsBetween(
  ...[house, viewer, query, from, to]: [...Read, from: number, to?: number]
): Promise<SeenIds> {
  const until = to ?? from + MOST_IDS + 1;
  const ids =
    (await indexed(house, viewer, { ask: 'ids', query, from, to: until })) ??
    (await findIds(house.db, viewer, query)).slice(from, until);
  if (ids.length > MOST_IDS) throw tooMany();
  return asSeen(ids);
}
