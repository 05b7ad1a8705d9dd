import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { PositionWish } from '#core/positions/wish';
import { factsOfTrack, type KeptTrack, type Track } from '#core/positions/track';
import { apart, runApart } from '../apart/apart';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import type { readGpx } from './gpx';

type Db = Kysely<Database>;
const GPX = apart<typeof readGpx>('positions/gpx', 'readGpx');
const SECONDS = 30;
/** Tracks that are kept; the oldest go when more come. */
const MOST_TRACKS = 200;

const told = (row: {
  id: string;
  name: string;
  points: number;
  stretches: number;
  fromMs: string;
  toMs: string;
}): KeptTrack => ({
  id: row.id,
  name: row.name,
  points: row.points,
  stretches: row.stretches,
  from: Number(row.fromMs),
  to: Number(row.toMs),
});

/** Tracks of one person, the latest first. @param owner null: of the command line */
export async function keptTracks(db: Db, owner: string | null): Promise<KeptTrack[]> {
  const rows = await db
    .selectFrom('track')
    .select(['id', 'name', 'points', 'stretches', 'fromMs', 'toMs'])
    .where('broughtBy', 'is not distinct from', owner)
    .orderBy('broughtAt', 'desc')
    .limit(MOST_TRACKS)
    .execute();
  return rows.map(told);
}

/**
 * Read a GPX file and keep its track; one that was brought before is the same.
 * @throws ArchiveError file-unreadable
 */
export async function keepTrack(
  db: Db,
  actorId: string | null,
  { name, text }: { name: string; text: string },
): Promise<KeptTrack & { left: number }> {
  const read = await runApart(GPX, { text }, SECONDS);
  const facts = factsOfTrack(read.stretches)!;
  const hash = createHash('sha256').update(text).digest('base64url');
  const stretched = read.stretches.map((stretch) =>
    stretch.map(({ at, latitude, longitude }) => [at, latitude, longitude]),
  );
  const row = await db
    .insertInto('track')
    .values({
      id: newId(),
      name: (read.name || name || 'Track').replaceAll('\0', '').slice(0, 200),
      hash,
      points: facts.points,
      stretches: facts.stretches,
      fromMs: facts.from,
      toMs: facts.to,
      stretched: JSON.stringify(stretched),
      broughtBy: actorId,
    })
    .onConflict((conflict) =>
      conflict.columns(['hash', 'broughtBy']).doUpdateSet({ broughtAt: new Date() }),
    )
    .returning(['id', 'name', 'points', 'stretches', 'fromMs', 'toMs'])
    .executeTakeFirstOrThrow();
  await sql`delete from track where id in (
    select id from track where brought_by is not distinct from ${actorId}::uuid
      order by brought_at desc offset ${MOST_TRACKS})`.execute(db);
  return { ...told(row), left: read.left };
}

/** A track is used by whoever brought it. @throws ArchiveError not-found */
export async function checkTrack(db: Db, owner: string, wish: PositionWish): Promise<void> {
  if (wish.act !== 'track') return;
  const row = await db
    .selectFrom('track')
    .select('id')
    .where('id', '=', wish.track)
    .where('broughtBy', '=', owner)
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'The track is kept no more; bring it again.');
}

/** @throws ArchiveError not-found */
export async function trackOf(db: Db, id: string): Promise<Track> {
  const row = await db
    .selectFrom('track')
    .select('stretched')
    .where('id', '=', id)
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', 'The track is kept no more; bring it again.');
  return row.stretched.map((stretch) =>
    stretch.map(([at, latitude, longitude]) => ({ at, latitude, longitude })),
  );
}

/** @throws ArchiveError not-found */
export async function dropTrack(db: Db, owner: string | null, id: string): Promise<void> {
  const { numDeletedRows } = await db
    .deleteFrom('track')
    .where('id', '=', id)
    .where('broughtBy', 'is not distinct from', owner)
    .executeTakeFirst();
  if (numDeletedRows === 0n) throw new ArchiveError('not-found', 'There is no such track.');
}
