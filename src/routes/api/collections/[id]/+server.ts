import { z } from 'zod';
import { parseQuery } from '#core/query/grammar';
import { LONGEST_QUERY } from '#core/query/tree';
import { resolve } from '#server/query/names';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import {
  editCollection,
  removeCollection,
  restoreCollection,
} from '#server/collections/collections';

const editSchema = z
  .object({
    name: z.string().trim().min(1, 'a name is needed').max(200),
    note: z.string().max(2000),
    /** Compact text of what a standing one finds. */
    query: z.string().max(LONGEST_QUERY),
  })
  .partial();

export const PATCH = endpoint({ body: editSchema }, async (event, values) => {
  const { db } = event.locals.house;
  const query =
    values.query === undefined ? undefined : (await resolve(db, parseQuery(values.query))).query;
  await editCollection(db, actorOf(event).id, checked(z.uuid(), event.params['id']), {
    ...(values.name === undefined ? {} : { name: values.name }),
    ...(values.note === undefined ? {} : { note: values.note }),
    ...(query === undefined ? {} : { query }),
  });
});

export const DELETE = endpoint((event) =>
  removeCollection(event.locals.house.db, actorOf(event), checked(z.uuid(), event.params['id'])),
);

/** Bring a collection back that was let go of. */
export const POST = endpoint(({ locals, params }) =>
  restoreCollection(locals.house.db, actorOf({ locals }).id, checked(z.uuid(), params['id'])),
);
