import type { Sharp } from 'sharp';
import { sql, type Kysely } from 'kysely';
import {
  likenessFinder,
  lookOf,
  seekerOf,
  type LikenessFinder,
  type Look,
  type Seeker,
} from '#core/likeness/finder';
import { CELLS } from '#core/likeness/overlap';
import { fromBigint, HASH_EDGE, toBigint } from '#core/likeness/phash';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import { isHeld } from '../sight/seen';

/** A picture as 32 × 32 grey values, whatever its size. */
export const greyOf = (picture: Sharp): Promise<Buffer> =>
  picture
    .flatten({ background: '#808080' })
    .greyscale()
    .resize(HASH_EDGE, HASH_EDGE, { fit: 'fill', kernel: 'lanczos3' })
    .toColourspace('b-w')
    .raw()
    .toBuffer();

/** What a picture is known by, and what others like it are looked for by; null where it is too plain. */
export async function looksOf(picture: Sharp): Promise<{ look: Look; seeker: Seeker } | null> {
  const grey = await greyOf(picture);
  const look = lookOf(grey);
  return look && { look, seeker: seekerOf(grey) };
}

/** The columns a look is kept in. */
export const lookColumns = (look: Look | null) => ({
  likeness: look && toBigint(look.likeness),
  signature: look && Buffer.from(look.signature),
});

/** Before signatures were made, only the hash was kept: nothing is laid over an empty one. */
const EMPTY = new Uint8Array(CELLS);

export const lookOfRow = (row: { likeness: string; signature: Uint8Array | null }): Look => ({
  likeness: fromBigint(row.likeness),
  signature: row.signature ?? EMPTY,
});

export interface LookedItem {
  id: string;
  number: string;
}

interface Known {
  finder: LikenessFinder;
  items: LookedItem[];
  /** Where each item's latest look stands. */
  at: Map<string, number>;
  /** The number of the look that was read of each item. */
  numbers: Map<string, string>;
  /** Looks up to this number were read. */
  upTo: bigint;
}

const known = new WeakMap<House, Known>();
/** A statement that took a lower number may end a little later: so many are read again. */
const OVERLAP = 500n;

/** The looks of the whole archive in memory; what came since is read at each call. */
export async function archiveLooks(house: House): Promise<Known> {
  const held = known.get(house) ?? {
    finder: likenessFinder(),
    items: [],
    at: new Map<string, number>(),
    numbers: new Map<string, string>(),
    upTo: 0n,
  };
  known.set(house, held);
  const { rows } = await sql<
    LookedItem & { likeness: string; signature: Buffer | null; no: string }
  >`
    select id, number, likeness::text, signature, look_no::text as no from item
    where look_no > ${String(held.upTo - OVERLAP)}::bigint and likeness is not null and ${isHeld('item')}
    order by look_no`.execute(house.db);
  for (const { id, number, no, ...look } of rows) {
    if (BigInt(no) > held.upTo) held.upTo = BigInt(no);
    if (held.numbers.get(id) === no) continue;
    held.numbers.set(id, no);
    held.at.set(id, held.items.push({ id, number }) - 1);
    held.finder.add(lookOfRow(look), held.at.get(id)!);
  }
  return held;
}

/** Items of the archive like a picture, nearest first: by their latest looks, and only those that are still held. */
export async function nearInArchive(
  house: House,
  { finder, items, at }: Known,
  seeker: Seeker,
): Promise<(LookedItem & { distance: number })[]> {
  const near = finder
    .near(seeker)
    .filter(({ id }) => at.get(items[id]!.id) === id)
    .map(({ id, distance }) => ({ ...items[id]!, distance }));
  if (near.length === 0) return [];
  const { rows } = await sql<{ id: string }>`select id from item
    where id = any(${near.map(({ id }) => id)}::uuid[]) and ${isHeld('item')}`.execute(house.db);
  const alive = new Set(rows.map(({ id }) => id));
  return near.filter(({ id }) => alive.has(id));
}

/** An item like more than this many others is tied to the nearest. */
const MOST_TIED = 12;

/** Tie an item to the twins and lookalikes that are held beside it. */
export async function tieLookalikes(house: House, itemId: string, seeker: Seeker): Promise<void> {
  const found = await nearInArchive(house, await archiveLooks(house), seeker);
  const near = found.map(({ id }) => id).filter((id) => id !== itemId);
  await tie(house.db, itemId, near);
}

/** Tie an item to others: as a twin where file or picture are the same, else as a lookalike; once each. */
export async function tie(db: Kysely<Database>, itemId: string, others: string[]): Promise<void> {
  const near = others.slice(0, MOST_TIED);
  if (near.length === 0) return;
  await sql`insert into lineage (item_id, kind, of_id)
    select i.id, case when (f.content_hash = g.content_hash or f.essence_hash = g.essence_hash)
        then 'twin of' else 'lookalike of' end, o.id
    from unnest(${near}::uuid[]) as near(id)
    join item i on i.id = ${itemId}::uuid
    join item o on o.id = near.id and ${isHeld('o')}
    join file f on f.item_id = i.id and f.role = 'original'
    join file g on g.item_id = o.id and g.role = 'original'
    where not exists (select 1 from lineage l
      where (l.item_id, l.of_id) in ((i.id, o.id), (o.id, i.id)))
    on conflict do nothing`.execute(db);
}
