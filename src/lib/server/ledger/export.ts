import { stringify } from 'csv-stringify/sync';
import { sql, type Kysely } from 'kysely';
import { z } from 'zod';
import { DEED_NAMES } from '#core/deeds/kinds';
import { stepWords } from '#core/ledger/told';
import { harmless } from '#core/text/cells';
import type { Database } from '../db/schema';
import { TOLD_SIDES, wished, type LedgerWish } from './ledger';

type Db = Kysely<Database>;

/** Which lines are asked for, as addresses and commands say it. */
export const ledgerWishSchema = z.object({
  who: z.union([z.uuid(), z.literal('none')]).optional(),
  kind: z.enum(DEED_NAMES).optional(),
  from: z.iso.date().optional(),
  to: z.iso.date().optional(),
  about: z.string().trim().max(200).optional(),
});

const HEAD = [
  ...['When', 'Who', 'Change', 'Kind', 'State', 'Takes back', 'Operation'],
  ...['Item', 'Before', 'After', 'Step', 'Reason'],
];
const OPERATIONS = 100;
const STEPS = 1000;

const csv = (rows: unknown[][]): string =>
  stringify(
    rows.map((row) => row.map((cell) => harmless(String(cell ?? '')))),
    { record_delimiter: '\r\n' },
  );

/** Operations one stretch older than another, the newest first. */
const olderThan = (db: Db, wish: LedgerWish, last: { at: string; id: string } | null) =>
  db
    .selectFrom('operation as o')
    .leftJoin('person as a', 'a.id', 'o.actorId')
    .select(['o.id', 'o.kind', 'o.summary', 'o.state', 'o.createdAt', 'o.undoes', 'a.name'])
    .select(sql<string>`o.created_at::text`.as('at'))
    .where(wished(wish))
    .$if(last !== null, (query) =>
      query.where(
        sql<boolean>`(o.created_at, o.id) < (${last?.at}::timestamptz, ${last?.id}::uuid)`,
      ),
    )
    .orderBy('o.createdAt', 'desc')
    .orderBy('o.id', 'desc')
    .limit(OPERATIONS)
    .execute();

/**
 * The ledger as CSV (RFC 4180), a line for every step with what was before and after, a stretch at a time: however long
 * it is, little of it is held.
 */
export async function* ledgerCsv(db: Db, wish: LedgerWish): AsyncGenerator<string> {
  yield csv([HEAD]);
  let last: { at: string; id: string } | null = null;
  for (;;) {
    const operations = await olderThan(db, wish, last);
    for (const one of operations) {
      last = { at: one.at, id: one.id };
      const common = [
        ...[one.createdAt.toISOString(), one.name ?? 'the command line', one.summary, one.kind],
        ...[one.state, one.undoes, one.id],
      ];
      for (let from = -1; ;) {
        const steps = await db
          .selectFrom('operationStep as s')
          .leftJoin('item as i', 'i.id', 's.itemId')
          .select(['s.position', 's.state', 's.reason', 'i.number'])
          .select(TOLD_SIDES)
          .where('s.operationId', '=', one.id)
          .where('s.position', '>', from)
          .orderBy('s.position')
          .limit(STEPS)
          .execute();
        yield csv(
          steps.map(({ number, before, after, state, reason }) => {
            const told = stepWords(before, after);
            return [...common, number, told.before, told.after, state, reason];
          }),
        );
        if (steps.length < STEPS) break;
        from = steps.at(-1)!.position;
      }
    }
    if (operations.length < OPERATIONS) return;
  }
}
