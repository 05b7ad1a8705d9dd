import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { sql } from 'kysely';
import type { House } from '../house/house';
import { enqueue } from '../jobs/queue';
import { renditionFolder } from './store';
import { isHeld } from '../sight/seen';

/**
 * What is made of originals lies in a cache that has a limit. Small and medium pictures and what is known of footage
 * always stay: the wall and the strip live on them. Everything else is made anew when it is asked for, and beyond the
 * limit goes in the order in which it was last looked at.
 */
const FILES: Record<string, (key: string) => string[]> = {
  tiles: () => ['tiles'],
  large: () => ['large.webp'],
  room: () => ['room.webp'],
  'room-jpeg': () => ['room.jpg'],
  proxy: () => ['proxy.mp4', 'proxy.m4a'],
};
const filesOfRecipe = (recipe: string): string[] =>
  FILES[recipe]?.(recipe) ?? (/^page-\d+$/.test(recipe) ? [`${recipe}.webp`] : []);
const goes = sql<boolean>`(recipe in ('tiles', 'large', 'room', 'room-jpeg', 'proxy') or recipe like 'page-%')`;

/** Trimmed to this part of the limit, so that it is not at it again at once. */
const ROOM_LEFT = 0.9;
const BATCH = 200;
const DAY_MS = 86_400_000;

/** What was noted as looked at lately. */
const noted = new Map<string, number>();
const MOST_NOTED = 20_000;

/** Note that something made was looked at; once a day is enough to tell what was not. */
export async function noteUse(house: House, key: string, recipe: string): Promise<void> {
  const which = `${key} ${recipe}`;
  const now = house.now().getTime();
  if (now - (noted.get(which) ?? 0) < DAY_MS) return;
  if (noted.size >= MOST_NOTED) noted.clear();
  noted.set(which, now);
  await house.db
    .updateTable('rendition')
    .set({ usedAt: house.now() })
    .where('pictureKey', '=', key)
    .where('recipe', '=', recipe)
    .execute();
}

export interface CacheShare {
  recipe: string;
  count: number;
  bytes: number;
}

/** What the cache holds, by recipe; pages of documents together. */
export const cacheShares = async ({ db }: House): Promise<CacheShare[]> =>
  (
    await sql<CacheShare>`select case when recipe like 'page-%' then 'pages' else recipe end as recipe,
      count(*)::int as count, coalesce(sum(bytes), 0)::float8 as bytes
    from rendition group by 1 order by 3 desc`.execute(db)
  ).rows;

/**
 * Let go of what was not looked at for the longest, until the cache is below its limit.
 * @param limit bytes
 * @returns what was let go
 */
export async function trimCache(
  house: House,
  limit: number,
): Promise<{ count: number; bytes: number }> {
  const total = (await cacheShares(house)).reduce((sum, { bytes }) => sum + bytes, 0);
  const gone = { count: 0, bytes: 0 };
  if (total <= limit) return gone;
  while (total - gone.bytes > limit * ROOM_LEFT) {
    const oldest = await house.db
      .selectFrom('rendition')
      .select(['pictureKey', 'recipe', 'bytes'])
      .where(goes)
      .orderBy('usedAt')
      .limit(BATCH)
      .execute();
    if (oldest.length === 0) break;
    const letGo: typeof oldest = [];
    for (const one of oldest) {
      if (total - gone.bytes <= limit * ROOM_LEFT) break;
      const folder = renditionFolder(house, one.pictureKey);
      // Files first: a row without a file is made anew, a file without a row would stay for ever.
      for (const name of filesOfRecipe(one.recipe))
        await rm(join(folder, name), { recursive: true, force: true });
      noted.delete(`${one.pictureKey} ${one.recipe}`);
      gone.count += 1;
      gone.bytes += Number(one.bytes ?? 0);
      letGo.push(one);
    }
    await sql`delete from rendition r using (
        select unnest(${letGo.map(({ pictureKey }) => pictureKey)}::text[]) as picture_key,
          unnest(${letGo.map(({ recipe }) => recipe)}::text[]) as recipe) g
      where r.picture_key = g.picture_key and r.recipe = g.recipe`.execute(house.db);
  }
  return gone;
}

/** Ask for the pictures of whoever shows this one. */
export async function askForPictureOf(house: House, key: string): Promise<void> {
  const item = await house.db
    .selectFrom('file as f')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select(['i.id', 'f.name'])
    .where('f.pictureKey', '=', key)
    .where('f.role', '=', 'original')
    .where(isHeld('i'))
    .where('i.noPicture', 'is', null)
    .limit(1)
    .executeTakeFirst();
  if (!item) return;
  const title = `Making the picture of ${item.name}`;
  await enqueue(house.db, [{ task: 'pictures', title, subject: item.id, itemId: item.id }]);
}
