import { ArchiveError, sentenceOf } from '#core/errors';
import { pairSidecars } from '#core/intake/sidecars';
import { isClutter } from '#core/kinds/kinds';
import { factsOf, namesIn, removeFile, temporaryName } from '../../files/disk';
import type { FileFacts } from '#core/intake/facts';
import { isStill } from '../../files/seen';
import { joinPath, realInside, splitPath } from '../../files/paths';
import type { House } from '../../house/house';
import { burstsOf } from '../../bursts/ask';
import { enqueue, requeue } from '../../jobs/queue';
import type { JobRow, Progress } from '../../jobs/attempt';
import { checkGrounds, eachEntry, readIntake, setEntry } from './entries';
import { ENTRY, type Entry, type Intake } from '../plan/entries';
import { readFacts } from '../../metadata/facts';
import { writeManifest } from './manifest';
import { nameAll } from '../plan/naming';
import { keep, place } from './placing';
import { describedPath } from './planned';
import { makeSecondCopy } from './second';
import { releaseSource } from './release';

/** The sidecars of a source's files by their folder; each folder is read once in a run. */
function sidecarsIn(intake: Intake): (path: string) => Promise<string | null> {
  const folders = new Map<string, Promise<Map<string, string>>>();
  return async (path) => {
    const { folder, name } = splitPath(path);
    const at = joinPath(intake.root, folder);
    let pairs = folders.get(folder);
    if (!pairs)
      folders.set(
        folder,
        (pairs = namesIn(at).then((names) => pairSidecars(names.filter(isOpen)).sidecarOf)),
      );
    const sidecar = (await pairs).get(name);
    if (!sidecar) return null;
    const full = joinPath(at, sidecar);
    return (await factsOf(full))?.isFile() ? full : null;
  };
}
const isOpen = (name: string): boolean => !isClutter(name);

/** What a look at the source read of a file, as long as it still is that file; a sidecar was not read then. */
async function lookedAt(
  { looked }: Entry,
  path: string,
  sidecar: string | null,
): Promise<FileFacts | null> {
  if (!looked || sidecar) return null;
  const now = await factsOf(path);
  return now && isStill(now, looked.seen) ? looked.facts : null;
}

/** Read what every file says, before anything is named or copied. */
async function readOne(
  house: House,
  intake: Intake,
  entry: Entry,
  sidecarOf: (path: string) => Promise<string | null>,
): Promise<void> {
  const path = joinPath(intake.root, entry.sourcePath);
  await realInside(path, intake.root);
  const sidecar = await sidecarOf(entry.sourcePath);
  entry.facts = (await lookedAt(entry, path, sidecar)) ?? (await readFacts(path, sidecar));
  await setEntry(house, entry, { facts: JSON.stringify(entry.facts) });
}

/** Everything that is done for one file, each step safe to repeat. */
async function bringIn(house: House, intake: Intake, entry: Entry): Promise<void> {
  if (entry.state === 'planned' || entry.state === 'placing')
    await (intake.mode === 'in-place' ? keep(house, intake, entry) : place(house, intake, entry));
  await makeSecondCopy(house, intake, entry);
  await releaseSource(house, intake, entry);
}

/** After a cancel: what is whole stays, what is partial vanishes. */
async function clearPartial(house: House, intake: Intake): Promise<void> {
  const open = await house.db
    .selectFrom('accessionEntry')
    .select(['id', 'folder'])
    .where('accessionId', '=', intake.id)
    .where('state', 'in', ['planned', 'placing'])
    .execute();
  for (const entry of open)
    if (entry.folder !== null) {
      const folder = joinPath(intake.place.root, entry.folder);
      await removeFile(joinPath(folder, temporaryName(entry.id)));
      await removeFile(describedPath(folder, entry));
    }
}

const openEntries = (house: House, accessionId: string) =>
  house.db
    .selectFrom('accessionEntry')
    .select(ENTRY)
    .where('accessionId', '=', accessionId)
    .where((where) =>
      where.or([
        where('state', 'in', ['planned', 'placing']),
        where('sourceState', '=', 'due'),
        where('secondState', '=', 'due'),
      ]),
    )
    .orderBy('position')
    .execute() as Promise<Entry[]>;

/** Job: bring an accession in. Killed at any moment and run again, it goes on where it stopped. */
export async function runIntake(house: House, job: JobRow, progress: Progress): Promise<void> {
  const intake = await readIntake(house, job);
  const setState = (
    state: 'running' | 'paused' | 'done' | 'cancelled',
    over: Record<string, unknown> = {},
  ) =>
    house.db
      .updateTable('accession')
      .set({ state, reason: null, ...over })
      .where('id', '=', intake.id)
      .execute();
  await setState('running', { startedAt: job.startedAt ?? house.now() });
  const entries = await openEntries(house, intake.id);
  // Each file counts twice, once read and once placed, so that the ring moves all the way.
  const total = job.total;
  let steps = 2 * (total - entries.length) + entries.filter((entry) => entry.facts !== null).length;
  const report = async (): Promise<void> => {
    steps += 1;
    await progress.report(Math.min(total, Math.floor(steps / 2)), total, 'files');
  };
  try {
    await checkGrounds(house, intake);
    const sidecarOf = sidecarsIn(intake);
    const unread = entries.filter((entry) => entry.facts === null);
    await eachEntry(house, intake, unread, progress, async (entry) => {
      await readOne(house, intake, entry, sidecarOf);
      await report();
    });
    if (intake.mode !== 'in-place') await nameAll(house, intake, entries);
    const ready = entries.filter((entry) => entry.facts !== null && entry.state !== 'failed');
    await eachEntry(house, intake, ready, progress, async (entry) => {
      await bringIn(house, intake, entry);
      await report();
    });
    await writeManifest(house, intake);
    await setState('done', { finishedAt: house.now() });
    await enqueue(house.db, [burstsOf(intake.id)]);
  } catch (error) {
    const wish = await house.db
      .selectFrom('job')
      .select('wish')
      .where('id', '=', job.id)
      .executeTakeFirst();
    if (wish?.wish === 'cancel') {
      await clearPartial(house, intake);
      await writeManifest(house, intake);
      await setState('cancelled', { finishedAt: house.now() });
    } else if (wish?.wish === 'pause') await setState('paused');
    else {
      await setState('paused', { reason: sentenceOf(error) });
      house.log.warn({ accession: intake.id, error: sentenceOf(error) }, 'intake stopped');
    }
    throw error;
  }
}

/** Try the files that failed once more, and the second copies. @throws ArchiveError not-found */
export async function retryFailed(house: House, accessionId: string): Promise<void> {
  const job = await house.db
    .selectFrom('job')
    .select('id')
    .where('accessionId', '=', accessionId)
    .where('task', '=', 'intake')
    .executeTakeFirst();
  if (!job) throw new ArchiveError('not-found', 'This accession has no work to go on with.');
  await house.db.transaction().execute(async (db) => {
    const failed = db.updateTable('accessionEntry').where('accessionId', '=', accessionId);
    await failed.set({ state: 'planned', reason: null }).where('state', '=', 'failed').execute();
    await failed
      .set({ secondState: 'due', secondReason: null })
      .where('secondState', '=', 'failed')
      .execute();
    await failed
      .set({ sourceState: 'due', sourceReason: null })
      .where('sourceState', '=', 'refused')
      .execute();
    await db
      .updateTable('job')
      .set({ state: 'failed' })
      .where('id', '=', job.id)
      .where('state', '=', 'done')
      .execute();
    await requeue(db, job.id);
  });
}
