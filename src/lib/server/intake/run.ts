import type { Transaction } from 'kysely';
import { ArchiveError, sentenceOf } from '#core/errors';
import { formatNumber } from '#core/catalogue/number';
import { planTargets } from '#core/intake/plan';
import { apartFrom, nameKey } from '#core/naming/pattern';
import { parseWallClock, precisionOf } from '#core/records/taken';
import { FIELD_KEYS } from '#core/records/fields';
import type { Database, FileFacts, Plan } from '../db/schema';
import {
  copyVerified,
  factsOf,
  makeFolder,
  moveWithoutReplacing,
  namesIn,
  removeFile,
  syncFolder,
  temporaryName,
} from '../files/disk';
import { hashEssence, hashFile } from '../files/hash';
import { isInside, joinPath, realInside, splitPath } from '../files/paths';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import { enqueue, requeue } from '../jobs/queue';
import type { JobRow, Progress } from '../jobs/run';
import { notify } from '../live/notify';
import { ensureFolder, pathOf, placeById, type Place } from '../places/places';
import {
  applyChange,
  differences,
  enqueueWrites,
  ensureTerms,
  refreshWords,
  storeValues,
} from '../records/records';
import { readFacts } from './facts';
import { heldItems } from './held';

/** Files in hand at once: one reads while the other is synced. */
const AT_ONCE = 4;

interface Intake {
  id: string;
  year: number;
  number: number;
  root: string;
  mode: 'in-place' | 'copy' | 'move';
  place: Place;
  plan: Plan;
  createdBy: string | null;
  jobId: string;
}

interface Entry {
  id: string;
  position: number;
  sourcePath: string;
  size: number;
  state: string;
  folder: string | null;
  name: string | null;
  contentHash: string | null;
  facts: FileFacts | null;
}

const ENTRY = [
  'id',
  'position',
  'sourcePath',
  'size',
  'state',
  'folder',
  'name',
  'contentHash',
  'facts',
] as const;

async function readIntake(house: House, job: JobRow): Promise<Intake> {
  const row = await house.db
    .selectFrom('accession')
    .selectAll()
    .where('id', '=', job.accessionId!)
    .executeTakeFirstOrThrow();
  const place = await placeById(house.db, row.placeId);
  return { ...row, place, jobId: job.id };
}

async function setEntry(
  house: House,
  entry: Entry,
  values: Partial<Record<string, unknown>>,
): Promise<void> {
  await house.db.updateTable('accessionEntry').set(values).where('id', '=', entry.id).execute();
}

/** Run through entries, some at once; one that fails is noted with its reason and the rest goes on. */
async function eachEntry(
  house: House,
  entries: Entry[],
  progress: Progress,
  act: (entry: Entry) => Promise<void>,
): Promise<void> {
  let next = 0;
  let stopped: unknown = null;
  const one = async (): Promise<void> => {
    while (next < entries.length && stopped === null) {
      const entry = entries[next]!;
      next += 1;
      try {
        await progress.checkWish();
      } catch (error) {
        stopped = error;
        return;
      }
      try {
        await act(entry);
      } catch (error) {
        if (error instanceof ArchiveError)
          await setEntry(house, entry, { state: 'failed', reason: error.message });
        else {
          stopped = error;
          return;
        }
      }
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, one));
  if (stopped !== null) throw stopped;
}

const sidecarsOf = (path: string): string[] => [
  `${path}.xmp`,
  `${path.replace(/\.[^./]+$/, '')}.xmp`,
];

/** Read what every file says, before anything is named or copied. */
async function readAll(
  house: House,
  intake: Intake,
  entries: Entry[],
  progress: Progress,
  report: () => Promise<void>,
): Promise<void> {
  const unread = entries.filter((entry) => entry.facts === null);
  await eachEntry(house, unread, progress, async (entry) => {
    const path = joinPath(intake.root, entry.sourcePath);
    await realInside(path, intake.root);
    let sidecar: string | null = null;
    for (const candidate of sidecarsOf(path))
      sidecar ??= (await factsOf(candidate)) ? candidate : null;
    entry.facts = await readFacts(path, sidecar);
    await setEntry(house, entry, { facts: JSON.stringify(entry.facts) });
    await report();
  });
}

/** Give every entry its folder and name, once, in order: counters must not depend on when a kill came. */
async function nameAll(house: House, intake: Intake, entries: Entry[]): Promise<void> {
  const ready = entries.filter((entry) => entry.facts !== null);
  if (ready.length === 0 || ready.every((entry) => entry.name !== null)) return;
  const subjects = ready.map((entry) => {
    const { record, technical } = entry.facts!;
    const { name } = splitPath(entry.sourcePath);
    return {
      name,
      original: name,
      taken: record.taken ? parseWallClock(record.taken.from) : null,
      precision: record.taken ? precisionOf(record.taken) : ('span' as const),
      camera: technical.camera ?? '',
      creator: record.creator[0] ?? '',
      title: record.title,
      number: '',
      folder: '',
    };
  });
  const held = new Map<string, Set<string>>();
  for (const { folder } of planTargets(intake.plan, subjects, () => new Set()))
    if (!held.has(folder))
      held.set(folder, new Set((await namesIn(joinPath(intake.place.root, folder))).map(nameKey)));
  const targets = planTargets(intake.plan, subjects, (folder) => held.get(folder) ?? new Set());
  await house.db.transaction().execute(async (db) => {
    for (const [index, entry] of ready.entries()) {
      const target = targets[index]!;
      if (target.problem) {
        entry.state = 'failed';
        await db
          .updateTable('accessionEntry')
          .set({ state: 'failed', reason: `“${target.name}”: ${target.problem}.` })
          .where('id', '=', entry.id)
          .execute();
      } else {
        entry.folder = target.folder;
        entry.name = target.name;
        await db
          .updateTable('accessionEntry')
          .set({ folder: target.folder, name: target.name })
          .where('id', '=', entry.id)
          .execute();
      }
    }
  });
}

/** Held by another accession already: left out. */
async function skipIfHeld(
  house: House,
  intake: Intake,
  entry: Entry,
  hash: string,
): Promise<boolean> {
  const held = (await heldItems(house.db, [hash], intake.id)).get(hash);
  if (!held) return false;
  await setEntry(house, entry, {
    state: 'skipped',
    reason: `already held as ${held.number}`,
    contentHash: hash,
  });
  return true;
}

/** Copy under a name of ours, verified; then put in place under the final name, never over another file. */
async function place(house: House, intake: Intake, entry: Entry): Promise<void> {
  const folder = joinPath(intake.place.root, entry.folder!);
  const source = joinPath(intake.root, entry.sourcePath);
  const temporary = joinPath(folder, temporaryName(entry.id));
  if (entry.state === 'placing') {
    if (await factsOf(temporary)) return finishPlacing(house, intake, entry, temporary);
    const final = joinPath(folder, entry.name!);
    if ((await factsOf(final)) && (await hashFile(final)) === entry.contentHash)
      return catalogue(house, intake, entry);
    await setEntry(house, entry, { state: 'planned' });
  }
  await realInside(source, intake.root);
  await makeFolder(folder);
  await realInside(folder, intake.place.root);
  try {
    const hash = await copyVerified(source, temporary);
    entry.contentHash = hash;
    if (await skipIfHeld(house, intake, entry, hash)) return await removeFile(temporary);
    await setEntry(house, entry, { state: 'placing', contentHash: hash });
    entry.state = 'placing';
  } catch (error) {
    await removeFile(temporary).catch(() => undefined);
    throw error;
  }
  await finishPlacing(house, intake, entry, temporary);
}

async function finishPlacing(
  house: House,
  intake: Intake,
  entry: Entry,
  temporary: string,
): Promise<void> {
  const folder = joinPath(intake.place.root, entry.folder!);
  for (;;) {
    try {
      await moveWithoutReplacing(temporary, joinPath(folder, entry.name!));
      break;
    } catch (error) {
      if (!(error instanceof ArchiveError) || error.code !== 'conflict') throw error;
      // Somebody else took the name meanwhile: the next free one, noted before it is used.
      const names = new Set((await namesIn(folder)).map(nameKey));
      entry.name = apartFrom(entry.name!, (key) => names.has(key));
      await setEntry(house, entry, { name: entry.name });
    }
  }
  await syncFolder(folder);
  await catalogue(house, intake, entry);
}

/** Keep in place: the file lies where it lies; only its content is read. */
async function keep(house: House, intake: Intake, entry: Entry): Promise<void> {
  const path = joinPath(intake.root, entry.sourcePath);
  if (!isInside(path, intake.place.root))
    throw new ArchiveError('outside-place', `“${path}” is outside its place.`);
  await realInside(path, intake.place.root);
  const below = path.slice(intake.place.root.length + 1);
  const { folder, name } = splitPath(below);
  const known = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('item as i', 'i.id', 'f.itemId')
    .select('i.number')
    .where('f.placeId', '=', intake.place.id)
    .where('d.path', '=', folder)
    .where('f.name', '=', name)
    .executeTakeFirst();
  if (known)
    return setEntry(house, entry, {
      state: 'skipped',
      reason: `in the catalogue as ${known.number}`,
    });
  entry.contentHash = await hashFile(path);
  entry.folder = folder;
  entry.name = name;
  await setEntry(house, entry, { folder, name, contentHash: entry.contentHash });
  await catalogue(house, intake, entry);
}

/** A sidecar comes along under its file's new name. Safe to repeat. */
async function placeSidecar(
  intake: Intake,
  entry: Entry,
): Promise<{ name: string; path: string } | null> {
  const source = entry.facts!.sidecar;
  if (!source) return null;
  if (intake.mode === 'in-place') return { name: splitPath(source).name, path: source };
  const name = `${entry.name}.xmp`;
  const folder = joinPath(intake.place.root, entry.folder!);
  const temporary = joinPath(folder, temporaryName(`${entry.id}-xmp`));
  const path = joinPath(folder, name);
  await copyVerified(source, temporary);
  if (await factsOf(path)) await removeFile(temporary);
  else await moveWithoutReplacing(temporary, path);
  return { name, path };
}

async function fileValues(path: string, hash: string) {
  const facts = await factsOf(path);
  if (!facts) throw new ArchiveError('not-found', `“${path}” vanished while it was brought in.`);
  return {
    size: Number(facts.size),
    modifiedNs: facts.mtimeNs,
    inode: facts.ino,
    contentHash: hash,
    verifiedAt: new Date(),
  };
}

/** Item, file, record and the work that follows, in one transaction: it is there whole or not at all. */
async function catalogue(house: House, intake: Intake, entry: Entry): Promise<void> {
  const facts = entry.facts!;
  const path = pathOf(intake.place, entry.folder!, entry.name!);
  const values = await fileValues(path, entry.contentHash!);
  const essenceHash = await hashEssence(path, values.size, facts.mediaType);
  const sidecar = await placeSidecar(intake, entry);
  const sidecarValues = sidecar
    ? await fileValues(sidecar.path, await hashFile(sidecar.path))
    : null;
  const pictureKey = essenceHash
    ? `${essenceHash}-${facts.orientation}`
    : `${entry.contentHash}-${facts.orientation}`;
  await house.db.transaction().execute(async (db) => {
    const itemId = newId();
    const folderId = await ensureFolder(db, intake.place.id, entry.folder!);
    await insertItem(db, intake, entry, itemId);
    const common = { itemId, placeId: intake.place.id, folderId, writeProblem: null };
    await db
      .insertInto('file')
      .values({
        id: newId(),
        ...common,
        name: entry.name!,
        role: 'original',
        ...values,
        essenceHash,
        pictureKey,
      })
      .execute();
    // One sidecar may stand for two files of one stem; it belongs to the first.
    const claimed = sidecar
      ? await db
          .selectFrom('file')
          .select('id')
          .where('folderId', '=', folderId)
          .where('name', '=', sidecar.name)
          .executeTakeFirst()
      : undefined;
    if (sidecar && sidecarValues && !claimed)
      await db
        .insertInto('file')
        .values({
          id: newId(),
          ...common,
          name: sidecar.name,
          role: 'sidecar',
          ...sidecarValues,
          essenceHash: null,
          pictureKey: sidecarValues.contentHash,
        })
        .execute();
    await describe(db, intake, itemId, facts);
    await refreshWords(db, [itemId]);
    await db
      .updateTable('accessionEntry')
      .set({ state: 'done', itemId, name: entry.name })
      .where('id', '=', entry.id)
      .execute();
    await enqueue(db, [
      {
        task: 'pictures',
        title: 'Making pictures',
        subject: itemId,
        parentId: intake.jobId,
        itemId,
        createdBy: intake.createdBy,
      },
    ]);
    await notify(db, { about: 'items', ids: [itemId] });
  });
}

async function insertItem(
  db: Transaction<Database>,
  intake: Intake,
  entry: Entry,
  itemId: string,
): Promise<void> {
  const facts = entry.facts!;
  // Numbered by its place in the source, whatever order the work ends in: a kill must not change it.
  const number = formatNumber({
    year: intake.year,
    accession: intake.number,
    item: entry.position + 1,
  });
  await db
    .insertInto('item')
    .values({
      id: itemId,
      number,
      accessionId: intake.id,
      kind: facts.kind,
      mediaType: facts.mediaType,
      format: facts.format,
      originalName: splitPath(entry.sourcePath).name,
      version: 0,
      provenance: '{}',
      technical: JSON.stringify(facts.technical),
      camera: facts.technical.camera ?? '',
      latitude: facts.technical.latitude ?? null,
      longitude: facts.technical.longitude ?? null,
      width: facts.width,
      height: facts.height,
      duration: null,
      noPicture: null,
      words: null,
      stageId: null,
      takenEdtf: null,
      takenFrom: null,
      takenTo: null,
      takenOffset: null,
    })
    .execute();
}

/** The record as the file tells it, then what the plan adds; only the latter waits to be written. */
async function describe(
  db: Transaction<Database>,
  intake: Intake,
  itemId: string,
  facts: FileFacts,
): Promise<void> {
  const own = FIELD_KEYS.filter((key) => {
    const value = facts.record[key];
    return Array.isArray(value) ? value.length > 0 : Boolean(value);
  });
  const at = new Date();
  await storeValues(db, itemId, facts.record, own, { source: 'file', by: null, at });
  await ensureTerms(db, intake.plan.terms);
  const planned = applyChange(facts.record, { addTerms: intake.plan.terms });
  const added = differences(facts.record, planned);
  if (added.length === 0) return;
  await storeValues(db, itemId, planned, added, { source: 'intake', by: intake.createdBy, at });
  if (!intake.place.handsOff)
    await enqueueWrites(db, [itemId], {
      actorId: intake.createdBy,
      operationId: null,
      title: 'Writing records into files',
    });
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
    if (entry.folder !== null)
      await removeFile(joinPath(intake.place.root, entry.folder, temporaryName(entry.id)));
}

/** Job: bring an accession in. Killed at any moment and run again, it goes on where it stopped. */
export async function runIntake(house: House, job: JobRow, progress: Progress): Promise<void> {
  const intake = await readIntake(house, job);
  const setState = (state: 'running' | 'paused' | 'done' | 'cancelled') =>
    house.db
      .updateTable('accession')
      .set({ state, ...(state === 'done' ? { finishedAt: house.now() } : {}) })
      .where('id', '=', intake.id)
      .execute();
  await setState('running');
  const entries: Entry[] = await house.db
    .selectFrom('accessionEntry')
    .select(ENTRY)
    .where('accessionId', '=', intake.id)
    .where('state', 'in', ['planned', 'placing'])
    .orderBy('position')
    .execute();
  // Each file counts twice, once read and once placed, so that the ring moves all the way.
  const total = job.total;
  let steps = 2 * (total - entries.length) + entries.filter((entry) => entry.facts !== null).length;
  const report = async (): Promise<void> => {
    steps += 1;
    await progress.report(Math.min(total, Math.floor(steps / 2)), total, 'files');
  };
  try {
    await readAll(house, intake, entries, progress, report);
    if (intake.mode === 'copy') await nameAll(house, intake, entries);
    const ready = entries.filter((entry) => entry.facts !== null && entry.state !== 'failed');
    await eachEntry(house, ready, progress, async (entry) => {
      await (intake.mode === 'in-place' ? keep(house, intake, entry) : place(house, intake, entry));
      await report();
    });
    await setState('done');
  } catch (error) {
    const wish = await house.db
      .selectFrom('job')
      .select('wish')
      .where('id', '=', job.id)
      .executeTakeFirst();
    if (wish?.wish === 'cancel') {
      await clearPartial(house, intake);
      await setState('cancelled');
    } else if (wish?.wish === 'pause') await setState('paused');
    else house.log.warn({ accession: intake.id, error: sentenceOf(error) }, 'intake stopped');
    throw error;
  }
}

/** Try the files that failed once more. @throws ArchiveError not-found */
export async function retryFailed(house: House, accessionId: string): Promise<void> {
  const job = await house.db
    .selectFrom('job')
    .select('id')
    .where('accessionId', '=', accessionId)
    .where('task', '=', 'intake')
    .executeTakeFirst();
  if (!job) throw new ArchiveError('not-found', 'This accession has no work to go on with.');
  await house.db.transaction().execute(async (db) => {
    await db
      .updateTable('accessionEntry')
      .set({ state: 'planned', reason: null })
      .where('accessionId', '=', accessionId)
      .where('state', '=', 'failed')
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
