import { z } from 'zod';
import type { RecordChange, RecordValues } from '../records/fields';
import { precisionOf, type Taken } from '../records/taken';
import { ArchiveError } from '../errors';
import { formatPosition, kilometres, parsePosition, type Position } from '../geo/position';
import { onTrack, type Track } from './track';

/** Setting where many items were taken at once: what is not known of them is not made up. */
const DAY_SECONDS = 86_400;
const seconds = (least: number) => z.number().int().min(least).max(DAY_SECONDS);
export const positionWishSchema = z.discriminatedUnion('act', [
  // All of them to one place; empty forgets it.
  z.object({ act: z.literal('set'), text: z.string().max(200) }),
  // Where a track was when they were taken.
  z.object({
    act: z.literal('track'),
    track: z.uuid(),
    /** What has to be added to their clocks, s. */
    clock: z
      .number()
      .int()
      .min(-31 * DAY_SECONDS)
      .max(31 * DAY_SECONDS),
    /** Minutes east of UTC of the clocks that do not say. */
    offset: z
      .number()
      .int()
      .min(-14 * 60)
      .max(14 * 60),
    gap: seconds(1),
    beyond: seconds(0),
    /** Those that have a position get another. */
    over: z.boolean(),
  }),
  // What was taken nearest in time and has a position gives it.
  z.object({
    act: z.literal('neighbours'),
    minutes: z
      .number()
      .int()
      .min(1)
      .max(7 * 24 * 60),
  }),
  // They stay where they are; only names are looked up.
  z.object({ act: z.literal('stay') }),
]);
export type PositionWish = z.infer<typeof positionWishSchema>;

export const SIDES = ['created', 'shown'] as const;
/** Names of where it is into the location fields: of where it was made, of what it shows, or both. */
export const namingSchema = z.object({
  into: z.array(z.enum(SIDES)).max(2),
  over: z.boolean(),
});
export type Naming = z.infer<typeof namingSchema>;
export const NO_NAMES: Naming = { into: [], over: false };

/** Fields of a location, from the finest. */
export const LOCATION = {
  created: ['createdSublocation', 'createdCity', 'createdState', 'createdCountry'],
  shown: ['sublocation', 'city', 'state', 'country'],
} as const;
/** What a position is called; empty where nobody knows. */
export interface Named {
  sublocation: string;
  city: string;
  state: string;
  country: string;
}
const PARTS = ['sublocation', 'city', 'state', 'country'] as const;

/** A place of one's own: within its radius its names hold. */
export interface Spot extends Position, Named {
  name: string;
  /** m */
  radius: number;
}

/** The spot a position lies in, the narrowest of several. */
export const spotAt = <S extends Spot>(spots: readonly S[], at: Position): S | undefined =>
  spots
    .filter(
      (spot) =>
        kilometres(spot.latitude, spot.longitude, at.latitude, at.longitude) * 1000 <= spot.radius,
    )
    .sort((a, b) => a.radius - b.radius)[0];

/** Names of a position: those of the spot it lies in first, for the rest what the gazetteer says. */
export function namesAt(spots: readonly Spot[], at: Position, known: Named | null): Named {
  const spot = spotAt(spots, at);
  const blank: Named = { sublocation: '', city: '', state: '', country: '' };
  if (!spot) return known ?? blank;
  return {
    sublocation: spot.sublocation || spot.name,
    city: spot.city || (known?.city ?? ''),
    state: spot.state || (known?.state ?? ''),
    country: spot.country || (known?.country ?? ''),
  };
}

export interface Placed {
  id: string;
  name: string;
  values: RecordValues;
  /** Where its nearest neighbour in time was taken; null where there is none near enough. */
  neighbour: { position: string; number: string } | null;
}

export interface PositionLine {
  id: string;
  name: string;
  before: string;
  after: string;
  /** Names that are written, `Sublocation created: The workshop`. */
  names: string;
  /** Why it stays where it is. */
  problem: string | null;
}

/** The moment of a date, ms UTC; null where it is not known to the second. */
export function momentOf(taken: Taken | null, usualOffset: number): number | null {
  if (!taken || precisionOf(taken) !== 'moment') return null;
  return Date.parse(`${taken.from}Z`) - (taken.offset ?? usualOffset) * 60_000;
}

type Answer = { after: string; problem: string | null };
const stays = (before: string, problem: string | null): Answer => ({ after: before, problem });

function answerer(wish: PositionWish, track: Track): (one: Placed) => Answer {
  switch (wish.act) {
    case 'set': {
      const found = parsePosition(wish.text);
      if (!found && wish.text.trim() !== '')
        throw new ArchiveError(
          'value-refused',
          `“${wish.text}” is no position; write 54.3207, 10.1349 or 54° 19′ 14″ N, 10° 8′ 6″ E.`,
        );
      const after = found ? formatPosition(found) : '';
      return () => ({ after, problem: null });
    }
    case 'track':
      return ({ values }) => {
        if (values.position !== '' && !wish.over) return stays(values.position, null);
        const at = momentOf(values.taken, wish.offset);
        if (at === null) return stays(values.position, 'its time of day is not known');
        const { position, why } = onTrack(track, at + wish.clock * 1000, wish);
        return position
          ? { after: formatPosition(position), problem: null }
          : stays(values.position, why);
      };
    case 'neighbours':
      return ({ values, neighbour }) => {
        if (values.position !== '') return stays(values.position, null);
        if (!values.taken || precisionOf(values.taken) !== 'moment')
          return stays('', 'its time of day is not known');
        return neighbour
          ? { after: neighbour.position, problem: null }
          : stays('', 'nothing with a position was taken near it');
      };
    case 'stay':
      return ({ values }) =>
        stays(values.position, values.position === '' ? 'it has no position' : null);
  }
}

/** Where each of them would be, in the order given. @throws ArchiveError value-refused where the wish makes no sense */
export function positionsBy(
  wish: PositionWish,
  items: readonly Placed[],
  track: Track,
): { id: string; after: string; problem: string | null }[] {
  const answer = answerer(wish, track);
  return items.map((one) => ({ id: one.id, ...answer(one) }));
}

/** The change that gives an item its position and its names. */
export function changeFor(
  values: RecordValues,
  after: string,
  names: Named | null,
  { into, over }: Naming,
): RecordChange {
  const change: RecordChange = after === values.position ? {} : { position: after };
  if (!names) return change;
  for (const side of into)
    PARTS.forEach((part, at) => {
      const key = LOCATION[side][at]!;
      const text = names[part];
      if (text !== '' && text !== values[key] && (over || values[key] === '')) change[key] = text;
    });
  return change;
}
