import { ArchiveError } from '#core/errors';
import { parseQuery } from '#core/query/grammar';
import { EVERYTHING, type Query } from '#core/query/tree';
import { holdings } from '#server/catalogue/choices';
import { findTiles, wallIndex } from '#server/catalogue/find';
import { collections } from '#server/collections/collections';
import { actorOf } from '#server/edge/edge';
import { allPlaces, placesHere } from '#server/places/places';
import type { PageServerLoad } from './$types';

const FIRST_TILES = 60;

/** An address with a query nobody understands shows everything and says why. */
function readQuery(text: string): { query: Query; unclear: string | null } {
  try {
    return { query: parseQuery(text), unclear: null };
  } catch (error) {
    if (error instanceof ArchiveError) return { query: EVERYTHING, unclear: error.message };
    throw error;
  }
}

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  depends('mindful:catalogue');
  const { db } = locals.house;
  const { query, unclear } = readQuery(url.searchParams.get('q') ?? '');
  const [index, first, nodes, picked, places, pattern] = await Promise.all([
    wallIndex(db, query),
    findTiles(db, query, 0, FIRST_TILES),
    holdings(db, EVERYTHING),
    collections(db),
    allPlaces(db),
    db
      .selectFrom('remembered')
      .select('value')
      .where('personId', '=', actorOf({ locals }).id)
      .where('key', '=', 'rename-pattern')
      .executeTakeFirst(),
  ]);
  return {
    query,
    unclear,
    index,
    first,
    nodes,
    collections: picked,
    here: Object.fromEntries(await placesHere(places)),
    pattern: (pattern?.value as { pattern?: string } | undefined)?.pattern,
  };
};
