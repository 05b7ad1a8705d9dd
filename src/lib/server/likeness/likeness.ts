import type { Sharp } from 'sharp';
import { sql } from 'kysely';
import {
  fromBigint,
  HASH_EDGE,
  likenessesOf,
  likenessIndex,
  likenessOf,
  toBigint,
  type Likeness,
  type LikenessIndex,
} from '#core/likeness/phash';
import type { House } from '../house/house';

/** A picture as 32 × 32 grey values, whatever its size. */
export const greyOf = (picture: Sharp): Promise<Buffer> =>
  picture
    .flatten({ background: '#808080' })
    .greyscale()
    .resize(HASH_EDGE, HASH_EDGE, { fit: 'fill', kernel: 'lanczos3' })
    .toColourspace('b-w')
    .raw()
    .toBuffer();

/** The perceptual hash of a picture; null where it is too plain to be known by. */
export const likenessOfPicture = async (picture: Sharp): Promise<Likeness | null> =>
  likenessOf(await greyOf(picture));

/** Its hashes in all positions in which it may be held. */
export const allLikenessesOf = async (picture: Sharp): Promise<Likeness[]> =>
  likenessesOf(await greyOf(picture));

/** An item's columns for its likeness; null says that it has none. */
export const likenessColumns = (likeness: Likeness | null) => ({
  likeness: likeness && toBigint(likeness),
  likenessMade: true,
});

export interface Held {
  id: string;
  number: string;
}

/** The likenesses of the whole archive in memory: 8 bytes for each item. */
export async function archiveLikenesses(
  house: House,
): Promise<{ index: LikenessIndex; items: Held[] }> {
  const { rows } = await sql<{ id: string; number: string; likeness: string }>`
    select id, number, likeness::text from item where likeness is not null and deleted_at is null`.execute(
    house.db,
  );
  const index = likenessIndex();
  rows.forEach(({ likeness }, at) => index.add(fromBigint(likeness), at));
  return { index, items: rows };
}
