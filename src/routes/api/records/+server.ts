import { sql } from 'kysely';
import { z } from 'zod';
import { pickedSchema } from '#core/query/picked';
import { type RecordValues } from '#core/records/fields';
import { changeSchema, VALUES } from '#core/records/schemas';
import { summaryOf } from '#core/records/merge';
import { idsOfPicked } from '#server/catalogue/picked';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { changeRecords, readRecords } from '#server/records/records';
import type { RequestHandler } from './$types';

/** What is said of many items, and how large their originals are. */
export const POST: RequestHandler = endpoint(async (event) => {
  const picked = (await body(event, z.object({ ids: pickedSchema }))).ids;
  const ids = await idsOfPicked(event.locals.house, actorOf(event), picked);
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
  const {
    ids: picked,
    change,
    versions,
    base,
  } = await body(
    event,
    z.object({
      ids: pickedSchema,
      change: changeSchema,
      versions: z.record(z.string(), z.number()).default({}),
      base: z.object(VALUES).partial().optional(),
    }),
  );
  const ids = await idsOfPicked(event.locals.house, actorOf(event), picked);
  const seen = { versions, base: base as Partial<RecordValues> | undefined };
  const done = await changeRecords(event.locals.house.db, actorOf(event).id, ids, change, seen);
  return { changed: done?.changed ?? 0, operation: done?.operationId ?? null };
});
