import { type Entry, type Intake } from '../plan/entries';
import { ArchiveError, sentenceOf } from '#core/errors';
import { planSchema } from '#core/intake/plan';
import { isAway, isNonsense } from '../../db/problems';
import { isDiskFull, isFolder } from '../../files/disk';
import { checkGround } from '../../files/grounds';
import type { House } from '../../house/house';
import { Stopped, type JobRow, type Progress } from '../../jobs/attempt';
import { isMounted } from '../../places/here';
import { checkPlace, placeById } from '../../places/places';

/** Files in hand at once: one reads while the other is synced. */
const AT_ONCE = 4;

export async function readIntake(house: House, job: JobRow): Promise<Intake> {
  const row = await house.db
    .selectFrom('accession')
    .selectAll()
    .where('id', '=', job.accessionId!)
    .executeTakeFirstOrThrow();
  const place = await placeById(house.db, row.placeId);
  // A plan of an older accession lacks what plans learned since.
  return { ...row, place, plan: planSchema.parse(row.plan), jobId: job.id };
}

/**
 * Look again before anything is read or written: what was open when the accession was made may be closed, away
 * or lead elsewhere now.
 * @throws ArchiveError source-away, outside-place
 */
export async function checkGrounds(house: House, intake: Intake): Promise<void> {
  await checkSource(intake);
  if (checkGround(house, intake.root) !== intake.root)
    throw new ArchiveError('outside-place', `“${intake.root}” is reached by a link now.`);
  checkPlace(house, intake.place);
  if (!(await isMounted(house.db, intake.place)))
    throw new ArchiveError(
      'source-away',
      `“${intake.place.name}” is away. Plug it in again, then go on; what is brought in stays.`,
    );
}

export async function setEntry(
  house: House,
  entry: Entry,
  values: Partial<Record<string, unknown>>,
): Promise<void> {
  await house.db.updateTable('accessionEntry').set(values).where('id', '=', entry.id).execute();
}

/** A source that is gone as a whole stops the work; it is no fault of the single file. */
async function checkSource(intake: Pick<Intake, 'root'>): Promise<void> {
  if (await isFolder(intake.root)) return;
  throw new ArchiveError(
    'source-away',
    'The source is away. Plug it in again, then go on; what is brought in stays.',
  );
}

/** What is no fault of one file: somebody's wish, no room, no database. */
function stopsAll(error: unknown): boolean {
  if (error instanceof Stopped || isDiskFull(error)) return true;
  return error instanceof ArchiveError ? error.code === 'source-away' : isAway(error);
}

/** Whatever one file does, it fails alone, and says why. */
function reasonOf(error: unknown): string {
  if (error instanceof ArchiveError) return error.message;
  return isNonsense(error)
    ? 'It says something of itself that cannot be kept: a number or a text out of all bounds.'
    : `Something unforeseen went wrong with it: ${sentenceOf(error).slice(0, 200)}`;
}

/** Run through entries, some at once; one that fails is noted with its reason and the rest goes on. */
export async function eachEntry(
  house: House,
  intake: Intake,
  entries: Entry[],
  progress: Progress,
  act: (entry: Entry) => Promise<void>,
): Promise<void> {
  let next = 0;
  let stopped: unknown = null;
  const failed = async (entry: Entry, error: unknown): Promise<void> => {
    if (stopsAll(error)) throw error;
    await checkSource(intake);
    entry.state = 'failed';
    if (!(error instanceof ArchiveError))
      house.log.error({ entry: entry.id, error: String(error) }, 'a file could not be brought in');
    await setEntry(house, entry, { state: 'failed', reason: reasonOf(error) });
  };
  const one = async (): Promise<void> => {
    while (next < entries.length && stopped === null) {
      const entry = entries[next]!;
      next += 1;
      try {
        await progress.checkWish();
        await act(entry).catch((error: unknown) => failed(entry, error));
      } catch (error) {
        stopped = error;
      }
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, one));
  if (stopped !== null) throw stopped;
}
