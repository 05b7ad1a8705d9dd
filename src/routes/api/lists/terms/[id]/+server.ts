import { z } from 'zod';
import { termSchema } from '#core/lists/schemas';
import { parseQuery } from '#core/query/grammar';
import { LONGEST_QUERY } from '#core/query/tree';
import { actorOf, body, checked, endpoint } from '#server/edge/edge';
import { dropTerm, mergeTerms, saveTerm, splitTerm, termCard } from '#server/lists/thesaurus';
import { resolve } from '#server/query/names';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint((event) =>
  termCard(event.locals.house, actorOf(event), checked(z.uuid(), event.params['id'])),
);

/** Change a term: records, files and words of its items follow. */
export const PATCH: RequestHandler = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const { entry, seen } = await body(
    event,
    z.object({ entry: termSchema, seen: termSchema.optional() }),
  );
  const { done } = await saveTerm(event.locals.house.db, actorOf(event).id, own, entry, seen);
  return { operation: done?.operationId ?? null, items: done?.items ?? 0 };
});

const actSchema = z.union([
  /** Merge it and others into another. */
  z.object({ into: z.uuid(), others: z.array(z.uuid()).max(500).default([]) }),
  /** Part a new term from it for what a query finds. */
  z.object({ split: z.string().trim().min(1).max(200), q: z.string().max(LONGEST_QUERY) }),
]);

export const POST: RequestHandler = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const act = await body(event, actSchema);
  const { db } = event.locals.house;
  const actor = actorOf(event);
  if ('into' in act) {
    const done = await mergeTerms(db, actor.id, [...new Set([own, ...act.others])], act.into);
    return { id: act.into, operation: done?.operationId ?? null, items: done?.items ?? 0 };
  }
  const { query } = await resolve(db, parseQuery(act.q));
  const { id, done } = await splitTerm(db, actor.id, own, { label: act.split, query }, actor);
  return { id, operation: done?.operationId ?? null, items: done?.items ?? 0 };
});

export const DELETE: RequestHandler = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const done = await dropTerm(event.locals.house.db, actorOf(event).id, own);
  return { operation: done?.operationId ?? null };
});
