import { isDeepStrictEqual } from 'node:util';
import { sql, type Kysely, type Transaction } from 'kysely';
import type { Tile } from '#core/catalogue/tile';
import { ArchiveError } from '#core/errors';
import type { SequenceEntry } from '#core/entries/sequence';
import { isCut, MOST_PIECES, usualRate, type Piece } from '#core/footage/sequence';
import type { Technical } from '#core/records/technical';
import type { Viewer } from '#core/sight/viewer';
import { counted } from '#core/text/quantities';
import type {
  ListedSequence,
  SequenceChange,
  ShownPiece,
  ShownSequence,
} from '#core/wire/sequences';
import { tilesOf } from '../catalogue/find';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { changeLists, entryOf } from '../lists/journal';
import { seenBy } from '../sight/seen';
import { countingOf, type By } from '../spans/spans';

/** A transaction reads as the database does. */
type Db = Kysely<Database> | Transaction<Database>;
const LIST = 'sequence' as const;
/** More are never listed; nobody has so many. */
const MOST_LISTED = 1000;
const STILL_SECONDS = 5;

/** Sequences by name. */
export async function sequences(db: Kysely<Database>, viewer: Viewer): Promise<ListedSequence[]> {
  const rows = await db
    .selectFrom('sequence')
    .select(['id', 'name', 'note', 'pieces'])
    .orderBy(sql`lower(name)`)
    .limit(MOST_LISTED)
    .execute();
  const first = rows.map(({ pieces }) => pieces.flatMap(({ item }) => item ?? []).slice(0, 4));
  const tiles = new Map(
    (await tilesOf(db, viewer, [...new Set(first.flat())])).map((tile) => [tile.id, tile]),
  );
  return rows.map(({ id, name, note, pieces }, at) => ({
    ...{ id, name, note, pieces: pieces.length },
    cover: first[at]!.flatMap((item) => tiles.get(item)?.picture ?? []),
  }));
}

interface Row {
  technical: Technical;
  duration: number | null;
  id: string;
  kind: string;
  fromFrame: number | null;
  toFrame: number | null;
  holderKind: string;
}
type Known = ReturnType<typeof countingOf> & { tile: Tile; row: Row };

/** What is known of items that can stand in a sequence and may be played, by id. */
async function knownOf(
  db: Db,
  viewer: Viewer,
  ids: readonly string[],
): Promise<Map<string, Known>> {
  const wished = [...new Set(ids)];
  const { rows } = await sql<Row>`select i.id, i.kind, i.from_frame, i.to_frame,
      h.kind as holder_kind, h.technical, h.duration
    from item i join item h on h.id = i.holder_id
    where i.id = any(${wished}::uuid[]) and ${seenBy(viewer, 'play', 'i')}`.execute(db);
  const known = new Map(rows.map((row) => [row.id, row]));
  return new Map(
    (await tilesOf(db as Kysely<Database>, viewer, wished)).flatMap((tile) => {
      const row = known.get(tile.id);
      return row ? [[tile.id, { tile, row, ...countingOf(row) }]] : [];
    }),
  );
}

const FILE_WORDS: Partial<Record<Tile['fileState'], string>> = {
  missing: 'has no file at the moment',
  away: 'lies in a place that is away',
};

function shown(piece: Piece, known: Known | undefined): ShownPiece {
  const nothing = {
    ...{ piece, number: null, picture: null, lastPicture: null, frames: null, start: null },
    ...{ rate: null, aspect: null, missing: null, beyond: 0 },
  };
  if (piece.item === null) return { ...nothing, kind: 'gap', name: 'gap' };
  if (!known)
    return { ...nothing, kind: 'unseen', name: 'A piece', missing: 'is nothing you may see' };
  const { tile, row, rate, start, frames } = known;
  const isSound = row.holderKind === 'sound';
  const told = {
    ...{ piece, name: tile.title || tile.name, number: tile.number, picture: tile.picture },
    lastPicture: tile.lastPicture,
    aspect: !isSound && tile.width && tile.height ? tile.width / tile.height : null,
    missing: FILE_WORDS[tile.fileState] ?? null,
  };
  if (!isCut(piece)) return { ...nothing, ...told, kind: 'still' };
  return {
    ...told,
    kind: row.kind === 'span' ? 'span' : isSound ? 'sound' : 'clip',
    ...{ rate, start, frames },
    beyond: frames === null ? 0 : Math.max(0, piece.to - frames),
  };
}

/** One with all that its pieces tell. @throws ArchiveError not-found */
export async function sequenceOf(
  db: Kysely<Database>,
  viewer: Viewer,
  id: string,
): Promise<ShownSequence> {
  const entry = await entryOf(db, LIST, id);
  const items = entry.pieces.flatMap(({ item }) => item ?? []);
  const known = await knownOf(db, viewer, items);
  const pieces = entry.pieces.map((piece) => shown(piece, known.get(piece.item ?? '')));
  return { ...entry, id, pieces };
}

/** Items as pieces: spans and clips in their length, all else that has a picture as stills. */
function piecesFrom(
  ids: readonly string[],
  known: ReadonlyMap<string, Known>,
  stills: number,
): Piece[] {
  return ids.flatMap((item): Piece[] => {
    const one = known.get(item);
    if (!one) return [];
    const { row, frames, tile } = one;
    const id = newId();
    if (row.fromFrame !== null && row.toFrame !== null)
      return [{ id, item, from: row.fromFrame, to: row.toFrame }];
    if (row.holderKind === 'footage' || row.holderKind === 'sound')
      return frames === null ? [] : [{ id, item, from: 0, to: frames }];
    return tile.pictureState === 'none' ? [] : [{ id, item, seconds: stills }];
  });
}
const ratesOf = (pieces: readonly Piece[], known: ReadonlyMap<string, Known>): number[] =>
  pieces.flatMap((piece) => (isCut(piece) ? known.get(piece.item)!.rate : []));

const refuseTooMany = (pieces: readonly unknown[]): void => {
  if (pieces.length > MOST_PIECES)
    throw new ArchiveError(
      'value-refused',
      `A rough sequence has at most ${counted(MOST_PIECES, 'piece')}.`,
    );
};

/** Change one entry: what it was, and what it is to be. */
async function change(
  db: Kysely<Database>,
  by: By,
  id: string,
  run: (
    before: SequenceEntry,
    db: Db,
  ) => Promise<{ summary: string; after: SequenceEntry | null; as?: string }>,
): Promise<{ operation: string | null }> {
  const done = await changeLists(db, by.id, async (transaction) => {
    const before = await entryOf(transaction as unknown as Kysely<Database>, LIST, id);
    const { summary, after, as } = await run(before, transaction);
    const entry = { list: LIST, id: as ?? id, before: as ? null : before, after };
    return { summary, entries: [entry] };
  });
  return { operation: done?.operationId ?? null };
}

/** Make one. @returns its id */
export async function addSequence(
  db: Kysely<Database>,
  { id: by, viewer }: By,
  { name, items }: { name: string; items: readonly string[] },
): Promise<{ id: string; operation: string | null }> {
  refuseTooMany(items);
  const id = newId();
  const done = await changeLists(db, by, async (transaction) => {
    const known = await knownOf(transaction, viewer, items);
    const pieces = piecesFrom(items, known, STILL_SECONDS);
    const after: SequenceEntry = {
      ...{ name, note: '', rate: usualRate(ratesOf(pieces, known)) },
      ...{ stills: STILL_SECONDS, sound: true, pieces },
    };
    return {
      summary: `Made the sequence “${name}”`,
      entries: [{ list: LIST, id, before: null, after }],
    };
  });
  return { id, operation: done?.operationId ?? null };
}

/** What a change of a sequence is called. */
function summaryOf({ add, pieces, name }: SequenceChange, before: SequenceEntry): string {
  if (add) return `Put ${counted(add.items.length, 'piece')} into the sequence “${before.name}”`;
  if (pieces) return `Ordered the sequence “${before.name}”`;
  return name !== undefined && name !== before.name
    ? `Called the sequence “${before.name}” “${name}”`
    : `Changed the sequence “${before.name}”`;
}

/**
 * Change one. @returns how many of what was to be put in cannot be shown
 * @throws ArchiveError not-found; conflict where its pieces were changed meanwhile; value-refused
 */
export async function editSequence(
  db: Kysely<Database>,
  by: By,
  id: string,
  wish: SequenceChange,
): Promise<{ operation: string | null; left: number }> {
  let left = 0;
  const done = await change(db, by, id, async (before, transaction) => {
    const { seen, add, ...values } = wish;
    if (values.pieces && seen && !isDeepStrictEqual(seen, before.pieces))
      throw new ArchiveError(
        'conflict',
        `“${before.name}” was changed by someone else meanwhile; look at it again.`,
      );
    const after: SequenceEntry = { ...before, ...values };
    await refuseUnseen(transaction, by.viewer, before, after);
    if (add) {
      refuseTooMany(add.items);
      const known = await knownOf(transaction, by.viewer, add.items);
      const more = piecesFrom(add.items, known, after.stills);
      left = add.items.length - more.length;
      const found = after.pieces.findIndex((piece) => piece.id === add.before);
      const at = found < 0 ? after.pieces.length : found;
      if (after.pieces.length === 0) after.rate = usualRate(ratesOf(more, known));
      after.pieces = [...after.pieces.slice(0, at), ...more, ...after.pieces.slice(at)];
    }
    refuseTooMany(after.pieces);
    return { summary: summaryOf(wish, before), after };
  });
  return { ...done, left };
}

/** Nobody puts in what he may not see; what others put in stays. @throws ArchiveError not-found */
async function refuseUnseen(
  db: Db,
  viewer: Viewer,
  before: SequenceEntry,
  after: SequenceEntry,
): Promise<void> {
  const had = new Set(before.pieces.map(({ item }) => item));
  const fresh = new Set(after.pieces.flatMap(({ item }) => (item && !had.has(item) ? item : [])));
  if (fresh.size === 0) return;
  if ((await knownOf(db, viewer, [...fresh])).size < fresh.size)
    throw new ArchiveError('not-found', 'Something that was put in is not there any more.');
}

/** Let one go; the ledger gives it back. */
export const dropSequence = (
  db: Kysely<Database>,
  by: By,
  id: string,
): Promise<{ operation: string | null }> =>
  change(db, by, id, ({ name }) =>
    Promise.resolve({ summary: `Let go of the sequence “${name}”`, after: null }),
  );

/** The same once more, to try something else. */
export async function copySequence(
  db: Kysely<Database>,
  by: By,
  id: string,
): Promise<{ id: string; operation: string | null }> {
  const as = newId();
  const done = await change(db, by, id, (entry) => {
    const pieces = entry.pieces.map((piece) => ({ ...piece, id: newId() }));
    const after = { ...entry, name: `${entry.name.slice(0, 190)}, copy`, pieces };
    return Promise.resolve({ summary: `Copied the sequence “${entry.name}”`, after, as });
  });
  return { id: as, ...done };
}
