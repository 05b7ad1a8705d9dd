import { z } from 'zod';
import { termSchema } from '#core/lists/schemas';
import { parseQuery } from '#core/query/grammar';
import { LONGEST_QUERY } from '#core/query/tree';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { counted } from '#core/text/quantities';
import { perform } from '#server/deeds/large';
import { dropTerm, itemsUnder, splitTerm, termCard } from '#server/lists/thesaurus';
import { resolve } from '#server/query/names';

export const GET = endpoint((event) =>
  termCard(event.locals.house, actorOf(event), checked(z.uuid(), event.params['id'])),
);

/** Change a term: records, files and words of its items follow. */
export const PATCH = endpoint(
  { body: z.object({ entry: termSchema, seen: termSchema.optional() }) },
  async (event, { entry, seen }) => {
    const own = checked(z.uuid(), event.params['id']);
    const { house } = event.locals;
    const done = await perform(
      house,
      actorOf(event).id,
      'term',
      { id: own, entry, ...(seen ? { seen } : {}) },
      { size: await itemsUnder(house.db, [own]), title: `Changing the term “${entry.label}”` },
    );
    return { ...done, items: done.changed };
  },
);

const actSchema = z.union([
  /** Merge it and others into another. */
  z.object({ into: z.uuid(), others: z.array(z.uuid()).max(500).default([]) }),
  /** Part a new term from it for what a query finds. */
  z.object({ split: z.string().trim().min(1).max(200), q: z.string().max(LONGEST_QUERY) }),
]);

export const POST = endpoint({ body: actSchema }, async (event, act) => {
  const own = checked(z.uuid(), event.params['id']);
  const { db } = event.locals.house;
  const actor = actorOf(event);
  if ('into' in act) {
    const from = [...new Set([own, ...act.others])];
    const done = await perform(
      event.locals.house,
      actor.id,
      'mergeTerms',
      { from, into: act.into },
      {
        size: await itemsUnder(db, [...from, act.into]),
        title: `Merging ${counted(from.length, 'term')} into another`,
      },
    );
    return { id: act.into, ...done, items: done.changed };
  }
  const { query } = await resolve(db, parseQuery(act.q));
  const { id, done } = await splitTerm(db, actor.id, own, { label: act.split, query }, actor);
  return { id, operation: done?.operationId ?? null, items: done?.items ?? 0 };
});

export const DELETE = endpoint(async (event) => {
  const own = checked(z.uuid(), event.params['id']);
  const done = await dropTerm(event.locals.house.db, actorOf(event).id, own);
  return { operation: done?.operationId ?? null };
});
