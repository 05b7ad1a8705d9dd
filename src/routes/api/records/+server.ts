import { sql } from 'kysely';
import { z } from 'zod';
import { changeSchema } from '#core/records/fields';
import { summaryOf } from '#core/records/merge';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { changeRecords, readRecords } from '#server/records/records';
import type { RequestHandler } from './$types';

/** As many as one step takes in hand; more are refused in words. */
const MOST = 100_000;
const idsSchema = z
  .array(z.uuid())
  .min(1)
  .max(MOST, 'more than 100,000 items at once; narrow the choice and go step by step');

/** What is said of many items, and how large their originals are. */
export const POST: RequestHandler = endpoint(async (event) => {
  const { ids } = await body(event, z.object({ ids: idsSchema }));
  const { db } = event.locals.house;
  const [records, { bytes }] = await Promise.all([
    readRecords(db, ids),
    db
      .selectFrom('file')
      .select(sql<number>`coalesce(sum(size), 0)::bigint`.as('bytes'))
      .where('role', '=', 'original')
      .where('itemId', '=', sql<string>`any(${ids}::uuid[])`)
      .executeTakeFirstOrThrow(),
  ]);
  return { ...summaryOf(records), bytes };
});

/** Change the records of one or many items. */
export const PATCH: RequestHandler = endpoint(async (event) => {
  const { ids, change, versions } = await body(
    event,
    z.object({
      ids: idsSchema,
      change: changeSchema,
      versions: z.record(z.string(), z.number()).optional(),
    }),
  );
  const done = await changeRecords(event.locals.house.db, actorOf(event).id, ids, change, versions);
  return { changed: done?.changed ?? 0, operation: done?.operationId ?? null };
});
