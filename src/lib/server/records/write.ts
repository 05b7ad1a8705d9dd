import { rename } from 'node:fs/promises';
import { sql } from 'kysely';
import pMap from 'p-map';
import { ArchiveError, sentenceOf } from '#core/errors';
import { hierarchyOf } from '#core/terms/rules';
import { counted } from '#core/text/quantities';
import { embeds } from '#core/kinds/kinds';
import { FIELD_KEYS, type FieldKey } from '#core/records/fields';
import { splitName } from '#core/naming/names';
import { tagsFromRecord, targetIn, type TagChanges } from '#core/records/mapping';
import { stillDisputed, toldOf, type Told } from '#core/records/reconcile';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import {
  copyVerified,
  isDiskFull,
  factsOf,
  moveWithoutReplacing,
  removeFile,
  syncFolder,
} from '../files/disk';
import { recordFacts, refuseHandsOff, rewriteFile, type Written } from '../files/door';
import { hashEssence, hashFile } from '../files/hash';
import { insertFile } from '../files/rows';
import { filesOf, originalOf, type LocatedFile } from '../files/located';
import { bytesOfPath, joinPath } from '../files/paths';
import type { JobRow, Progress } from '../jobs/attempt';
import { writeTagsTo } from '../metadata/exiftool';
import { readFacts } from '../metadata/facts';
import { notify } from '../live/notify';
import { TERM_RULES, termRulesOf, waysTo } from '../terms/rules';
import { meetFile } from './meet';
import { packetsOf } from './packets';
import { disputesOf } from './settle';
import { lockRecords } from './store';
import { readRecords, type ItemRecord } from './records';

/** A sidecar carries the whole name of its file, so that IMG_1.dng and IMG_1.jpg never share one. */
export const sidecarName = (name: string): string => `${name}.xmp`;

/** Fields somebody gave here; what came from the file is in the file. */
function givenKeys(record: ItemRecord): FieldKey[] {
  return FIELD_KEYS.filter((key) => {
    const source = record.provenance[key]?.source;
    return source !== undefined && source !== 'file';
  });
}

/** A file that is called otherwise than it was when it came remembers its first name. */
export const firstNameTags = (first: string, now: string): TagChanges =>
  splitName(first).stem === splitName(now).stem ? {} : { 'XMP-xmpMM:PreservedFileName': first };

/** What the file says of itself, the name it came with where it has another now, and where its terms stand. */
async function aboutFile(
  { db }: House,
  file: LocatedFile,
  { values: { terms } }: ItemRecord,
): Promise<{ iim: boolean; firstName: TagChanges; hierarchy: string | null | undefined }> {
  const { technical, originalName, rules } = await db
    .selectFrom('item')
    .select(['technical', 'originalName'])
    .select(sql`(select value from setting where key = ${TERM_RULES})`.as('rules'))
    .where('id', '=', file.itemId)
    .executeTakeFirstOrThrow();
  const { hierarchy } = termRulesOf(rules);
  const told = hierarchy === 'written' ? hierarchyOf(terms, await waysTo(db, terms)) : null;
  return {
    iim: technical.iim === true,
    firstName: firstNameTags(originalName, file.name),
    hierarchy: hierarchy === 'untouched' ? undefined : told,
  };
}

/** A file that was written says the whole record: what nobody set here is from the file itself. */
const writtenOf = ({ version, values }: ItemRecord): Written => ({ version, told: toldOf(values) });

async function writeEmbedded(house: House, file: LocatedFile, record: ItemRecord): Promise<void> {
  const { iim, firstName, hierarchy } = await aboutFile(house, file, record);
  const tags = {
    ...tagsFromRecord(record.values, givenKeys(record), {
      ...targetIn(file.mediaType, iim),
      hierarchy,
    }),
    ...firstName,
  };
  await rewriteFile(house, file, writtenOf(record), async (target) => {
    await writeTagsTo(file.path, target, tags);
    if (isFilm(file.mediaType)) await refuseOtherPackets(file.path, target);
  });
}

const isFilm = (mediaType: string): boolean => mediaType.startsWith('video/');
/** A film this large is not written anew for a few words: its record goes beside it. */
const LARGEST_FILM = 512 << 20;

/** The tables of a film say where its frames lie: each must be found where it was. @throws ArchiveError file-changed */
async function refuseOtherPackets(before: string, after: string): Promise<void> {
  const [was, is] = [await packetsOf(before), await packetsOf(after)];
  if (was !== is)
    throw new ArchiveError(
      'file-changed',
      'Writing would have changed where its frames lie; it was left alone.',
    );
}

/** Write the whole record into the sidecar beside a file. */
async function writeSidecar(
  house: House,
  file: LocatedFile,
  record: ItemRecord,
  known: LocatedFile | undefined,
): Promise<void> {
  refuseHandsOff(file);
  const name = known?.name ?? sidecarName(file.name);
  const folder = joinPath(file.root, file.folder);
  const path = joinPath(folder, name);
  const temporary = joinPath(folder, `.mindful-${newId()}.xmp`);
  const isThere = (await factsOf(path)) !== null;
  try {
    if (isThere) await copyVerified(path, temporary);
    const keys = isThere ? givenKeys(record) : FIELD_KEYS;
    const { firstName, hierarchy } = await aboutFile(house, file, record);
    await writeTagsTo(isThere ? temporary : null, temporary, {
      ...tagsFromRecord(record.values, keys, { exif: false, iim: false, hierarchy }),
      ...firstName,
    });
    if (isThere) await rename(bytesOfPath(temporary), bytesOfPath(path));
    else await moveWithoutReplacing(temporary, path);
    await syncFolder(folder);
  } finally {
    await removeFile(temporary);
  }
  await rememberSidecar(house, file, known, name, path);
}

/** Whether the record can go into the file itself: its picture must be told to be the same afterwards. */
const canEmbed = async (file: LocatedFile): Promise<boolean> =>
  embeds(file.mediaType) !== null &&
  !file.beside &&
  !(isFilm(file.mediaType) && file.size > LARGEST_FILM) &&
  (file.essenceHash ?? (await hashEssence(file.path, file.mediaType))) !== null;

/**
 * Into the file where that is safe, and into the sidecar where there is one already, so that both agree. The sidecar first: a file
 * that was written counts as done.
 */
async function write(house: House, file: LocatedFile, record: ItemRecord): Promise<void> {
  const sidecar = (await filesOf(house.db, [file.itemId])).find(({ role }) => role === 'sidecar');
  if (sidecar) await writeSidecar(house, file, record, sidecar);
  if ((await canEmbed(file)) && (await wroteEmbedded(house, file, record))) return;
  if (!sidecar) await writeSidecar(house, file, record, undefined);
  await house.db
    .updateTable('file')
    .set({
      writtenVersion: record.version,
      writeProblem: null,
      told: JSON.stringify(await toldBeside(house, file, record)),
    })
    .where('id', '=', file.id)
    .execute();
}

/** What a file and the record beside it say together: a field that was emptied may still stand in the file itself. */
async function toldBeside(house: House, file: LocatedFile, record: ItemRecord): Promise<Told> {
  const sidecar = (await filesOf(house.db, [file.itemId])).find(({ role }) => role === 'sidecar');
  const said = sidecar && (await readFacts(file.path, sidecar.path));
  return toldOf(said && said.problem === null ? said.record : record.values);
}

/** Documents and films may be locked or odd in ways that let nobody write into them: their records go beside them. */
async function wroteEmbedded(
  house: House,
  file: LocatedFile,
  record: ItemRecord,
): Promise<boolean> {
  try {
    await writeEmbedded(house, file, record);
    return true;
  } catch (error) {
    const isOdd = error instanceof ArchiveError && error.code === 'tool-failed';
    if (isOdd && embeds(file.mediaType) !== 'exif') return false;
    throw error;
  }
}

async function rememberSidecar(
  house: House,
  file: LocatedFile,
  known: LocatedFile | undefined,
  name: string,
  path: string,
): Promise<void> {
  const contentHash = await hashFile(path);
  const facts = (await factsOf(path))!;
  if (known)
    return recordFacts(
      house.db,
      known,
      { contentHash, size: Number(facts.size) },
      { version: known.writtenVersion, told: null },
    );
  const { itemId, placeId, folderId } = file;
  const sidecar = { itemId, placeId, folderId, name, role: 'sidecar', contentHash } as const;
  await insertFile(house.db, sidecar, facts);
}

/** Two batches may hold one item: its file is written by one at a time, whichever worker it is. */
async function writeOne(house: House, itemId: string): Promise<void> {
  const lock = await house.locks.hold(`write ${itemId}`);
  try {
    await writeBehind(house, itemId);
  } finally {
    await lock.release();
  }
}

const WRITTEN = ['original', 'sidecar'] as const;
const isWritten = (role: string): boolean => WRITTEN.some((one) => one === role);

/** Whether another program saved the file, or its sidecar, since it was last looked at. */
async function savedElsewhere({ db }: House, { itemId }: LocatedFile): Promise<boolean> {
  const files = (await filesOf(db, [itemId])).filter(({ role }) => isWritten(role));
  const noted = await db
    .selectFrom('file')
    .select(['id', 'size', 'modifiedNs', 'inode'])
    .where('itemId', '=', itemId)
    .where('role', 'in', WRITTEN)
    .execute();
  for (const file of files) {
    const facts = await factsOf(file.path);
    const { size, modifiedNs, inode } = noted.find(({ id }) => id === file.id)!;
    const isSame =
      facts &&
      Number(facts.size) === Number(size) &&
      String(facts.mtimeNs) === String(modifiedNs) &&
      String(facts.ino) === String(inode);
    if (facts && !isSame && (await hashFile(file.path)) !== file.contentHash) return true;
  }
  return false;
}

/**
 * What another program wrote is read before ours is written over it. One whose picture it changed waits until that was looked at.
 * @throws ArchiveError file-changed
 */
async function readFirst(house: House, file: LocatedFile): Promise<void> {
  if (embeds(file.mediaType) && file.essenceHash) {
    const essence = await hashEssence(file.path, file.mediaType);
    if (essence !== file.essenceHash)
      throw new ArchiveError(
        'file-changed',
        `“${file.name}” was saved by another program; it is read first.`,
      );
  }
  const sidecar = (await filesOf(house.db, [file.itemId])).find(({ role }) => role === 'sidecar');
  const isThere = sidecar && (await factsOf(sidecar.path))?.isFile();
  const { record: said, problem } = await readFacts(file.path, isThere ? sidecar.path : null);
  if (problem !== null) return;
  await house.db.transaction().execute(async (db) => {
    await lockRecords(db, [file.itemId]);
    const [record] = await readRecords(db, [file.itemId]);
    if (record) await meetFile(db, record, file, said);
  });
}

/** What another program wrote is not written over before somebody settled it. */
async function isDisputed({ db }: House, { id, values }: ItemRecord): Promise<boolean> {
  const disputes = await disputesOf(db, id);
  if (Object.keys(disputes).length === 0) return false;
  const left = stillDisputed(disputes, values);
  if (Object.keys(left).length > 0) return true;
  await db.updateTable('item').set({ disputes: '{}' }).where('id', '=', id).execute();
  return false;
}

/** Bring an item's file in step with its record. What waits is plain from the two version numbers. */
async function writeBehind(house: House, itemId: string): Promise<void> {
  let [record] = await readRecords(house.db, [itemId]);
  if (!record) return;
  let file = await originalOf(house.db, itemId);
  if (file.writtenVersion >= record.version) return;
  try {
    if (await savedElsewhere(house, file)) {
      await readFirst(house, file);
      file = await originalOf(house.db, itemId);
      [record] = await readRecords(house.db, [itemId]);
    }
    if (!record || (await isDisputed(house, record))) return;
    await write(house, file, record);
  } catch (error) {
    await house.db
      .updateTable('file')
      .set({ writeProblem: (error as Error).message })
      .where('id', '=', file.id)
      .execute();
    throw error;
  } finally {
    await notify(house.db, { about: 'items', ids: [itemId] });
  }
}

/** Job: the record of one item. */
export const writeRecord = (house: House, job: JobRow): Promise<void> =>
  writeOne(house, job.itemId!);

/** More than ExifTool has processes: while one waits for the disk or the database, another is written. */
const AT_ONCE = 4;

/** Items of an operation whose file is behind its record. */
const behind = (house: House, operationId: string) =>
  house.db
    .selectFrom('operationStep as s')
    .innerJoin('item as i', 'i.id', 's.itemId')
    .innerJoin('file as f', (join) =>
      join.onRef('f.itemId', '=', 'i.id').on('f.role', '=', 'original'),
    )
    .select('i.id')
    .where('s.operationId', '=', operationId)
    .where('i.deletedAt', 'is', null)
    .whereRef('f.writtenVersion', '<', 'i.version')
    .orderBy('s.position')
    .execute();

/** Job: the records one operation changed. What is written already is passed over, so it may be run again. */
export async function writeRecords(house: House, job: JobRow, progress: Progress): Promise<void> {
  const rows = await behind(house, job.operationId!);
  let done = job.total - rows.length;
  const failed: string[] = [];
  await pMap(
    rows,
    async ({ id }) => {
      await progress.checkWish();
      await writeOne(house, id).catch((error: unknown) => {
        if (isDiskFull(error)) throw error;
        failed.push(sentenceOf(error));
      });
      done += 1;
      await progress.report(done, job.total, 'files');
    },
    { concurrency: AT_ONCE },
  );
  if (failed.length > 0)
    throw new ArchiveError(
      'tool-failed',
      `${counted(failed.length, 'record')} could not be written into files; the first because: ${failed[0]}`,
    );
}
