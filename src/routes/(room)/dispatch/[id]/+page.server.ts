import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { tilesOf } from '#server/catalogue/find';
import { actorOf, page } from '#server/edge/edge';
import { picksOf, rooms } from '#server/rooms/rooms';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, params, depends }) =>
  page(async () => {
    depends('mindful:rooms');
    const { db } = locals.house;
    const room = z.uuid().safeParse(params.id).success
      ? (await rooms(db)).find(({ id }) => id === params.id)
      : undefined;
    if (!room) throw new ArchiveError('not-found', 'There is no such reading room.');
    const picks = await picksOf(db, room.id);
    const tiles = await tilesOf(
      db,
      actorOf({ locals }),
      picks.map(({ itemId }) => itemId),
    );
    return {
      room,
      picks: tiles.map((tile) => ({
        tile,
        guests: picks.find(({ itemId }) => itemId === tile.id)!.guests,
      })),
    };
  });
