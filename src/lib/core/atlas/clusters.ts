/** Positions near each other on a map of some scale, as one mark. */
export interface Cluster {
  /** Middle of what is in it, degrees. */
  latitude: number;
  longitude: number;
  count: number;
  /** What a box must hold to hold all of it. */
  south: number;
  west: number;
  north: number;
  east: number;
  /** Catalogue's small integer of the one item, where it is one. */
  only: number | null;
  /** Name of the nearest place that people know. */
  place?: string;
}

export interface Box {
  south: number;
  west: number;
  north: number;
  east: number;
}

/** More marks than a map shows at once. */
export const MOST_CLUSTERS = 1500;

export const isInside = (
  { south, west, north, east }: Box,
  latitude: number,
  longitude: number,
): boolean =>
  latitude >= south &&
  latitude <= north &&
  (west <= east ? longitude >= west && longitude <= east : longitude >= west || longitude <= east);

/** Degrees of latitude that are as long on the map of Mercator as one of longitude, about. */
const stretchAt = (latitude: number): number =>
  Math.max(0.05, Math.cos((latitude * Math.PI) / 180));

/** One mark for two; it stays where the first stands. */
function absorb(into: Cluster, other: Cluster): void {
  into.count += other.count;
  into.south = Math.min(into.south, other.south);
  into.north = Math.max(into.north, other.north);
  into.west = Math.min(into.west, other.west);
  into.east = Math.max(into.east, other.east);
  into.only = null;
}

/** Marks nearer to each other than some degrees become one, the fullest first. */
function apart(clusters: Cluster[], near: number): Cluster[] {
  const kept = new Map<string, Cluster[]>();
  const column = (longitude: number): number => Math.floor(longitude / near);
  // Rows of a grid as high as the lowest of its cells: what is near lies in the next row at most.
  const line = (latitude: number): number => Math.floor(latitude / near);
  const found: Cluster[] = [];
  for (const one of [...clusters].sort((a, b) => b.count - a.count)) {
    const { latitude, longitude } = one;
    const isNear = (other: Cluster): boolean =>
      Math.hypot(other.longitude - longitude, (other.latitude - latitude) / stretchAt(latitude)) <
      near;
    let into: Cluster | undefined;
    for (let x = -1; x <= 1 && !into; x += 1)
      for (let y = -1; y <= 1 && !into; y += 1)
        into = kept.get(`${column(longitude) + x} ${line(latitude) + y}`)?.find(isNear);
    if (into) {
      absorb(into, one);
      continue;
    }
    const key = `${column(longitude)} ${line(latitude)}`;
    kept.set(key, [...(kept.get(key) ?? []), one]);
    found.push(one);
  }
  return found;
}

/** Marks stand apart by more than the width of one: part of a cell. */
const APART = 1.15;

/**
 * Gather positions, first by cells of a grid, then what would overlap on the map.
 * @param cell degrees of longitude of a cell
 */
export function gather(cell: number): {
  add: (latitude: number, longitude: number, row: number) => void;
  clusters: () => Cluster[];
} {
  const cells = new Map<string, Cluster>();
  return {
    add(latitude, longitude, row) {
      const key = `${Math.floor(longitude / cell)} ${Math.floor(latitude / (cell * stretchAt(latitude)))}`;
      const known = cells.get(key);
      if (!known) {
        const here = { south: latitude, north: latitude, west: longitude, east: longitude };
        cells.set(key, { latitude, longitude, count: 1, ...here, only: row });
        return;
      }
      const { count } = known;
      known.latitude = (known.latitude * count + latitude) / (count + 1);
      known.longitude = (known.longitude * count + longitude) / (count + 1);
      known.count = count + 1;
      known.south = Math.min(known.south, latitude);
      known.north = Math.max(known.north, latitude);
      known.west = Math.min(known.west, longitude);
      known.east = Math.max(known.east, longitude);
      known.only = null;
    },
    clusters() {
      let near = cell * APART;
      let found = apart([...cells.values()], near);
      // Nothing is left out: where there are too many, fewer stand for more.
      while (found.length > MOST_CLUSTERS) found = apart(found, (near *= 2));
      return found;
    },
  };
}
