import type { GeoProjection } from 'd3';
import type { SpotEntry } from '#core/lists/entries';
import { EARTH_KM } from '#core/geo/position';

/** A kept place as it lies on the map, px. */
export interface Ring {
  name: string;
  x: number;
  y: number;
  r: number;
}

/** A radius over the ground, px. */
export function pixelsOf(
  projection: GeoProjection,
  latitude: number,
  longitude: number,
  km: number,
): number {
  const [, y] = projection([longitude, latitude])!;
  const north = Math.min(85, latitude + (km / EARTH_KM) * (180 / Math.PI));
  return Math.abs(projection([longitude, north])![1] - y);
}

const SMALLEST = 5;

/** Kept places that are seen: neither beyond the edges nor so near that they are all there is. */
export const ringsOf = (
  spots: readonly SpotEntry[],
  projection: GeoProjection,
  width: number,
  height: number,
): Ring[] =>
  spots.flatMap(({ name, latitude, longitude, radius }) => {
    const [x, y] = projection([longitude, latitude])!;
    const r = Math.max(SMALLEST, pixelsOf(projection, latitude, longitude, radius / 1000));
    const isSeen = x > -r && x < width + r && y > -r && y < height + r && r < width;
    return isSeen ? [{ name, x, y, r }] : [];
  });
