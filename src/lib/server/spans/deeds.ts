import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { SpanEntry } from '#core/entries/span';
import { atOther, before, type Moment } from '#core/footage/moments';
import { LAST_FRAME, moved } from '#core/footage/span';
import type { RecordChange, RecordValues } from '#core/records/fields';
import { VALUES } from '#core/records/schemas';
import { countedUp } from '#core/text/numbered';
import { counted } from '#core/text/quantities';
import type { SpansDeed, SpansDone } from '#core/wire/spans';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, type EntryChange } from '../lists/journal';
import { changeEach, readRecords, stepsFor } from '../records/records';
import { seenIds } from '../sight/seen';
import { momentOf } from './beside';
import { clipOf, heldOf, refuseTooMany, SPAN_LIST as LIST, wordsOf, type By } from './spans';

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

/** Keep the same moments of another clip: two cameras saw it. @throws ArchiveError value-refused where nothing tells how they lie to each other */
export async function copySpans(
  db: Kysely<Database>,
  by: By,
  ids: readonly string[],
  to: string,
): Promise<SpansDone> {
  const made: string[] = [];
  let count = 0;
  const done = await changeLists(db, by.id, async (transaction) => {
    const held = await heldOf(transaction, by.viewer, ids);
    count = held.size;
    const target = await clipOf(transaction, by.viewer, to);
    const theirs = await momentOf(transaction, target);
    const entries: EntryChange[] = [];
    const source = new Map<string, string>();
    const moments = new Map<string, Moment>();
    for (const [id, one] of held) {
      if (!moments.has(one.of))
        moments.set(
          one.of,
          await momentOf(transaction, await clipOf(transaction, by.viewer, one.of)),
        );
      const own = moments.get(one.of)!;
      const found = before(own, theirs);
      if (!found)
        throw new ArchiveError(
          'value-refused',
          `Neither timecode nor time taken tells how ${target.number} lies beside it.`,
        );
      const stretch = one.of === target.id ? null : atOther(one, own, theirs, found.seconds);
      if (!stretch) continue;
      const copy = newId();
      made.push(copy);
      source.set(copy, id);
      const after: SpanEntry = { ...one, ...stretch, of: target.id };
      entries.push({ list: LIST, id: copy, before: null, after });
    }
    await refuseTooMany(transaction, target, entries.length);
    const known = new Map(
      (await readRecords(transaction, [...held.keys()])).map((one) => [one.id, one.values]),
    );
    const groups = made.map((copy) => ({
      itemIds: [copy],
      change: handedOn(known.get(source.get(copy)!)!),
    }));
    return {
      summary: `Copied ${counted(entries.length, 'span')} to ${target.number}`,
      entries,
      records: (after) => stepsFor(after, groups),
    };
  });
  return doneWith(done, made, count);
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
    case 'copy':
      return copySpans(db, by, deed.ids, deed.to);
  }
}
