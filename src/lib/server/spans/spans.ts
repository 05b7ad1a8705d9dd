import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpanEntry } from '#core/entries/span';
import { countedAt, LAST_FRAME, MOST_SPANS, moved, stretchOf } from '#core/footage/span';
import type { Viewer } from '#core/sight/viewer';
import { counted } from '#core/text/quantities';
import type { NewSpan, ShownSpan, SpanChange } from '#core/wire/spans';
import type { Database } from '../db/schema';
import { wholly } from '../db/wholly';
import { newId } from '../house/ids';
import { changeLists, readEntries, type EntryChange } from '../lists/journal';
import { changeEach } from '../records/records';
import { isHeld, seenBy, seenId, seenIds } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;
const LIST = 'span' as const;

/** A clip and how it counts. */
export interface Clip {
  id: string;
  number: string;
  /** Frames a second. */
  rate: number;
  /** Timecode of its first frame. */
  start: string | null;
  /** Frames, as far as its length tells; null where it tells none. */
  frames: number | null;
}

/** The clip an item is, or a span is of. @throws ArchiveError not-found where it is neither, or may not be seen */
export async function clipOf(db: Db, viewer: Viewer, itemId: string): Promise<Clip> {
  await seenId(db, viewer, itemId);
  const row = await db
    .selectFrom('item as i')
    .innerJoin('item as clip', 'clip.id', 'i.holderId')
    .select(['clip.id', 'clip.number', 'clip.kind', 'clip.technical', 'clip.duration'])
    .where('i.id', '=', itemId)
    .where(seenBy(viewer, 'list', 'clip'))
    .executeTakeFirst();
  if (!row || (row.kind !== 'footage' && row.kind !== 'sound'))
    throw new ArchiveError('not-found', 'Only footage and sound have spans.');
  const rate = countedAt(row.technical.frameRate);
  const frames = row.duration ? Math.max(1, Math.round(row.duration * rate)) : null;
  return {
    ...{ id: row.id, number: row.number, rate, frames },
    start: row.technical.timecode ?? null,
  };
}

/** Spans and markers of a clip, as far as somebody sees them, in the order of their frames. */
export async function spansOf(db: Db, viewer: Viewer, clipId: string): Promise<ShownSpan[]> {
  const { rows } = await sql<ShownSpan>`
    select i.id, i.number, i.from_frame as "from", i.to_frame as "to", i.is_marker as "isMarker", i.mark, i.version,
      i.title, i.caption as note, i.rating, coalesce(s.name, '') as stage, i.creator,
      array(select t.label from item_term it join term t on t.id = it.term_id where it.item_id = i.id order by 1) as terms
    from item i left join stage s on s.id = i.stage_id
    where i.of_id = ${clipId}::uuid and ${seenBy(viewer, 'list', 'i')}
    order by i.from_frame, i.to_frame, i.number_key limit ${MOST_SPANS}`.execute(db);
  return rows;
}

/**
 * Keep spans and markers of a clip: in one step of the ledger, what they are called in another.
 * @returns ids in their order
 * @throws ArchiveError not-found; value-refused where the clip would have more than it may
 */
export async function keepSpans(
  db: Kysely<Database>,
  by: { id: string | null; viewer: Viewer },
  itemId: string,
  spans: readonly NewSpan[],
): Promise<{ ids: string[]; operation: string | null }> {
  const clip = await clipOf(db, by.viewer, itemId);
  const entries = spans.map(({ first, last, isMarker, mark }): EntryChange => {
    const stretch = stretchOf(first, isMarker ? first : last, clip.frames ?? LAST_FRAME);
    const after: SpanEntry = { of: clip.id, ...stretch, isMarker, mark };
    return { list: LIST, id: newId(), before: null, after };
  });
  const ids = entries.map(({ id }) => id);
  const groups = spans.flatMap(({ title, note }, at) =>
    title || note
      ? [
          {
            itemIds: [ids[at]!],
            change: { ...(title && { title }), ...(note && { caption: note }) },
          },
        ]
      : [],
  );
  const operation = await wholly(db, async (transaction) => {
    const { count } = await transaction
      .selectFrom('item')
      .select(sql<number>`count(*)::int`.as('count'))
      .where('ofId', '=', clip.id)
      .where(isHeld('item'))
      .executeTakeFirstOrThrow();
    if (count + entries.length > MOST_SPANS)
      throw new ArchiveError(
        'value-refused',
        `A clip has at most ${MOST_SPANS} spans; ${clip.number} has ${count}.`,
      );
    const summary = `Kept ${wordsOf(spans)} of ${clip.number}`;
    const kept = await changeLists(transaction, by.id, () => Promise.resolve({ summary, entries }));
    if (groups.length > 0) await changeEach(transaction, by.id, groups);
    return kept?.operationId ?? null;
  });
  return { ids, operation };
}

function wordsOf(spans: readonly { isMarker: boolean }[]): string {
  const markers = spans.filter(({ isMarker }) => isMarker).length;
  return [
    spans.length > markers && counted(spans.length - markers, 'span'),
    markers > 0 && counted(markers, 'marker'),
  ]
    .filter(Boolean)
    .join(' and ');
}

/** Spans by their ids with the clip each is of, as far as they are seen. @throws ArchiveError not-found where there is none */
async function heldOf(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
): Promise<Map<string, SpanEntry>> {
  const held = await readEntries(db as Kysely<Database>, LIST, await seenIds(db, viewer, ids));
  if (held.size === 0) throw new ArchiveError('not-found', 'This span is not there any more.');
  return held;
}

/** Change where a span lies, or its mark. @throws ArchiveError not-found, value-refused, conflict */
export async function changeSpan(
  db: Kysely<Database>,
  by: { id: string | null; viewer: Viewer },
  id: string,
  change: SpanChange,
): Promise<{ operation: string | null }> {
  const done = await changeLists(db, by.id, async (transaction) => {
    const before = (await heldOf(transaction, by.viewer, [id])).get(id)!;
    if (change.seen && (change.seen.from !== before.from || change.seen.to !== before.to))
      throw new ArchiveError('conflict', 'Somebody moved it meanwhile; look at it again.');
    const { frames } = await clipOf(transaction, by.viewer, before.of);
    const wished = { from: change.from ?? before.from, to: change.to ?? before.to };
    if (wished.to <= wished.from)
      throw new ArchiveError('value-refused', 'A span ends after it begins.');
    const last = Math.max(frames ?? LAST_FRAME, before.to);
    const stretch = stretchOf(wished.from, wished.to - 1, last);
    const one = before.isMarker ? { to: stretch.from + 1 } : {};
    const after = { ...before, ...stretch, ...one, mark: change.mark ?? before.mark };
    const name = before.isMarker ? 'marker' : 'span';
    const isMoved = after.from !== before.from || after.to !== before.to;
    return {
      summary: `${isMoved ? 'Moved' : 'Marked'} a ${name}`,
      entries: [{ list: LIST, id, before, after }],
    };
  });
  return { operation: done?.operationId ?? null };
}

/** Let spans go; undone they come back with all they had. @returns how many */
export async function dropSpans(
  db: Kysely<Database>,
  by: { id: string | null; viewer: Viewer },
  ids: readonly string[],
): Promise<{ dropped: number; operation: string | null }> {
  let dropped = 0;
  const done = await changeLists(db, by.id, async (transaction) => {
    const held = await heldOf(transaction, by.viewer, ids);
    dropped = held.size;
    return {
      summary: `Let go of ${wordsOf([...held.values()])}`,
      entries: [...held].map(([id, before]) => ({ list: LIST, id, before, after: null })),
    };
  });
  return { dropped, operation: done?.operationId ?? null };
}

/** Move all spans of a clip by some frames: a timecode that was wrong. What would leave the clip stays within. */
export async function offsetSpans(
  db: Kysely<Database>,
  by: { id: string | null; viewer: Viewer },
  itemId: string,
  frames: number,
): Promise<{ moved: number; operation: string | null }> {
  const clip = await clipOf(db, by.viewer, itemId);
  let count = 0;
  const done = await changeLists(db, by.id, async (transaction) => {
    const spans = await spansOf(transaction, by.viewer, clip.id);
    const held = await readEntries(
      transaction as unknown as Kysely<Database>,
      LIST,
      spans.map(({ id }) => id),
    );
    const entries = [...held].map(([id, before]): EntryChange => {
      const after = { ...before, ...moved(before, frames, clip.frames ?? LAST_FRAME) };
      return { list: LIST, id, before, after };
    });
    count = entries.length;
    return { summary: `Moved ${wordsOf([...held.values()])} of ${clip.number}`, entries };
  });
  return { moved: count, operation: done?.operationId ?? null };
}
