import { sql, type Kysely } from 'kysely';
import { knownField } from '#core/fields/registry';
import { valuesNeeded } from '#core/naming/fill';
import { choicesIn } from '#core/naming/grammar';
import { nameKey } from '#core/naming/names';
import { underKey, type Piece } from '#core/naming/piece';
import type { Follower, RenameSubject } from '#core/naming/rename';
import type { NamingFolder } from '#core/naming/wire';
import type { Viewer } from '#core/sight/viewer';
import { parseWallClock, precisionOf } from '#core/records/taken';
import { cellWords } from '#core/register/columns';
import { rowsOf } from '../catalogue/rows';
import { inColumns } from '../db/columns';
import type { Database } from '../db/schema';
import { namesIn } from '../files/disk';
import { namedFilesOf, type NamedFile } from '../files/located';
import { joinPath } from '../files/paths';
import { missingNames } from '../files/rows';
import type { Place } from '../places/places';
import { takenOfRow } from '../records/records';
import { isHeld, type SeenIds, type FiledIds } from '../sight/seen';

type Db = Kysely<Database>;

const STRETCH = 5000;

/** What fields of the registry say of items, one text each; of several values the first. */
async function fieldTexts(
  db: Db,
  viewer: Viewer,
  ids: SeenIds,
  keys: string[],
): Promise<Map<string, Record<string, string>>> {
  const texts = new Map<string, Record<string, string>>();
  for (let from = 0; keys.length > 0 && from < ids.length; from += STRETCH)
    for (const { id, values } of await rowsOf(db, viewer, ids.slice(from, from + STRETCH), keys))
      texts.set(
        id,
        Object.fromEntries(
          keys.map((key) => {
            const value = values[key];
            const one: unknown = Array.isArray(value) && knownField(key).many ? value[0] : value;
            return [key, cellWords(knownField(key), one)];
          }),
        ),
      );
  return texts;
}

/** The first term of each item, by its label, that is narrower than some term, however far below. */
async function termsUnder(db: Db, ids: string[], label: string): Promise<Map<string, string>> {
  const { rows } = await sql<{ id: string; label: string }>`
    with recursive narrower as (
      select id from term where lower(label) = lower(${label})
      union select b.term_id from narrower n join term_broader b on b.broader_id = n.id
    )
    select it.item_id as id, min(t.label) as label from item_term it
      join narrower n on n.id = it.term_id join term t on t.id = n.id
    where it.item_id = any(${ids}::uuid[]) and lower(t.label) <> lower(${label})
    group by 1`.execute(db);
  return new Map(rows.map((row) => [row.id, row.label]));
}

const PLAIN_COLUMNS = [
  ...(['id', 'originalName', 'takenEdtf', 'takenFrom', 'takenTo', 'takenOffset'] as const),
  'brought',
] as const;

interface SubjectWish {
  pieces: readonly Piece[];
  places: ReadonlyMap<string, Place>;
}

/** What names are filled from, in the order of the ids given, with all files; what is held no more is left out. */
export async function subjectsOf(
  db: Db,
  viewer: Viewer,
  itemIds: FiledIds,
  { pieces, places }: SubjectWish,
): Promise<{ subjects: RenameSubject[]; files: NamedFile[] }> {
  const { fields, under } = valuesNeeded(pieces);
  const query = db
    .selectFrom('item')
    .select(['id', 'originalName', 'takenEdtf', 'takenFrom', 'takenTo', 'takenOffset'])
    .select(sql<number>`floor(extract(epoch from created_at) * 1000)::bigint`.as('brought'))
    .where('id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where(isHeld('item'));
  // Each waits for the database while another is read.
  const [files, items, texts, changed, ...below] = await Promise.all([
    namedFilesOf(db, itemIds, places),
    inColumns(db, query, PLAIN_COLUMNS),
    fieldTexts(db, viewer, itemIds, fields),
    changedOf(db, itemIds, pieces),
    ...under.map((label) => termsUnder(db, itemIds, label)),
  ]);
  const position = new Map(items.id.map((id, at) => [id, at]));
  const originals = new Map<string, NamedFile>();
  const beside = new Map<string, Follower[]>();
  for (const file of files)
    if (file.role === 'original') originals.set(file.itemId, file);
    // Parts of a bundle keep their names: the document that links to them knows them by those.
    else if (file.role !== 'part') {
      const one = { id: file.id, name: file.name, folder: file.folderId };
      const own = beside.get(file.itemId);
      if (own) own.push(one);
      else beside.set(file.itemId, [one]);
    }
  const subjects: RenameSubject[] = [];
  for (const id of itemIds) {
    const [at, file] = [position.get(id), originals.get(id)];
    if (at === undefined || !file) continue;
    const taken = takenOfRow({
      takenEdtf: items.takenEdtf[at]!,
      takenFrom: items.takenFrom[at]!,
      takenTo: items.takenTo[at]!,
      takenOffset: items.takenOffset[at]!,
    });
    const values: Record<string, string> = texts.get(id) ?? {};
    for (const [nth, label] of under.entries()) values[underKey(label)] = below[nth]!.get(id) ?? '';
    subjects.push({
      id,
      name: file.name,
      original: items.originalName[at]!,
      values,
      folder: file.folderId,
      path: file.folder,
      place: file.place,
      hash: file.contentHash,
      takenText: taken?.from ?? null,
      taken: taken ? parseWallClock(taken.from) : null,
      precision: taken ? precisionOf(taken) : 'span',
      offset: items.takenOffset[at]!,
      brought: items.brought[at]!,
      changed: changed.get(id) ?? null,
      followers: beside.get(id) ?? [],
      moves: false,
      source: file.folderId,
    });
  }
  return { subjects, files };
}

/** When each original was changed on its disk, ms, where a pattern asks for it. */
async function changedOf(
  db: Db,
  itemIds: SeenIds,
  pieces: readonly Piece[],
): Promise<Map<string, number>> {
  const isAsked = choicesIn(pieces).some(
    ({ source }) => source.of === 'date' && source.date === 'changed',
  );
  if (!isAsked) return new Map();
  const rows = await db
    .selectFrom('file')
    .select(['itemId', sql<number>`(modified_ns / 1000000)::float8`.as('at')])
    .where('itemId', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where('role', '=', 'original')
    .execute();
  return new Map(rows.map(({ itemId, at }) => [itemId, at]));
}

/** The folders files lie in, with the names there that are not the batch's own: on disk, and of files that are missing. */
export async function foldersOf(db: Db, files: readonly NamedFile[]): Promise<NamingFolder[]> {
  const folders = new Map(files.map((file) => [file.folderId, file]));
  const missing = await missingNames(db, [...folders.keys()]);
  const mine = new Set(files.map((file) => `${file.folderId}/${nameKey(file.name)}`));
  const found: NamingFolder[] = [];
  for (const [id, { root, folder, place }] of folders) {
    const path = joinPath(root, folder);
    const held = [...(await namesIn(path)), ...(missing.get(id) ?? [])]
      .map(nameKey)
      .filter((key) => !mine.has(`${id}/${key}`));
    found.push({ id, place, path: folder, room: path.length + 1, held });
  }
  return found;
}
