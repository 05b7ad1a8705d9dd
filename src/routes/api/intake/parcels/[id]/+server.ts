import { z } from 'zod';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { ownParcel, readParcel } from '#server/uploads/parcels';
import { letGoOfParcel } from '#server/intake/report/waiting';

const idOf = ({ params }: { params: Record<string, string> }): string =>
  checked(z.uuid(), params['id']);

/** What has arrived whole. */
export const GET = endpoint(async (event) => {
  const { house } = event.locals;
  return readParcel(house, await ownParcel(house, actorOf(event), idOf(event)));
});

/** Throw it away with what has arrived. */
export const DELETE = endpoint(async (event) => {
  const { house } = event.locals;
  await letGoOfParcel(house, await ownParcel(house, actorOf(event), idOf(event)));
});
