import { z } from 'zod';
import { actorOf, endpoint } from '#server/edge/edge';
import { fetchState, listPage, startFetching } from '#server/intake/sources/web';

const address = z.string().trim().min(1, 'an address is needed').max(4000);

/** List a page's pictures. */
export const POST = endpoint(
  { body: z.object({ address }) },
  async (event, { address: wished }) => {
    return listPage(event.locals.house, wished);
  },
);

/** Fetch the chosen ones into a parcel. */
export const PUT = endpoint(
  {
    body: z.object({
      title: z.string().trim().min(1).max(200),
      addresses: z.array(address).min(1, 'nothing is chosen').max(500),
    }),
  },
  async (event, { title, addresses }) => {
    return startFetching(event.locals.house, actorOf(event).id, title, addresses);
  },
);

/** How far the fetching of a parcel is. */
export const GET = endpoint({ query: z.object({ parcel: z.uuid() }) }, ({ locals }, { parcel }) =>
  fetchState(locals.house, parcel),
);
