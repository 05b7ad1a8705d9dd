import type { Kysely } from 'kysely';
import type { SpanEntry } from '#core/entries/span';
import { keyOf, spansFrom, type ToldSpan } from '#core/footage/dynamicMedia';
import { LAST_FRAME, MOST_SPANS } from '#core/footage/span';
import { HOUSE } from '#core/sight/viewer';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { factsOf } from '../files/disk';
import { filesOf } from '../files/located';
import { newId } from '../house/ids';
import type { Task } from '../jobs/attempt';
import { changeLists, type EntryChange } from '../lists/journal';
import { noteMarkers, tracksIn } from '../records/markers';
import { whileUnwritten } from '../records/meet';
import { stepsFor } from '../records/records';
import { clipOf, spansOf, SPAN_LIST } from './spans';

/**
 * Take in what a clip's XMP says of markers since it was last read or written: new ones are kept, those that are gone
 * there and still say here what they said there are let go of; what somebody changed here stays. One that says nothing
 * any more, having said something, was stripped: that is no word about any.
 */
export const takeMarkers: Task = (house, { itemId }) =>
  whileUnwritten(house, itemId!, async () => {
    const { db } = house;
    const files = await filesOf(db, [itemId!]);
    const original = files.find(({ role }) => role === 'original');
    if (!original || !(await factsOf(original.path))?.isFile()) return;
    const sidecar = files.find(({ role }) => role === 'sidecar');
    const beside =
      sidecar && (await factsOf(sidecar.path))?.isFile() ? await tracksIn(sidecar.path) : null;
    const tracks = beside ?? (await tracksIn(original.path)) ?? [];
    const { toldMarkers } = await db
      .selectFrom('file')
      .select('toldMarkers')
      .where('id', '=', original.id)
      .executeTakeFirstOrThrow();
    if (tracks.length === 0 && toldMarkers === null) return;
    await meet(db, itemId!, original.id, { tracks, told: toldMarkers });
  });

async function meet(
  db: Kysely<Database>,
  itemId: string,
  fileId: string,
  { tracks, told }: { tracks: Parameters<typeof spansFrom>[0]; told: string[] | null },
): Promise<void> {
  const clip = await clipOf(db, HOUSE, itemId);
  const { spans } = spansFrom(tracks, clip.rate);
  const known = new Set(told ?? []);
  if (spans.length === 0 && known.size > 0) return;
  const theirs = new Map(spans.map((span) => [keyOf(span), span]));
  await changeLists(db, null, async (transaction) => {
    const ours = new Map(
      (await spansOf(transaction, HOUSE, clip.id)).map((one) => [keyOf(one), one]),
    );
    const end = clip.frames ?? Infinity;
    const fresh = [...theirs]
      .filter(([key, one]) => !known.has(key) && !ours.has(key) && isKept(one, end))
      .map(([, span]) => span)
      .slice(0, MOST_SPANS - ours.size);
    const gone = [...ours].filter(([key]) => known.has(key) && !theirs.has(key));
    const added = fresh.map(({ from, to, isMarker }): EntryChange => {
      // As it is told there, also where it ends after the clip: what says the same is known again.
      const after: SpanEntry = { of: clip.id, from, to, isMarker, mark: '' };
      return { list: SPAN_LIST, id: newId(), before: null, after };
    });
    const dropped = gone.map(([, { id, from, to, isMarker, mark }]): EntryChange => {
      const before: SpanEntry = { of: clip.id, from, to, isMarker, mark };
      return { list: SPAN_LIST, id, before, after: null };
    });
    return {
      summary: summaryOf(clip.number, added.length, dropped.length),
      entries: [...added, ...dropped],
      records: (after) =>
        stepsFor(
          after,
          added.map(({ id }, at) => described(id, fresh[at]!)),
        ),
    };
  });
  // What lies after the end, or is too many, was not taken in: it stays the file's own.
  const agreed = new Set((await spansOf(db, HOUSE, clip.id)).map(keyOf));
  const both = [...theirs.keys()].filter((key) => known.has(key) || agreed.has(key));
  await noteMarkers(db, fileId, both);
}

/** Whether a span begins within its clip, and ends where frames can be counted. */
const isKept = ({ from, to }: ToldSpan, end: number): boolean => from < end && to <= LAST_FRAME;

const described = (id: string, { title, note }: ToldSpan) => ({
  itemIds: [id],
  change: { ...(title && { title }), ...(note && { caption: note }) },
});

const summaryOf = (number: string, added: number, dropped: number): string =>
  `Read from the file of ${number}: ${[
    added > 0 && `${counted(added, 'span')} kept`,
    dropped > 0 && `${counted(dropped, 'span')} let go of`,
  ]
    .filter(Boolean)
    .join(', ')}`;
