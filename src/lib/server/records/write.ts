import type { BigIntStats } from 'node:fs';
import { sql } from 'kysely';
import pMap from 'p-map';
import { ArchiveError, sentenceOf } from '#core/errors';
import { hierarchyOf } from '#core/terms/rules';
import { withoutPaths } from '#core/text/paths';
import { counted } from '#core/text/quantities';
import { embeds } from '#core/kinds/kinds';
import { followersIn } from '#core/records/mapping';
import { FIELD_KEYS, type FieldKey, type RecordValues } from '#core/records/fields';
import { splitName } from '#core/naming/names';
import {
  storedSize,
  tagsFromRecord,
  targetIn,
  type TagChanges,
  type WriteTarget,
} from '#core/records/writing';
import { isSame, stillDisputed, toldOf, type ToldValues } from '#core/records/reconcile';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import {
  isDiskFull,
  factsOf,
  moveWithoutReplacing,
  removeFile,
  syncFile,
  syncFolder,
} from '../files/disk';
import { refuseHandsOff, rewriteFile } from '../files/door';
import { hashEssence, hashFile } from '../files/hash';
import { insertFile } from '../files/rows';
import { filesOf, type LocatedFile } from '../files/located';
import { joinPath } from '../files/paths';
import type { JobRow, Progress } from '../jobs/attempt';
import { readTags, writeTagsTo, type Lane } from '../metadata/exiftool';
import { readFacts } from '../metadata/facts';
import { notifyItems } from '../live/notify';
import { TERM_RULES_ID } from '#core/entries/rules';
import { termRulesOf, waysTo } from '../terms/rules';
import { meetFile, whileUnwritten } from './meet';
import { markerTags, noteMarkers } from './markers';
import { hasTrailer, isLocked, packetsOf } from './refusing';
import { disputesOf } from './settle';
import { lockRecords } from './store';
import { readRecords, type ItemRecord } from './records';
import { isHeld } from '../sight/seen';

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

interface About {
  target: WriteTarget;
  /** What is written beside the record's fields. */
  more: TagChanges;
  /** What the XMP tells of spans then; null: nothing of them is written. */
  told: string[] | null;
}

/** What a file needs to know of itself to be written: its blocks, the name it came with, and where its terms stand. */
async function about(
  { db }: House,
  file: LocatedFile,
  { values }: ItemRecord,
  /** The sidecar it goes into, null for a new one; else the file itself. */
  into: string | null,
): Promise<About> {
  const isSidecar = into !== file.path;
  const { terms } = values;
  const { technical, originalName, rules, told, height } = await db
    .selectFrom('item as i')
    .innerJoin('file as f', 'f.itemId', 'i.id')
    .select(['i.technical', 'i.originalName', 'i.height', 'f.told'])
    .select(sql`(select value from setting where key = ${TERM_RULES_ID})`.as('rules'))
    .where('f.id', '=', file.id)
    .executeTakeFirstOrThrow();
  const markers = await markerTags(db, file, into);
  const { hierarchy } = termRulesOf(rules);
  const written = hierarchy === 'written' ? hierarchyOf(terms, await waysTo(db, terms)) : null;
  const target = isSidecar
    ? { exif: false, iim: false }
    : targetIn(file.mediaType, technical.iim === true);
  return {
    target: {
      ...target,
      hierarchy: hierarchy === 'untouched' ? undefined : written,
      format: file.format,
      // The orientation is the last part of what its pictures are kept under.
      size: storedSize(file.width, height, Number(file.pictureKey.at(-1))),
      followers: isSidecar ? [] : await followersOf(file, told, values),
    },
    more: {
      ...firstNameTags(originalName, file.name),
      ...markers.tags,
    },
    told: markers.told,
  };
}

/** Dates of a file that say when it was taken as its record did before; nothing is read where that stays as it is. */
async function followersOf(
  file: LocatedFile,
  told: ToldValues | null,
  values: RecordValues,
): Promise<string[]> {
  const before = told?.taken ?? null;
  if (!before || isSame('taken', before, values.taken)) return [];
  return followersIn(await readTags(file.path, file.format === 'jpeg', laneOf(file)), before);
}

/** Files that take ExifTool long are written apart from all others. */
const LONG = 64 << 20;
const laneOf = ({ mediaType, size }: Pick<LocatedFile, 'mediaType' | 'size'>): Lane =>
  embeds(mediaType) === 'pdf' || isFilm(mediaType) || size > LONG ? 'slow' : 'common';

/** An item's file, its sidecar, and how both looked when they were last known to be what is noted. */
interface Seen {
  file: LocatedFile;
  sidecar: LocatedFile | undefined;
  facts: ReadonlyMap<string, BigIntStats>;
}

/** @throws ArchiveError not-found where it vanished meanwhile */
function factsIn({ facts }: Seen, { id, name }: LocatedFile): BigIntStats {
  const found = facts.get(id);
  if (!found) throw new ArchiveError('not-found', `“${name}” is not there.`);
  return found;
}

async function writeEmbedded(house: House, seen: Seen, record: ItemRecord): Promise<void> {
  const { file, sidecar } = seen;
  const { target, more, told } = await about(house, file, record, file.path);
  const tags = { ...tagsFromRecord(record.values, givenKeys(record), target), ...more };
  const lane = laneOf(file);
  await rewriteFile(house, file, {
    seen: factsIn(seen, file),
    version: record.version,
    hasPicture: true,
    produce: async (path) => {
      await writeTagsTo(file.path, path, tags, lane);
      if (isFilm(file.mediaType)) await refuseOtherPackets(file.path, path);
      const { record: said, problem } = await readFacts(path, sidecar?.path ?? null, lane);
      if (problem !== null) throw new ArchiveError('tool-failed', problem);
      return toldOf(said);
    },
  });
  await noteMarkers(house.db, file.id, told);
}

const isFilm = (mediaType: string): boolean => mediaType.startsWith('video/');
/** A film this large is not written anew for a few words: its record goes beside it. */
const LARGEST_FILM = 512 << 20;

/** The tables of a film say where its frames lie: each must be found where it was. @throws ArchiveError tool-failed */
async function refuseOtherPackets(before: string, after: string): Promise<void> {
  const [was, is] = [await packetsOf(before), await packetsOf(after)];
  if (was !== is)
    throw new ArchiveError(
      'tool-failed',
      'Writing would have changed where its frames lie; it was left alone.',
    );
}

/** Write the record into the sidecar that is there. */
async function rewriteSidecar(
  house: House,
  seen: Seen,
  sidecar: LocatedFile,
  record: ItemRecord,
): Promise<void> {
  const { target, more, told } = await about(house, seen.file, record, sidecar.path);
  const tags = { ...tagsFromRecord(record.values, givenKeys(record), target), ...more };
  await rewriteFile(house, sidecar, {
    seen: factsIn(seen, sidecar),
    version: record.version,
    hasPicture: false,
    produce: async (path) => {
      await writeTagsTo(sidecar.path, path, tags);
      return null;
    },
  });
  await noteMarkers(house.db, seen.file.id, told);
}

/** Write the whole record into a new sidecar beside a file. */
async function makeSidecar(house: House, file: LocatedFile, record: ItemRecord): Promise<void> {
  refuseHandsOff(file);
  const name = sidecarName(file.name);
  const folder = joinPath(file.root, file.folder);
  const temporary = joinPath(folder, `.mindful-${newId()}.xmp`);
  const { target, more, told } = await about(house, file, record, null);
  try {
    await writeTagsTo(null, temporary, {
      ...tagsFromRecord(record.values, FIELD_KEYS, target),
      ...more,
    });
    await syncFile(temporary);
    const contentHash = await hashFile(temporary);
    const facts = (await factsOf(temporary))!;
    await moveWithoutReplacing(temporary, joinPath(folder, name));
    await syncFolder(folder);
    const { itemId, placeId, folderId } = file;
    const sidecar = { itemId, placeId, folderId, name, role: 'sidecar', contentHash } as const;
    await insertFile(house.db, sidecar, facts);
    await noteMarkers(house.db, file.id, told);
  } finally {
    await removeFile(temporary);
  }
}

/** Whether the record can go into the file itself: its picture must be told to be the same afterwards. */
const canEmbed = async (file: LocatedFile): Promise<boolean> =>
  embeds(file.mediaType) !== null &&
  !file.beside &&
  file.refusedHash !== file.contentHash &&
  !(isFilm(file.mediaType) && file.size > LARGEST_FILM) &&
  (file.essenceHash ?? (await hashEssence(file.path, file.mediaType))) !== null &&
  !(embeds(file.mediaType) === 'pdf' && (await isLocked(file.path))) &&
  !(file.format === 'jpeg' && (await hasTrailer(file.path)));

/**
 * Into the file where that is safe, and into the sidecar where there is one already, so that both agree. The sidecar first: a file
 * that was written counts as done. A file that cannot be written is not tried again until somebody saves it anew.
 */
async function write(house: House, seen: Seen, record: ItemRecord): Promise<void> {
  const { file, sidecar } = seen;
  if (sidecar) await rewriteSidecar(house, seen, sidecar, record);
  const isTried = await canEmbed(file);
  if (isTried && (await wroteEmbedded(house, seen, record))) return;
  if (!sidecar) await makeSidecar(house, file, record);
  await house.db
    .updateTable('file')
    .set({
      writtenVersion: record.version,
      writeProblem: null,
      told: JSON.stringify(await toldBeside(house, file, record)),
      ...(isTried ? { refusedHash: file.contentHash } : {}),
    })
    .where('id', '=', file.id)
    .execute();
}

/** What a file and the record beside it say together: a field that was emptied may still stand in the file itself. */
async function toldBeside(
  house: House,
  file: LocatedFile,
  record: ItemRecord,
): Promise<ToldValues> {
  const sidecar = (await filesOf(house.db, [file.itemId])).find(({ role }) => role === 'sidecar');
  const said = sidecar && (await readFacts(file.path, sidecar.path, laneOf(file)));
  return toldOf(said && said.says !== 'nothing' ? said.record : record.values);
}

/** Files may be locked, broken or odd in ways that let nobody write into them: their records go beside them. */
async function wroteEmbedded(house: House, seen: Seen, record: ItemRecord): Promise<boolean> {
  try {
    await writeEmbedded(house, seen, record);
    return true;
  } catch (error) {
    if (!(error instanceof ArchiveError && error.code === 'tool-failed')) throw error;
    house.log.info({ item: seen.file.itemId, error: sentenceOf(error) }, 'described beside');
    return false;
  }
}

/** Two batches may hold one item: its file is written by one at a time, whichever worker it is. */
const writeOne = (house: House, itemId: string): Promise<void> =>
  whileUnwritten(house, itemId, () => writeBehind(house, itemId));

const WRITTEN = ['original', 'sidecar'] as const;

/** The files that are written of an item, as they lie there now. */
async function lookAt({ db }: House, itemId: string): Promise<Seen> {
  const files = await filesOf(db, [itemId]);
  const file = files.find(({ role }) => role === 'original');
  if (!file) throw new ArchiveError('not-found', 'There is no such item.');
  const sidecar = files.find(({ role }) => role === 'sidecar');
  const facts = new Map<string, BigIntStats>();
  for (const one of sidecar ? [file, sidecar] : [file]) {
    const found = await factsOf(one.path);
    if (found?.isFile()) facts.set(one.id, found);
  }
  return { file, sidecar: sidecar && facts.has(sidecar.id) ? sidecar : undefined, facts };
}

/** Whether another program saved the file, or its sidecar, since it was last looked at. */
async function savedElsewhere({ db }: House, { file, sidecar, facts }: Seen): Promise<boolean> {
  const noted = await db
    .selectFrom('file')
    .select(['id', 'size', 'modifiedNs', 'inode'])
    .where('itemId', '=', file.itemId)
    .where('role', 'in', WRITTEN)
    .execute();
  for (const one of sidecar ? [file, sidecar] : [file]) {
    const found = facts.get(one.id);
    const { size, modifiedNs, inode } = noted.find(({ id }) => id === one.id)!;
    const isSame =
      found &&
      Number(found.size) === Number(size) &&
      String(found.mtimeNs) === String(modifiedNs) &&
      String(found.ino) === String(inode);
    if (found && !isSame && (await hashFile(one.path)) !== one.contentHash) return true;
  }
  return false;
}

/**
 * What another program wrote is read before ours is written over it. One whose picture it changed waits until that was looked at.
 * @throws ArchiveError file-changed
 */
async function readFirst(house: House, { file, sidecar }: Seen): Promise<void> {
  if (embeds(file.mediaType) && file.essenceHash) {
    const essence = await hashEssence(file.path, file.mediaType);
    if (essence !== file.essenceHash)
      throw new ArchiveError(
        'file-changed',
        `“${file.name}” was saved by another program; it is read first.`,
      );
  }
  const facts = await readFacts(file.path, sidecar?.path ?? null, laneOf(file));
  if (facts.says === 'nothing') return;
  await house.db.transaction().execute(async (db) => {
    await lockRecords(db, [file.itemId]);
    const [record] = await readRecords(db, [file.itemId]);
    if (record) await meetFile(db, record, file, facts);
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
  let seen = await lookAt(house, itemId);
  if (seen.file.writtenVersion >= record.version) return;
  let changed = ['writing', 'bytes'];
  try {
    if (await savedElsewhere(house, seen)) {
      // What is read may change any field of the record.
      changed = [];
      await readFirst(house, seen);
      // What lies there now may be another one again: what was read is compared with what is replaced.
      seen = { ...(await lookAt(house, itemId)), facts: seen.facts };
      [record] = await readRecords(house.db, [itemId]);
    }
    if (!record || (await isDisputed(house, record))) return;
    await write(house, seen, record);
  } catch (error) {
    await house.db
      .updateTable('file')
      .set({ writeProblem: withoutPaths((error as Error).message) })
      .where('id', '=', seen.file.id)
      .execute();
    throw error;
  } finally {
    await notifyItems(house.db, [itemId], changed);
  }
}

/** Job: the record of one item. */
export const writeRecord = (house: House, job: JobRow): Promise<void> =>
  writeOne(house, job.itemId!);

/** More than ExifTool has processes: while one waits for the disk or the database, another is written. */
const AT_ONCE: Record<Lane, number> = { common: 4, slow: 1 };

/** Items of an operation whose file is behind its record. */
const behind = (house: House, operationId: string) =>
  house.db
    .selectFrom('operationStep as s')
    .innerJoin('item as i', 'i.id', 's.itemId')
    .innerJoin('file as f', (join) =>
      join.onRef('f.itemId', '=', 'i.id').on('f.role', '=', 'original'),
    )
    .select(['i.id', 'i.mediaType', 'f.size'])
    .where('s.operationId', '=', operationId)
    .where(isHeld('i'))
    .whereRef('f.writtenVersion', '<', 'i.version')
    .orderBy('s.position')
    .execute();

/** Job: the records one operation changed. What is written already is passed over, so it may be run again. */
export async function writeRecords(house: House, job: JobRow, progress: Progress): Promise<void> {
  const rows = await behind(house, job.operationId!);
  let done = job.total - rows.length;
  const failed: string[] = [];
  const writeAll = (lane: Lane): Promise<unknown> =>
    pMap(
      rows.filter((row) => laneOf(row) === lane),
      async ({ id }) => {
        await progress.checkWish();
        await writeOne(house, id).catch((error: unknown) => {
          if (isDiskFull(error)) throw error;
          failed.push(sentenceOf(error));
        });
        done += 1;
        await progress.report(done, job.total, 'files');
      },
      { concurrency: AT_ONCE[lane] },
    );
  // Whoever is stopped waits for what the other lane has in hand.
  const ends = await Promise.allSettled([writeAll('common'), writeAll('slow')]);
  const stopped = ends.find((end) => end.status === 'rejected');
  if (stopped) throw stopped.reason;
  if (failed.length > 0)
    throw new ArchiveError(
      'tool-failed',
      `${counted(failed.length, 'record')} could not be written into files; the first because: ${failed[0]}`,
    );
}
