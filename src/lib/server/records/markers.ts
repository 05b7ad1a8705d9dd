import { sql, type Kysely, type Transaction } from 'kysely';
import {
  keyOf,
  tracksFrom,
  tracksWith,
  type ToldSpan,
  type XmpTrack,
} from '#core/footage/dynamicMedia';
import { countedAt } from '#core/footage/span';
import type { TagChanges } from '#core/records/writing';
import type { Database } from '../db/schema';
import type { LocatedFile } from '../files/located';
import { readTags } from '../metadata/exiftool';
import { isHeld } from '../sight/seen';

type Db = Kysely<Database> | Transaction<Database>;
const TRACKS = 'XMP-xmpDM:Tracks';

/** Tracks that the XMP of a file or sidecar tells of; null: it says nothing of any. */
export async function tracksIn(path: string): Promise<XmpTrack[] | null> {
  const value = (await readTags(path, false))[TRACKS];
  return value === undefined ? null : tracksFrom(value);
}

/**
 * Spans and markers of a clip as XMP tells them, and how the clip counts. What is kept closer than its clip does not leave
 * with the file.
 */
async function toldOf(db: Db, clipId: string): Promise<{ spans: ToldSpan[]; rate: number }> {
  const [{ rows }, clip] = await Promise.all([
    sql<ToldSpan>`select i.from_frame as "from", i.to_frame as "to", i.is_marker as "isMarker", i.title,
        i.caption as note from item i join item clip on clip.id = i.of_id and clip.access = i.access
      where i.of_id = ${clipId}::uuid and ${isHeld('i')} order by i.from_frame, i.to_frame`.execute(
      db,
    ),
    db.selectFrom('item').select('technical').where('id', '=', clipId).executeTakeFirstOrThrow(),
  ]);
  return { spans: rows, rate: countedAt(clip.technical.frameRate) };
}

/** What goes into a clip's XMP of its spans. */
export interface MarkerTags {
  tags: TagChanges;
  /** Ours of what the XMP tells then: what others say that was never taken in stays theirs. null: nothing is written. */
  told: string[] | null;
}

/**
 * Spans and markers of a clip as they go into its XMP, beside what other programs' tracks say there.
 * @param path the file or sidecar they go into; null for a new one
 */
export async function markerTags(
  db: Db,
  { id, itemId, kind }: LocatedFile,
  path: string | null,
): Promise<MarkerTags> {
  if (kind !== 'footage' && kind !== 'sound') return { tags: {}, told: null };
  const { spans, rate } = await toldOf(db, itemId);
  const held = path === null ? null : await tracksIn(path);
  if (spans.length === 0 && held === null) return { tags: {}, told: null };
  const { toldMarkers } = await db
    .selectFrom('file')
    .select('toldMarkers')
    .where('id', '=', id)
    .executeTakeFirstOrThrow();
  const tracks = tracksWith(held ?? [], spans, rate, new Set(toldMarkers ?? []));
  return {
    tags: { [TRACKS]: tracks.length > 0 ? tracks : null },
    told: spans.map(keyOf),
  };
}

/** Note what a file's XMP tells of markers now. */
export async function noteMarkers(db: Db, fileId: string, told: string[] | null): Promise<void> {
  if (told === null) return;
  await db.updateTable('file').set({ toldMarkers: told }).where('id', '=', fileId).execute();
}
