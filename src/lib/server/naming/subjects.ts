import { sql, type Kysely } from 'kysely';
import { knownField } from '#core/fields/registry';
import { valuesNeeded } from '#core/naming/fill';
import { choicesIn } from '#core/naming/grammar';
import { nameKey } from '#core/naming/names';
import { underKey, type Piece } from '#core/naming/piece';
import type { Follower, RenameSubject } from '#core/naming/rename';
import type { NamingFolder } from '#core/naming/wire';
import type { Viewer } from '#core/people/viewer';
import { parseWallClock, precisionOf } from '#core/records/taken';
import { cellWords } from '#core/register/columns';
import { rowsOf } from '../catalogue/rows';
import type { Database } from '../db/schema';
import { namesIn } from '../files/disk';
import type { LocatedFile } from '../files/located';
import { joinPath } from '../files/paths';
import { missingNames } from '../files/rows';
import { takenOfRow } from '../records/records';

type Db = Kysely<Database>;

const STRETCH = 5000;

/** What fields of the registry say of items, one text each; of several values the first. */
async function fieldTexts(
  db: Db,
  viewer: Viewer,
  ids: string[],
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
  ...(['id', 'number', 'originalName', 'createdAt'] as const),
  ...(['takenEdtf', 'takenFrom', 'takenTo', 'takenOffset'] as const),
];

/** What names are filled from, in the order of the ids given; what is held no more is left out. */
export async function subjectsOf(
  db: Db,
  viewer: Viewer,
  itemIds: string[],
  { pieces, files }: { pieces: readonly Piece[]; files: readonly LocatedFile[] },
): Promise<RenameSubject[]> {
  const { fields, under } = valuesNeeded(pieces);
  const rows = await db
    .selectFrom('item')
    .select(PLAIN_COLUMNS)
    .where('id', '=', sql<string>`any(${itemIds}::uuid[])`)
    .where('deletedAt', 'is', null)
    .execute();
  const texts = await fieldTexts(db, viewer, itemIds, fields);
  const below = await Promise.all(under.map((label) => termsUnder(db, itemIds, label)));
  const changed = await changedOf(db, itemIds, pieces);
  const byId = new Map(rows.map((row) => [row.id, row]));
  const originals = new Map<string, LocatedFile>();
  const beside = new Map<string, Follower[]>();
  for (const file of files)
    if (file.role === 'original') originals.set(file.itemId, file);
    else {
      const one = { id: file.id, name: file.name, folder: file.folderId };
      const own = beside.get(file.itemId);
      if (own) own.push(one);
      else beside.set(file.itemId, [one]);
    }
  return itemIds.flatMap((id): RenameSubject[] => {
    const [row, file] = [byId.get(id), originals.get(id)];
    if (!row || !file) return [];
    const taken = takenOfRow(row);
    const values: Record<string, string> = { ...texts.get(id) };
    for (const [at, label] of under.entries()) values[underKey(label)] = below[at]!.get(id) ?? '';
    return [
      {
        id,
        name: file.name,
        original: row.originalName,
        values,
        folder: file.folderId,
        path: file.folder,
        place: file.place,
        hash: file.contentHash,
        takenText: taken?.from ?? null,
        taken: taken ? parseWallClock(taken.from) : null,
        precision: taken ? precisionOf(taken) : 'span',
        offset: row.takenOffset,
        brought: row.createdAt.getTime(),
        changed: changed.get(id) ?? null,
        followers: beside.get(id) ?? [],
        moves: false,
        source: file.folderId,
      },
    ];
  });
}

/** When each original was changed on its disk, ms, where a pattern asks for it. */
async function changedOf(
  db: Db,
  itemIds: string[],
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
export async function foldersOf(db: Db, files: readonly LocatedFile[]): Promise<NamingFolder[]> {
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
