import type { Transaction } from 'kysely';
import { z } from 'zod';
import type { Changed } from '#core/deeds/answer';
import { termSchema } from '#core/lists/schemas';
import { positionWishSchema, namingSchema } from '#core/positions/wish';
import { dateWishSchema } from '#core/records/dates';
import { FIELD_KEYS, type FieldKey, type RecordValues } from '#core/records/fields';
import { changeSchema, VALUES } from '#core/records/schemas';
import type { Database } from '../db/schema';
import { mergeTerms, saveTerm } from '../lists/thesaurus';
import { setPositions } from '../positions/positions';
import { layColumn } from '../records/column';
import { setDates } from '../records/dates';
import { changeRecords } from '../records/records';
import { asSeen } from '../sight/seen';
import { undo } from './undo';

type Tx = Transaction<Database>;

/** A change that may be too large for somebody to wait for: what is wished as plain data, and what does it. */
interface Verb<S extends z.ZodType> {
  wish: S;
  run: (db: Tx, actorId: string | null, wish: z.output<S>) => Promise<Changed>;
}
const verb = <S extends z.ZodType>(wish: S, run: Verb<S>['run']): Verb<S> => ({ wish, run });

/** Ids that were seen when it was wished. */
const seen = z.array(z.uuid()).transform(asSeen);
const told = (done: { operationId: string; changed?: number; items?: number } | null): Changed => ({
  operation: done?.operationId ?? null,
  changed: done?.changed ?? done?.items ?? 0,
});

export const VERBS = {
  describe: verb(
    z.object({
      ids: seen,
      change: changeSchema,
      versions: z.record(z.string(), z.number()),
      base: z.object(VALUES).partial().optional(),
    }),
    async (db, actorId, { ids, change, versions, base }) =>
      told(
        await changeRecords(db, actorId, ids, change, {
          versions,
          base: base as Partial<RecordValues> | undefined,
        }),
      ),
  ),
  column: verb(
    z.object({
      ids: seen,
      field: z.enum(FIELD_KEYS as [FieldKey, ...FieldKey[]]),
      cells: z.array(z.string()),
      fingerprint: z.string(),
    }),
    async (db, actorId, { ids, field, cells, fingerprint }) =>
      told(await layColumn(db, actorId, ids, field, cells, fingerprint)),
  ),
  dates: verb(
    z.object({ ids: seen, wish: dateWishSchema, fingerprint: z.string() }),
    async (db, actorId, { ids, wish, fingerprint }) =>
      told(await setDates(db, actorId, ids, wish, fingerprint)),
  ),
  positions: verb(
    z.object({
      ids: seen,
      wish: positionWishSchema,
      naming: namingSchema,
      fingerprint: z.string(),
    }),
    async (db, actorId, { ids, ...wished }) => told(await setPositions(db, actorId, ids, wished)),
  ),
  term: verb(
    z.object({ id: z.uuid(), entry: termSchema, seen: termSchema.optional() }),
    async (db, actorId, { id, entry, seen: saw }) =>
      told((await saveTerm(db, actorId, id, entry, saw)).done),
  ),
  mergeTerms: verb(
    z.object({ from: z.array(z.uuid()), into: z.uuid() }),
    async (db, actorId, { from, into }) => told(await mergeTerms(db, actorId, from, into)),
  ),
  undo: verb(
    z.object({ operation: z.uuid(), partly: z.boolean() }),
    async (db, actorId, { operation, partly }) => ({
      operation: await undo(db, actorId, operation, partly),
      changed: 0,
    }),
  ),
};
export type VerbName = keyof typeof VERBS;
export type WishOf<V extends VerbName> = z.input<(typeof VERBS)[V]['wish']>;
