import { filedLast, lastUsed } from '#core/naming/wish';
import { columnsFrom } from '#core/register/columns';
import { result } from '#server/catalogue/reading';
import { collectionNames } from '#server/collections/collections';
import { actorOf, pageQueryOf } from '#server/edge/edge';
import { placesHere } from '#server/places/here';
import { allPlaces } from '#server/places/places';
import { labelsOf, resolve } from '#server/query/names';
import { rememberedOf } from '#server/people/remembered';
import type { PageServerLoad } from './$types';

const FIRST_TILES = 60;

export const load: PageServerLoad = async ({ locals, url, depends }) => {
  depends('mindful:catalogue');
  const { house } = locals;
  const { db } = house;
  const actor = actorOf({ locals });
  const asked = pageQueryOf(url);
  const { query, unknown } = await resolve(db, asked.query);
  const [found, collections, places, labels, remembered] = await Promise.all([
    result(house, actor, query, 0, FIRST_TILES),
    collectionNames(db, actor),
    allPlaces(db),
    labelsOf(db, query),
    rememberedOf(db, actor.id, ['rename-pattern', 'filing-plan', 'pins', 'recent', 'register']),
  ]);
  return {
    query,
    unclear: asked.unclear,
    unknown: unknown.map(({ field, label }) => `${field.of} “${label}”`),
    labels,
    result: found,
    collections,
    here: Object.fromEntries(await placesHere(house.db, places)),
    naming: lastUsed(remembered['rename-pattern']),
    filing: filedLast(remembered['filing-plan']),
    pins: (remembered['pins']?.['ids'] ?? []) as string[],
    columns: columnsFrom(remembered['register']?.['columns']),
    recent: (remembered['recent']?.['queries'] ?? []) as string[],
  };
};
