import { sql, type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpanEntry } from '#core/entries/span';
import { countedAt, LAST_FRAME, MOST_SPANS, stretchOf } from '#core/footage/span';
import type { Technical } from '#core/records/technical';
import type { Viewer } from '#core/sight/viewer';
import { counted } from '#core/text/quantities';
import type { RecordChange } from '#core/records/fields';
import type { NewSpan, ShownSpan, SpanChange } from '#core/wire/spans';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, readEntries, type EntryChange } from '../lists/journal';
import { stepsFor } from '../records/records';
import { isHeld, seenBy, seenId, seenIds } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;
type Tx = Transaction<Database>;
/** The list of the journal they are entries of. */
export const SPAN_LIST = 'span' as const;

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
  return { id: row.id, number: row.number, ...countingOf(row) };
}

/** How a clip counts, by what is known of it. */
export function countingOf({
  technical,
  duration,
}: {
  technical: Technical;
  duration: number | null;
}): Pick<Clip, 'rate' | 'start' | 'frames'> {
  const rate = countedAt(technical.frameRate);
  // Frames that were counted are sure; of a varying rate the length tells nothing.
  const counted = technical.frames ?? (duration ? Math.round(duration * rate) : null);
  return { rate, start: technical.timecode ?? null, frames: counted && Math.max(1, counted) };
}

/** Spans and markers of a clip, as far as somebody sees them, in the order of their frames. */
export async function spansOf(db: Db, viewer: Viewer, clipId: string): Promise<ShownSpan[]> {
  const { rows } = await sql<ShownSpan>`
    select i.id, i.number, i.from_frame as "from", i.to_frame as "to", i.is_marker as "isMarker", i.mark, i.version,
      i.title, i.caption as note, i.rating, coalesce(s.name, '') as stage, i.creator,
      coalesce(i.record ->> 'shotScene', '') as scene, coalesce(i.record ->> 'shot', '') as shot,
      coalesce(i.record ->> 'take', '') as take,
      array(select t.label from item_term it join term t on t.id = it.term_id where it.item_id = i.id order by 1) as terms
    from item i left join stage s on s.id = i.stage_id
    where i.of_id = ${clipId}::uuid and ${seenBy(viewer, 'list', 'i')}
    order by i.from_frame, i.to_frame, i.number_key limit ${MOST_SPANS}`.execute(db);
  return rows;
}

/** Who does it. */
export interface By {
  id: string | null;
  viewer: Viewer;
}

/**
 * Keep spans and markers of a clip, with what they are called: one step of the ledger.
 * @returns ids in their order
 * @throws ArchiveError not-found; value-refused where the clip would have more than it may
 */
export async function keepSpans(
  db: Kysely<Database>,
  by: By,
  itemId: string,
  spans: readonly NewSpan[],
): Promise<{ ids: string[]; operation: string | null }> {
  const clip = await clipOf(db, by.viewer, itemId);
  const entries = spans.map(({ first, last, isMarker, mark }): EntryChange => {
    const stretch = stretchOf(first, isMarker ? first : last, clip.frames ?? LAST_FRAME);
    const after: SpanEntry = { of: clip.id, ...stretch, isMarker, mark };
    return { list: SPAN_LIST, id: newId(), before: null, after };
  });
  const ids = entries.map(({ id }) => id);
  const groups = spans.flatMap(({ title, note }, at): Described[] =>
    title || note
      ? [
          {
            itemIds: [ids[at]!],
            change: { ...(title && { title }), ...(note && { caption: note }) },
          },
        ]
      : [],
  );
  const kept = await changeLists(db, by.id, async (transaction) => {
    await refuseTooMany(transaction, clip, entries.length);
    const summary = `Kept ${wordsOf(spans)} of ${clip.number}`;
    return { summary, entries, records: (after) => stepsFor(after, groups) };
  });
  return { ids, operation: kept?.operationId ?? null };
}

interface Described {
  itemIds: string[];
  change: RecordChange;
}

/** @throws ArchiveError value-refused where a clip would have more spans than anybody keeps */
export async function refuseTooMany(db: Tx, clip: Clip, more: number): Promise<void> {
  const { count } = await db
    .selectFrom('item')
    .select(sql<number>`count(*)::int`.as('count'))
    .where('ofId', '=', clip.id)
    .where(isHeld('item'))
    .executeTakeFirstOrThrow();
  if (count + more > MOST_SPANS)
    throw new ArchiveError(
      'value-refused',
      `A clip has at most ${MOST_SPANS} spans; ${clip.number} has ${count}.`,
    );
}

export function wordsOf(spans: readonly { isMarker: boolean }[]): string {
  const markers = spans.filter(({ isMarker }) => isMarker).length;
  return [
    spans.length > markers && counted(spans.length - markers, 'span'),
    markers > 0 && counted(markers, 'marker'),
  ]
    .filter(Boolean)
    .join(' and ');
}

/** Spans by their ids with the clip each is of, as far as they are seen. @throws ArchiveError not-found where there is none */
export async function heldOf(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
): Promise<Map<string, SpanEntry>> {
  const held = await readEntries(db as Kysely<Database>, SPAN_LIST, await seenIds(db, viewer, ids));
  if (held.size === 0) throw new ArchiveError('not-found', 'This span is not there any more.');
  return held;
}

/** Change where a span lies, or its mark. @throws ArchiveError not-found, value-refused, conflict */
export async function changeSpan(
  db: Kysely<Database>,
  by: By,
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
      entries: [{ list: SPAN_LIST, id, before, after }],
    };
  });
  return { operation: done?.operationId ?? null };
}
