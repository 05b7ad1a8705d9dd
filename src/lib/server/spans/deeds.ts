import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpanEntry } from '#core/entries/span';
import { atOther, before, type Moment } from '#core/footage/moments';
import { LAST_FRAME, moved } from '#core/footage/span';
import type { RecordChange, RecordValues } from '#core/records/fields';
import { VALUES } from '#core/records/schemas';
import { countedUp } from '#core/text/numbered';
import { counted } from '#core/text/quantities';
import type { Viewer } from '#core/sight/viewer';
import type { SpansDeed, SpansDone } from '#core/wire/spans';
import type { Database } from '../db/schema';
import { wholly } from '../db/wholly';
import { newId } from '../house/ids';
import { changeLists, type EntryChange } from '../lists/journal';
import { notifyItems } from '../live/notify';
import { changeEach, enqueueWrites, readRecords, stepsFor } from '../records/records';
import { lockRecords } from '../records/store';
import { seenIds } from '../sight/seen';
import { momentOf } from './beside';
import {
  clipOf,
  heldOf,
  refuseTooMany,
  SPAN_LIST as LIST,
  wordsOf,
  type By,
  type Clip,
} from './spans';

type Db = Kysely<Database> | Transaction<Database>;

/** What is known of a deed once it is done. */
const doneWith = (
  done: { operationId: string } | null,
  ids: readonly string[],
  count: number,
): SpansDone => ({ ids: [...ids], count, operation: done?.operationId ?? null });

/** Let spans go; undone they come back with all they had. */
export async function dropSpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
): Promise<SpansDone> {
  let dropped = 0;
  const done = await changeLists(db, by.id, async (transaction) => {
    const held = await heldOf(transaction, by.viewer, ids);
    dropped = held.size;
    return {
      summary: `Let go of ${wordsOf([...held.values()])}`,
      entries: [...held].map(([id, before]) => ({ list: LIST, id, before, after: null })),
    };
  });
  return doneWith(done, [], dropped);
}

/** Give clips or spans a scene, shot or take, counted up from the first. @throws ArchiveError value-refused */
async function countUp(
  db: Kysely<Database>,
  { id, viewer }: By,
  { ids, field, from }: Extract<SpansDeed, { does: 'count' }>,
): Promise<SpansDone> {
  const seen = await seenIds(db, viewer, ids);
  const groups = seen.map((itemId, at) => {
    const value = VALUES[field].safeParse(countedUp(from, at));
    if (!value.success) throw new ArchiveError('value-refused', value.error.issues[0]!.message);
    return { itemIds: [itemId], change: { [field]: value.data } };
  });
  const done = await changeEach(db, id, groups);
  return doneWith(done, seen, seen.length);
}

/** Give spans a mark, or none. */
export async function markSpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
  mark: SpanEntry['mark'],
): Promise<SpansDone> {
  let held = new Map<string, SpanEntry>();
  const done = await changeLists(db, by.id, async (transaction) => {
    held = await heldOf(transaction, by.viewer, ids);
    const summary = `${mark ? 'Marked' : 'Took the mark off'} ${wordsOf([...held.values()])}`;
    const entries = [...held].map(([id, before]) => ({
      ...{ list: LIST, id, before },
      after: { ...before, mark },
    }));
    return { summary, entries };
  });
  return doneWith(done, [...held.keys()], held.size);
}

/** What a span hands on to another: all that is described, but when and where, which its clip tells. */
function handedOn(values: RecordValues): RecordChange {
  return Object.fromEntries(
    Object.entries(values).filter(([key]) => key !== 'taken' && key !== 'position'),
  );
}

/** Make one of several spans of a clip: from where the first begins to where the last ends, described as the first. @throws ArchiveError value-refused */
export async function joinSpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
): Promise<SpansDone> {
  let kept: string[] = [];
  const done = await changeLists(db, by.id, async (transaction) => {
    const held = [...(await heldOf(transaction, by.viewer, ids))];
    const order = held.sort(([, a], [, b]) => a.from - b.from || a.to - b.to);
    const [[id, first], ...rest] = order as [[string, SpanEntry], ...[string, SpanEntry][]];
    if (rest.length === 0 || order.some(([, one]) => one.isMarker || one.of !== first.of))
      throw new ArchiveError('value-refused', 'Two or more spans of one clip can be joined.');
    const to = Math.max(...order.map(([, one]) => one.to));
    kept = [id];
    const records = await readRecords(
      transaction,
      order.map(([own]) => own),
    );
    const terms = records.flatMap(({ values }) => values.terms);
    return {
      summary: `Joined ${counted(order.length, 'span')}`,
      entries: [
        { list: LIST, id, before: first, after: { ...first, to } },
        ...rest.map(([own, before]) => ({ list: LIST, id: own, before, after: null })),
      ],
      records: (after) => stepsFor(after, [{ itemIds: [id], change: { addTerms: terms } }]),
    };
  });
  return doneWith(done, kept, ids.length);
}

/** Make two of a span; the second begins at a frame. @throws ArchiveError value-refused where the frame is none within */
export async function splitSpan(
  db: Kysely<Database>,
  by: By,
  id: string,
  at: number,
): Promise<SpansDone> {
  const other = newId();
  const done = await changeLists(db, by.id, async (transaction) => {
    const before = (await heldOf(transaction, by.viewer, [id])).get(id)!;
    if (before.isMarker || at <= before.from || at >= before.to)
      throw new ArchiveError('value-refused', 'A span is split at a frame within it.');
    await refuseTooMany(transaction, await clipOf(transaction, by.viewer, before.of), 1);
    const [record] = await readRecords(transaction, [id]);
    const change = handedOn(record!.values);
    return {
      summary: 'Split a span',
      entries: [
        { list: LIST, id, before, after: { ...before, to: at } },
        { list: LIST, id: other, before: null, after: { ...before, from: at } },
      ],
      records: (after) => stepsFor(after, [{ itemIds: [other], change }]),
    };
  });
  return doneWith(done, [id, other], 1);
}

/** Move spans by some frames: a timecode that was wrong. What would leave the clip stays within. */
export async function offsetSpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
  frames: number,
): Promise<SpansDone> {
  let held = new Map<string, SpanEntry>();
  const done = await changeLists(db, by.id, async (transaction) => {
    held = await heldOf(transaction, by.viewer, ids);
    const counts = new Map<string, number>();
    for (const of of new Set([...held.values()].map((one) => one.of)))
      counts.set(of, (await clipOf(transaction, by.viewer, of)).frames ?? LAST_FRAME);
    const entries = [...held].map(([id, before]): EntryChange => {
      const after = { ...before, ...moved(before, frames, counts.get(before.of)) };
      return { list: LIST, id, before, after };
    });
    return { summary: `Moved ${wordsOf([...held.values()])} by ${frames} frames`, entries };
  });
  return doneWith(done, [...held.keys()], held.size);
}

/** Where spans lie in another clip, as far as it ran then. @throws ArchiveError value-refused where nothing tells how they lie to each other */
async function laidInto(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
  to: string,
): Promise<{ target: Clip; count: number; laid: { id: string; after: SpanEntry }[] }> {
  const held = await heldOf(db, viewer, ids);
  const target = await clipOf(db, viewer, to);
  const theirs = await momentOf(db, target);
  const moments = new Map<string, Moment>();
  for (const of of new Set([...held.values()].map((one) => one.of)))
    moments.set(of, await momentOf(db, await clipOf(db, viewer, of)));
  const laid = [...held].flatMap(([id, one]) => {
    const own = moments.get(one.of)!;
    const found = before(own, theirs);
    if (!found)
      throw new ArchiveError(
        'value-refused',
        `Neither timecode nor time taken tells how ${target.number} lies beside it.`,
      );
    const stretch = one.of === target.id ? null : atOther(one, own, theirs, found.seconds);
    return stretch ? [{ id, after: { ...one, ...stretch, of: target.id } }] : [];
  });
  return { target, count: held.size, laid };
}

/** How many of some spans another clip has room for. @throws ArchiveError as {@link copySpans} */
export const fittingSpans = async (
  db: Kysely<Database>,
  viewer: Viewer,
  ids: readonly string[],
  to: string,
): Promise<number> => (await laidInto(db, viewer, ids, to)).laid.length;

/** Keep the same moments of another clip: two cameras saw it. @throws ArchiveError value-refused where nothing tells how they lie to each other */
export async function copySpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
  to: string,
): Promise<SpansDone> {
  let made: string[] = [];
  let asked = 0;
  const done = await changeLists(db, by.id, async (transaction) => {
    const { target, count, laid } = await laidInto(transaction, by.viewer, ids, to);
    asked = count;
    made = laid.map(() => newId());
    await refuseTooMany(transaction, target, laid.length);
    const known = new Map(
      (
        await readRecords(
          transaction,
          laid.map(({ id }) => id),
        )
      ).map((one) => [one.id, one.values]),
    );
    const groups = laid.map(({ id }, index) => ({
      itemIds: [made[index]!],
      change: handedOn(known.get(id)!),
    }));
    return {
      summary: `Copied ${counted(laid.length, 'span')} to ${target.number}`,
      entries: laid.map(({ after }, index) => ({
        ...{ list: LIST, id: made[index]!, before: null, after },
      })),
      records: (after) => stepsFor(after, groups),
    };
  });
  return doneWith(done, made, asked);
}

/** Write the spans of a clip into its XMP: its file is behind from now on, and follows as it does after every change. */
export async function writeMarkers(
  db: Kysely<Database>,
  { id: actorId, viewer }: By,
  itemId: string,
): Promise<SpansDone> {
  const clip = await clipOf(db, viewer, itemId);
  await wholly(db, async (transaction) => {
    await lockRecords(transaction, [clip.id]);
    await transaction
      .updateTable('item')
      .set({ version: sql<number>`version + 1` })
      .where('id', '=', clip.id)
      .execute();
    const title = `Writing markers into ${clip.number}`;
    await enqueueWrites(transaction, [clip.id], { actorId, operationId: null, title });
    await notifyItems(transaction, [clip.id], ['writing']);
  });
  return { ids: [], count: 1, operation: null };
}

/** What is asked of spans. */
export function doSpans(db: Kysely<Database>, by: By, deed: SpansDeed): Promise<SpansDone> {
  switch (deed.does) {
    case 'drop':
      return dropSpans(db, by, deed.ids);
    case 'count':
      return countUp(db, by, deed);
    case 'mark':
      return markSpans(db, by, deed.ids, deed.mark);
    case 'join':
      return joinSpans(db, by, deed.ids);
    case 'split':
      return splitSpan(db, by, deed.id, deed.at);
    case 'offset':
      return offsetSpans(db, by, deed.ids, deed.by);
    case 'write':
      return writeMarkers(db, by, deed.id);
    case 'copy':
      return copySpans(db, by, deed.ids, deed.to);
  }
}
