/**
 * Where something was taken: decimal degrees, WGS 84, north and east positive. As text `54.3207, 10.1349`, with six
 * decimals at most (about 0.1 m): what a record holds, and what reads the same is the same.
 */
export interface Position {
  latitude: number;
  longitude: number;
}

const DECIMALS = 6;
const rounded = (degrees: number): number => {
  const value = Number(degrees.toFixed(DECIMALS));
  return value === 0 ? 0 : value;
};

/** @returns null beyond the poles or the date line, and for what is no number */
export function positionAt(latitude: number, longitude: number): Position | null {
  const isOnEarth = Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180;
  return isOnEarth ? { latitude: rounded(latitude), longitude: rounded(longitude) } : null;
}

export const formatPosition = ({ latitude, longitude }: Position): string =>
  `${rounded(latitude)}, ${rounded(longitude)}`;

/** The text of a row's two columns; empty where one is missing. */
export const positionText = (latitude: number | null, longitude: number | null): string =>
  latitude === null || longitude === null ? '' : formatPosition({ latitude, longitude });

const NUMBER = String.raw`\d{1,3}(?:\.\d{1,15})?`;
/** One coordinate: degrees, or degrees, minutes and seconds, with a sign or a letter before or after. */
const COORDINATE = String.raw`([NSEW])?\s*([+-])?(${NUMBER})\s*(?:°|º|d|deg)?\s*(?:(${NUMBER})\s*(?:['′’m])\s*)?(?:(${NUMBER})\s*(?:"|″|”|''|s)\s*)?([NSEW])?`;
const PAIR = new RegExp(String.raw`^${COORDINATE}\s*[,;/\s]\s*${COORDINATE}$`, 'i');
/** Degrees and minutes without marks, as receivers show them: `N 54 19.242 E 010 08.094`. */
const BARE = new RegExp(
  String.raw`^([NS])\s*(\d{1,2})\s+(${NUMBER})(?:\s+(${NUMBER}))?\s*[,;]?\s*([EW])\s*(\d{1,3})\s+(${NUMBER})(?:\s+(${NUMBER}))?$`,
  'i',
);
/** RFC 5870: `geo:54.3207,10.1349;u=35`; a third number is the height. */
const GEO = new RegExp(
  String.raw`^geo:(-?${NUMBER}),(-?${NUMBER})(?:,-?[\d.]{1,20})?(?:;[^\s]*)?$`,
  'i',
);

interface Part {
  value: number;
  axis: 'latitude' | 'longitude' | null;
}

function degreesOf(
  letters: (string | undefined)[],
  sign: string | undefined,
  [degrees, minutes = '0', seconds = '0']: (string | undefined)[],
): Part | null {
  const letter = letters.filter(Boolean).map((one) => one!.toUpperCase());
  if (letter.length > 1 || (letter.length === 1 && sign !== undefined)) return null;
  if (Number(minutes) >= 60 || Number(seconds) >= 60) return null;
  const size = Number(degrees) + Number(minutes) / 60 + Number(seconds) / 3600;
  const isBelow = sign === '-' || letter[0] === 'S' || letter[0] === 'W';
  const axis = letter[0] === undefined ? null : 'NS'.includes(letter[0]) ? 'latitude' : 'longitude';
  return { value: isBelow ? -size : size, axis };
}

/** What two coordinates say; without letters latitude comes first. */
function pairOf(first: Part | null, second: Part | null): Position | null {
  if (!first || !second) return null;
  if (first.axis !== null && first.axis === second.axis) return null;
  const isTurned = first.axis === 'longitude' || second.axis === 'latitude';
  const [north, east] = isTurned ? [second, first] : [first, second];
  return positionAt(north.value, east.value);
}

const LONGEST = 120;

/**
 * A position as people paste it: decimal degrees (`54.3207, 10.1349`), degrees with minutes and seconds
 * (`54° 19′ 14.5″ N, 10° 8′ 5.6″ E`, `N 54 19.242 E 010 08.094`), or a `geo:` address.
 * @returns null where the text is none
 */
export function parsePosition(typed: string): Position | null {
  const text = typed.trim().replaceAll('−', '-');
  if (text.length > LONGEST) return null;
  const geo = GEO.exec(text);
  if (geo) return positionAt(Number(geo[1]), Number(geo[2]));
  const bare = BARE.exec(text);
  if (bare) {
    const [, north, d, m, s, east, dd, mm, ss] = bare;
    return pairOf(
      degreesOf([north], undefined, [d, m, s]),
      degreesOf([east], undefined, [dd, mm, ss]),
    );
  }
  const pair = PAIR.exec(text);
  if (!pair) return null;
  const [, a, sign, d, m, s, b, c, sign2, dd, mm, ss, e] = pair;
  return pairOf(degreesOf([a, b], sign, [d, m, s]), degreesOf([c, e], sign2, [dd, mm, ss]));
}

/** Radius of a ball of the Earth's volume, km. */
export const EARTH_KM = 6371.0088;
const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** Kilometres between two positions in degrees (haversine). */
export function kilometres(lat: number, lon: number, otherLat: number, otherLon: number): number {
  const half =
    Math.sin(radians(otherLat - lat) / 2) ** 2 +
    Math.cos(radians(lat)) *
      Math.cos(radians(otherLat)) *
      Math.sin(radians(otherLon - lon) / 2) ** 2;
  return 2 * EARTH_KM * Math.asin(Math.min(1, Math.sqrt(half)));
}
