import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { nameKey } from '#core/naming/pattern';
import { previewRename, type RenameLine, type RenameSubject } from '#core/naming/rename';
import { parseWallClock, precisionOf } from '#core/records/taken';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { namesIn } from '../files/disk';
import { filesOf, type LocatedFile } from '../files/located';
import { joinPath } from '../files/paths';
import { newId } from '../house/ids';
import { enqueue } from '../jobs/queue';
import { insertSteps } from '../ledger/steps';
import { takenOfRow } from '../records/records';
import { refuseHandsOff } from '../files/door';

const MOST_ITEMS = 100_000;

/** What names are filled from, in the order of the ids given. */
async function subjectsOf(
  db: Kysely<Database>,
  itemIds: string[],
  files: LocatedFile[],
): Promise<RenameSubject[]> {
  const rows = await db
    .selectFrom('item')
    .select(['id', 'number', 'originalName', 'camera', 'creator', 'title'])
    .select(['takenEdtf', 'takenFrom', 'takenTo', 'takenOffset'])
    .where('id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where('deletedAt', 'is', null)
    .execute();
  const byId = new Map(rows.map((row) => [row.id, row]));
  const fileByItem = new Map(
    files.filter((file) => file.role === 'original').map((file) => [file.itemId, file]),
  );
  const beside = new Map<string, LocatedFile[]>();
  for (const file of files)
    if (file.role !== 'original')
      beside.set(file.itemId, [...(beside.get(file.itemId) ?? []), file]);
  return itemIds.flatMap((id): RenameSubject[] => {
    const row = byId.get(id);
    const file = fileByItem.get(id);
    if (!row || !file) return [];
    const taken = takenOfRow(row);
    return [
      {
        id,
        name: file.name,
        original: row.originalName,
        taken: taken ? parseWallClock(taken.from) : null,
        precision: taken ? precisionOf(taken) : 'span',
        camera: row.camera,
        creator: row.creator[0] ?? '',
        title: row.title,
        number: row.number,
        folder: file.folderId,
        followers: (beside.get(id) ?? []).map((one) => ({
          id: one.id,
          name: one.name,
          folder: one.folderId,
        })),
      } satisfies RenameSubject,
    ];
  });
}

/** Names on disk of the folders concerned, without the batch's own. */
async function heldNames(files: LocatedFile[]): Promise<Map<string, Set<string>>> {
  const folders = new Map(files.map((file) => [file.folderId, joinPath(file.root, file.folder)]));
  const mine = new Set(files.map((file) => `${file.folderId}/${nameKey(file.name)}`));
  const held = new Map<string, Set<string>>();
  for (const [folderId, path] of folders) {
    const keys = (await namesIn(path))
      .map(nameKey)
      .filter((key) => !mine.has(`${folderId}/${key}`));
    held.set(folderId, new Set(keys));
  }
  return held;
}

interface RenameWish {
  itemIds: string[];
  pattern: string;
  tellApart: boolean;
  /** Of the preview that was seen: what is done is what was shown. */
  fingerprint?: string;
}

interface RenamePreview {
  lines: RenameLine[];
  fingerprint: string;
  problems: number;
  unchanged: number;
}

async function prepare(
  db: Kysely<Database>,
  wish: RenameWish,
): Promise<{ lines: RenameLine[]; files: LocatedFile[] }> {
  if (wish.itemIds.length > MOST_ITEMS)
    throw new ArchiveError('value-refused', `At most ${MOST_ITEMS} names at once.`);
  // Parts of a bundle keep their names: the document that links to them knows them by those.
  const files = (await filesOf(db, wish.itemIds)).filter(({ role }) => role !== 'part');
  const subjects = await subjectsOf(db, wish.itemIds, files);
  const lines = previewRename(wish.pattern, subjects, await heldNames(files), {
    tellApart: wish.tellApart,
  });
  return { lines, files };
}

/** All that a rename would do, in a few characters. */
const fingerprintOf = (lines: RenameLine[]): string =>
  createHash('sha256')
    .update(
      JSON.stringify(
        lines.map(({ id, before, after, followers }) => [
          id,
          before,
          after,
          ...followers.map((one) => [one.id, one.before, one.after]),
        ]),
      ),
    )
    .digest('base64url');

/** Every old and new name, collisions marked; nothing is changed. */
export async function renamePreview(
  db: Kysely<Database>,
  wish: RenameWish,
): Promise<RenamePreview> {
  const { lines } = await prepare(db, wish);
  return {
    lines,
    fingerprint: fingerprintOf(lines),
    problems: lines.filter((line) => line.problem !== null).length,
    unchanged: lines.filter((line) => line.before === line.after).length,
  };
}

/**
 * Rename by a pattern: noted in the ledger first, carried out by a job, undone by the ledger.
 * Sidecars follow their files.
 * @returns the operation
 * @throws ArchiveError name-refused where a name cannot be given, not-allowed for hands-off places, conflict where
 * something changed since the preview
 */
export async function startRename(
  db: Kysely<Database>,
  actorId: string | null,
  wish: RenameWish,
): Promise<string> {
  const { lines, files } = await prepare(db, wish);
  if (wish.fingerprint !== undefined && wish.fingerprint !== fingerprintOf(lines))
    throw new ArchiveError(
      'conflict',
      'Files or records were changed since these names were shown; look at them again.',
    );
  const wrong = lines.find((line) => line.problem !== null);
  if (wrong)
    throw new ArchiveError('name-refused', `“${wrong.after}”: ${wrong.problem}.`, {
      name: wrong.after,
    });
  const changed = lines.filter((line) => line.before !== line.after);
  if (changed.length === 0)
    throw new ArchiveError('name-refused', 'All these files have these names already.');
  files.forEach(refuseHandsOff);
  const names = new Map(
    changed.flatMap(({ id, after, followers }): [string, string][] => [
      [`original of ${id}`, after],
      ...followers.map((one): [string, string] => [one.id, one.after]),
    ]),
  );
  const steps = files.flatMap((file) => {
    const name = names.get(file.role === 'original' ? `original of ${file.itemId}` : file.id);
    return name === undefined || name === file.name ? [] : [{ file, name }];
  });
  const id = newId();
  const summary = `Renamed ${counted(changed.length, 'item')} by “${wish.pattern}”`;
  await db.transaction().execute(async (transaction) => {
    await transaction
      .insertInto('operation')
      .values({ id, kind: 'rename', summary, actorId, undoes: null, total: steps.length })
      .execute();
    const rows = steps.map(({ file, name }, position) => ({
      operationId: id,
      position,
      action: 'rename' as const,
      itemId: file.itemId,
      fileId: file.id,
      before: JSON.stringify({ name: file.name }),
      after: JSON.stringify({ name }),
    }));
    await insertSteps(transaction, rows);
    await enqueue(transaction, [
      {
        task: 'operation',
        title: `Renaming ${counted(changed.length, 'item')}`,
        subject: id,
        operationId: id,
        createdBy: actorId,
        total: steps.length,
        unit: 'names',
      },
    ]);
  });
  return id;
}
