import { sql } from 'kysely';
import { bandsOf, likeClips, type ClipLook } from '#core/likeness/clips';
import { fromBigint, toBigint } from '#core/likeness/phash';
import type { House } from '../house/house';
import { tie } from './likeness';
import { isHeld } from '../sight/seen';

/** Clips that share most are compared frame by frame. */
const MOST_COMPARED = 200;

/** Keep what a clip is known by, and tie it to those that show the same. */
export async function tieClips(house: House, itemId: string, look: ClipLook): Promise<void> {
  const { db } = house;
  if (look.frames.length === 0) return;
  const bands = bandsOf(look);
  await db
    .insertInto('clipLook')
    .values({ itemId, times: look.times, frames: look.frames.map(toBigint), bands })
    .onConflict((conflict) =>
      conflict.column('itemId').doUpdateSet((set) => ({
        times: set.ref('excluded.times'),
        frames: set.ref('excluded.frames'),
        bands: set.ref('excluded.bands'),
      })),
    )
    .execute();
  const { rows } = await sql<{ itemId: string; times: number[]; frames: string[] }>`
    select c.item_id as "itemId", c.times, c.frames::text[] as frames from clip_look c
    join item i on i.id = c.item_id and ${isHeld('i')}
    where c.bands && ${bands}::int[] and c.item_id <> ${itemId}::uuid
    order by cardinality(array(select unnest(c.bands) intersect select unnest(${bands}::int[]))) desc
    limit ${MOST_COMPARED}`.execute(db);
  const alike = rows.filter(({ times, frames }) =>
    likeClips(look, { times, frames: frames.map(fromBigint) }),
  );
  await tie(
    db,
    itemId,
    alike.map((one) => one.itemId),
  );
}
