import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { keepTrack, keptTracks } from '#server/positions/tracks';

export const GET = endpoint((event) => keptTracks(event.locals.house.db, actorOf(event).id));

const LONGEST = 30_000_000;
const schema = z.object({ name: z.string().max(500), text: z.string().max(LONGEST) });

/** A GPX file, read and kept. */
export const POST = endpoint({ body: schema, most: 2 * LONGEST }, async (event, { name, text }) => {
  return keepTrack(event.locals.house.db, actorOf(event).id, { name, text });
});
