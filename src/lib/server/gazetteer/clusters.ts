import type { Cluster } from '#core/atlas/clusters';
import { apart, runApart } from '../apart/apart';
import type { placesNear } from './nearest';

/** Marks that get a name; smaller ones have none. */
const MOST_NAMED = 120;
const SECONDS = 10;
const NEAREST = apart<typeof placesNear>('gazetteer/nearest', 'placesNear');

/** Name clusters by the nearest place of the gazetteer, which is held by a process of its own while it is needed. */
export async function withPlaces(clusters: Cluster[], cell: number): Promise<Cluster[]> {
  const some = clusters.slice(0, MOST_NAMED);
  if (some.length === 0) return clusters;
  try {
    const names = await runApart(
      NEAREST,
      {
        points: some.map(({ latitude, longitude }) => [latitude, longitude] as [number, number]),
        cell,
      },
      SECONDS,
    );
    return clusters.map((cluster, at) => (names[at] ? { ...cluster, place: names[at] } : cluster));
  } catch {
    // A map without names is a map.
    return clusters;
  }
}
