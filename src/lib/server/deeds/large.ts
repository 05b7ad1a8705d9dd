import type { Changed, ChangeAnswer } from '#core/deeds/answer';
import { ArchiveError, type ErrorCode, sentenceOf } from '#core/errors';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow, Progress } from '../jobs/attempt';
import { enqueue } from '../jobs/queue';
import { reporting } from '../jobs/reporting';
import { VERBS, type VerbName, type WishOf } from './verbs';

/** A change of more items than this is a job's: the process that answers everybody does not work at it. */
export const LARGE = 400;
/** ms; who asked for a large change waits so long for it, then it goes on under Underway. */
const PATIENCE_MS = 4000;
const LOOK_EVERY_MS = 80;

/** What came of a wish, as it is kept. */
type Outcome =
  | { done: Changed }
  | { refused: { code: ErrorCode; sentence: string; data: Record<string, unknown> } };

/** Do something whose wish was checked when it was taken in. */
async function run<V extends VerbName>(
  house: Pick<House, 'db'>,
  actorId: string | null,
  name: V,
  wish: WishOf<V>,
): Promise<Changed> {
  const { wish: schema, run: act } = VERBS[name];
  return house.db
    .transaction()
    .execute((transaction) => act(transaction, actorId, schema.parse(wish) as never));
}

/**
 * Change something: at once, or where it is large by a job whose end is waited for a little.
 * @param size items that it touches
 * @param title what it is called under Underway
 * @throws ArchiveError whatever the change itself refuses
 */
export async function perform<V extends VerbName>(
  house: House,
  actorId: string | null,
  name: V,
  wish: WishOf<V>,
  {
    size,
    title,
    patience = PATIENCE_MS,
  }: { size: number; title: string; /** ms to wait for a job */ patience?: number },
): Promise<ChangeAnswer> {
  if (size <= LARGE) return { ...(await run(house, actorId, name, wish)), underway: false };
  const [jobId] = await house.db.transaction().execute(async (transaction) => {
    const ids = await enqueue(transaction, [
      {
        task: 'deed',
        title,
        subject: newId(),
        createdBy: actorId,
        total: size,
        unit: 'items',
      },
    ]);
    await transaction
      .insertInto('deedWish')
      .values({ jobId: ids[0]!, verb: name, wish: JSON.stringify(wish) })
      .execute();
    return ids;
  });
  for (const until = Date.now() + patience; Date.now() < until;) {
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    const row = await house.db
      .selectFrom('deedWish')
      .select('outcome')
      .where('jobId', '=', jobId!)
      .executeTakeFirst();
    const outcome = row?.outcome as Outcome | null | undefined;
    if (!outcome) continue;
    if ('refused' in outcome) {
      const { code, sentence, data } = outcome.refused;
      throw new ArchiveError(code, sentence, data);
    }
    return { ...outcome.done, underway: false };
  }
  return { operation: null, changed: size, underway: true };
}

/** Job: a large change, all of it in one transaction: stopped or cut off, nothing is changed; done, it is done once. */
export async function runDeed({ db }: House, job: JobRow, progress: Progress): Promise<void> {
  const row = await db
    .selectFrom('deedWish')
    .select(['verb', 'wish', 'outcome'])
    .where('jobId', '=', job.id)
    .executeTakeFirst();
  // What was refused may be tried again; what was done is done.
  if (row?.outcome && 'done' in row.outcome) return;
  if (!row || !Object.hasOwn(VERBS, row.verb))
    throw new ArchiveError('not-found', 'What was wished is not known any more; wish it anew.');
  const { wish: schema, run: act } = VERBS[row.verb as VerbName];
  const settle = (to: typeof db, outcome: Outcome) =>
    to
      .updateTable('deedWish')
      .set({ outcome: JSON.stringify(outcome) })
      .where('jobId', '=', job.id)
      .execute();
  try {
    await db.transaction().execute(async (transaction) => {
      const done = await reporting(progress, () =>
        act(transaction, job.createdBy, schema.parse(row.wish) as never),
      );
      await settle(transaction, { done });
    });
  } catch (error) {
    if (error instanceof ArchiveError) {
      const { code, data } = error;
      await settle(db, { refused: { code, data, sentence: sentenceOf(error) } });
    }
    throw error;
  }
}
