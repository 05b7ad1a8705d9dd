import { sql, type Kysely, type Transaction } from 'kysely';
import { before, overlap, type Moment } from '#core/footage/moments';
import type { Viewer } from '#core/sight/viewer';
import type { OtherClip } from '#core/wire/spans';
import type { Database } from '../db/schema';
import { seenBy } from '../sight/seen';
import { clipOf, countingOf, type Clip } from './spans';

type Db = Kysely<Database> | Transaction<Database>;

/** When a clip runs. */
export async function momentOf(db: Db, clip: Clip): Promise<Moment> {
  const row = await db
    .selectFrom('item')
    .select(['takenFrom', 'takenTo'])
    .where('id', '=', clip.id)
    .executeTakeFirstOrThrow();
  return momentFrom(clip, row);
}
const at = (text: string): number => Date.parse(`${text.replace(' ', 'T')}Z`);
function momentFrom(
  { rate, start, frames }: Pick<Clip, 'rate' | 'start' | 'frames'>,
  { takenFrom, takenTo }: { takenFrom: string | null; takenTo: string | null },
): Moment {
  const isExact = takenFrom !== null && takenTo !== null && at(takenTo) - at(takenFrom) < 1000;
  return { rate, start, frames, taken: isExact ? at(takenFrom) : null };
}

/** More clips are not looked at beside one. */
const MOST_BESIDE = 500;

/** Clips that run while another does, as far as somebody sees them: by their timecodes, else by when they were taken. */
export async function clipsBeside(
  db: Kysely<Database>,
  viewer: Viewer,
  itemId: string,
): Promise<OtherClip[]> {
  const clip = await clipOf(db, viewer, itemId);
  const own = await momentOf(db, clip);
  const rows = await db
    .selectFrom('item as i')
    .innerJoin('item as clip', (join) => join.on('clip.id', '=', clip.id))
    .select(['i.id', 'i.number', 'i.title', 'i.originalName', 'i.technical', 'i.duration'])
    .select(['i.takenFrom', 'i.takenTo'])
    .where('i.kind', 'in', ['footage', 'sound'])
    .where('i.id', '!=', clip.id)
    .where(seenBy(viewer, 'list', 'i'))
    .where(
      sql<boolean>`(i.accession_id = clip.accession_id
        or i.taken_from between clip.taken_from - interval '1 day' and clip.taken_to + interval '1 day')`,
    )
    .orderBy('i.takenFrom')
    .orderBy('i.numberKey')
    .limit(MOST_BESIDE)
    .execute();
  return rows.flatMap(({ id, number, title, originalName, ...row }) => {
    const other = momentFrom(countingOf(row), row);
    const found = before(own, other);
    if (!found || !overlap(own, other, found.seconds)) return [];
    return [{ id, number, name: title || originalName, by: found.by, later: found.seconds }];
  });
}
