import { type Kysely, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { FIELDS, type FieldKey } from '#core/records/fields';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { wholly } from '../db/wholly';
import { presentStages } from '../stages/stages';
import { presentLabels } from '../terms/terms';
import { applySteps, differences, overlay, readRecords, type RecordStep } from './records';
import { lockRecords } from './store';

/** A value of an operation that was changed again since: to give it back would undo that too. */
export interface Standing {
  number: string;
  field: FieldKey;
}

const MOST_TOLD = 20;

/** @throws ArchiveError conflict naming what stands in the way */
export function refuseStanding(standing: Standing[], rest: number): never {
  const first = standing
    .slice(0, 3)
    .map(({ number, field }) => `${FIELDS[field].label.toLowerCase()} of ${number}`)
    .join(', ');
  throw new ArchiveError(
    'conflict',
    `${counted(standing.length, 'value')} ${standing.length === 1 ? 'was' : 'were'} changed again since: ${first}${standing.length > 3 ? ' …' : ''}. ${
      rest > 0 ? 'The rest can be given back.' : 'Undo the later change first.'
    }`,
    { standing: standing.slice(0, MOST_TOLD), rest },
  );
}

/** A step of the ledger that changed a record. */
interface ToldStep {
  itemId: string | null;
  before: Record<string, unknown>;
  after: Record<string, unknown>;
}

/** Terms and stages that are called otherwise by now, under their present names. */
async function underPresentNames(db: Transaction<Database>, rows: ToldStep[]): Promise<ToldStep[]> {
  const all = rows.flatMap(({ before, after }) => [before, after]);
  const labels = all.flatMap(({ terms }) => (terms ?? []) as string[]);
  const names = all.flatMap(({ stage }) => (stage ? [stage as string] : []));
  const terms = await presentLabels(db, [...new Set(labels)]);
  const stages = await presentStages(db, [...new Set(names)]);
  const now = (values: Record<string, unknown>): Record<string, unknown> => ({
    ...values,
    ...(values['terms']
      ? {
          terms: [
            ...new Set((values['terms'] as string[]).map((one) => terms.get(one) ?? one)),
          ].sort(),
        }
      : {}),
    ...(values['stage'] ? { stage: stages.get(values['stage'] as string) ?? values['stage'] } : {}),
  });
  return rows.map(({ itemId, before, after }) => ({
    itemId,
    before: now(before),
    after: now(after),
  }));
}

/** What gives records back what they said before some steps, and what was changed again since. */
export async function backSteps(
  db: Transaction<Database>,
  rows: ToldStep[],
): Promise<{ steps: RecordStep[]; standing: Standing[] }> {
  const ids = rows.flatMap((row) => row.itemId ?? []);
  await lockRecords(db, ids);
  const byId = new Map((await readRecords(db, ids)).map((record) => [record.id, record]));
  const standing: Standing[] = [];
  const steps = rows.flatMap((row): RecordStep[] => {
    const record = byId.get(row.itemId!);
    if (!record) return [];
    const { values, number } = record;
    const wrote = overlay(values, row.after);
    const touched = new Set(differences(values, wrote));
    const wished = differences(values, overlay(values, row.before));
    for (const field of wished) if (touched.has(field)) standing.push({ number, field });
    const keys = wished.filter((key) => !touched.has(key));
    const before = Object.fromEntries(keys.map((key) => [key, row.before[key]]));
    const after = overlay(values, before);
    return keys.length > 0 ? [{ itemId: row.itemId!, before: values, after, keys }] : [];
  });
  return { steps, standing };
}

export const doneSteps = (db: Transaction<Database>, operationId: string) =>
  db
    .selectFrom('operationStep')
    .select(['action', 'itemId', 'before', 'after'])
    .where('operationId', '=', operationId)
    .where('state', '=', 'done')
    .orderBy('position')
    .execute();

/**
 * Records as they were before an operation.
 * @param hidden items whoever takes it back may not see: they stay as they are
 * @throws ArchiveError conflict where others changed them again, or some are hidden and it is not to be done in part
 */
export async function undoRecords(
  db: Kysely<Database>,
  actorId: string | null,
  operationId: string,
  { partly, hidden = new Set() }: { partly: boolean; hidden?: ReadonlySet<string> },
): Promise<string> {
  return wholly(db, async (transaction) => {
    const all = await doneSteps(transaction, operationId);
    const rows = all.filter(({ itemId }) => !itemId || !hidden.has(itemId));
    if (rows.length < all.length && (rows.length === 0 || !partly))
      throw new ArchiveError(
        'conflict',
        `${counted(all.length - rows.length, 'item')} of this ${all.length - rows.length === 1 ? 'is' : 'are'} not yours to see by now. ${
          rows.length > 0 ? 'The rest can be given back.' : 'A keeper can undo it.'
        }`,
        { rest: rows.length },
      );
    const { steps, standing } = await backSteps(
      transaction,
      await underPresentNames(transaction, rows),
    );
    if (standing.length > 0 && (steps.length === 0 || !partly))
      refuseStanding(standing, steps.length);
    if (steps.length === 0)
      throw new ArchiveError('conflict', 'These records hold their former values already.');
    return (await applySteps(transaction, actorId, steps, operationId)).operationId;
  });
}
