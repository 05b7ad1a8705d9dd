import { page } from '#server/edge/edge';
import { enterRoom } from '#server/rooms/guest';
import { roomItems } from '#server/rooms/rooms';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = (event) =>
  page(async () => {
    const { room, visitId } = await enterRoom(event);
    const { title, greeting, expiresAt } = room;
    return {
      title,
      greeting,
      expiresAt,
      items: await roomItems(event.locals.house.db, room, visitId),
    };
  });
