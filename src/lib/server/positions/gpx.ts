import { XMLParser } from 'fast-xml-parser';
import { ArchiveError } from '#core/errors';
import { positionAt } from '#core/geo/position';
import type { TrackPoint } from '#core/positions/track';

/** Tracks of receivers, as GPX 1.0 and 1.1 hold them. Read apart: what others made is not parsed where pages are answered. */
const MOST_POINTS = 200_000;
const MOST_STRETCHES = 10_000;

const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  parseTagValue: false,
  parseAttributeValue: false,
  removeNSPrefix: true,
  processEntities: false,
  isArray: (name) => name === 'trk' || name === 'trkseg' || name === 'trkpt',
});

interface Gpx {
  gpx?: {
    trk?: {
      name?: unknown;
      trkseg?: ({ trkpt?: { '@lat'?: string; '@lon'?: string; time?: unknown }[] } | string)[];
    }[];
  };
}

export interface ReadTrack {
  /** What the file calls it; empty where it does not. */
  name: string;
  stretches: TrackPoint[][];
  /** Points that tell no time or lie nowhere. */
  left: number;
}

/** XML Schema dateTime in UTC, with fractions; ms, or null. */
function momentOf(text: unknown): number | null {
  const found = /^\s*(\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d{1,9})?)\s*(Z|[+-]\d\d:\d\d)?\s*$/.exec(
    String(text ?? ''),
  );
  const at = found ? Date.parse(found[1]!.replace(/(\.\d{3})\d+$/, '$1') + (found[2] ?? 'Z')) : NaN;
  return Number.isNaN(at) ? null : at;
}

/** @throws ArchiveError file-unreadable */
export function readGpx({ text }: { text: string }): Promise<ReadTrack> {
  const unreadable = (why: string): ArchiveError => new ArchiveError('file-unreadable', why);
  if (/<!DOCTYPE|<!ENTITY/i.test(text))
    throw unreadable('A track has no document type; it was not read.');
  let read: Gpx;
  try {
    read = parser.parse(text) as Gpx;
  } catch (error) {
    throw new ArchiveError('file-unreadable', 'It is no GPX file.', {}, { cause: error });
  }
  if (typeof read.gpx !== 'object') throw unreadable('It is no GPX file.');
  let [left, points] = [0, 0];
  const stretches: TrackPoint[][] = [];
  for (const { trkseg = [] } of read.gpx.trk ?? [])
    for (const segment of trkseg) {
      const stretch: TrackPoint[] = [];
      for (const point of typeof segment === 'string' ? [] : (segment.trkpt ?? [])) {
        const at = momentOf(point.time);
        const position = positionAt(Number(point['@lat'] ?? NaN), Number(point['@lon'] ?? NaN));
        if (at === null || !position) left += 1;
        else stretch.push({ at, ...position });
      }
      points += stretch.length;
      if (points > MOST_POINTS || stretches.length > MOST_STRETCHES)
        throw unreadable(
          `It has more than ${MOST_POINTS.toLocaleString('en')} points; send it in parts.`,
        );
      if (stretch.length > 0) stretches.push(stretch.sort((a, b) => a.at - b.at));
    }
  if (points === 0) throw unreadable('It holds no track whose points tell their times.');
  const name = read.gpx.trk?.find(({ name: own }) => typeof own === 'string')?.name;
  stretches.sort((a, b) => a[0]!.at - b[0]!.at);
  return Promise.resolve({
    name: typeof name === 'string' ? name.slice(0, 200) : '',
    stretches,
    left,
  });
}
