import { z } from 'zod';
import { actorOf, body, checked, endpoint } from '#server/edge/edge';
import { fetchState, listPage, startFetching } from '#server/intake/sources/web';

const address = z.string().trim().min(1, 'an address is needed').max(4000);

/** List a page's pictures. */
export const POST = endpoint(async (event) => {
  const { address: wished } = await body(event, z.object({ address }));
  return listPage(event.locals.house, wished);
});

/** Fetch the chosen ones into a parcel. */
export const PUT = endpoint(async (event) => {
  const { title, addresses } = await body(
    event,
    z.object({
      title: z.string().trim().min(1).max(200),
      addresses: z.array(address).min(1, 'nothing is chosen').max(500),
    }),
  );
  return startFetching(event.locals.house, actorOf(event).id, title, addresses);
});

/** How far the fetching of a parcel is. */
export const GET = endpoint(({ locals, url }) =>
  fetchState(locals.house, checked(z.uuid(), url.searchParams.get('parcel'))),
);
