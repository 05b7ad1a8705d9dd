import { z } from 'zod';
import { join } from 'node:path';
import { nameProblem } from '#core/naming/names';
import { ArchiveError } from '#core/errors';
import { can } from '#core/people/roles';
import { actorOf, endpoint } from '#server/edge/edge';
import { makeFolder } from '#server/files/disk';
import { addPlace, allPlaces } from '#server/places/places';

export const GET = endpoint(async (event) => {
  const places = await allPlaces(event.locals.house.db);
  const tellsRoots = can(actorOf(event).role, 'intake');
  return places.map(({ root, ...place }) => (tellsRoots ? { ...place, root } : place));
});

/** A new place of ours, a folder of the holdings. */
export const POST = endpoint(
  { body: z.object({ name: z.string().trim().min(1, 'a name is needed').max(120) }) },
  async (event, { name }) => {
    const { house } = event.locals;
    const problem = nameProblem(name);
    if (problem) throw new ArchiveError('name-refused', `“${name}”: ${problem}.`);
    const root = join(house.folders.holdings, name);
    await makeFolder(root);
    return addPlace(house, name, root);
  },
);
