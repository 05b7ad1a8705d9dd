import { sql, type Kysely, type Transaction } from 'kysely';
import type { Database } from '../db/schema';
import { checkRelative, splitPath } from '../files/paths';
import { newId } from '../house/ids';

type Db = Kysely<Database> | Transaction<Database>;

/** A folder by its place and the path below. */
export interface FolderOfPlace {
  placeId: string;
  path: string;
}
export const folderKey = ({ placeId, path }: FolderOfPlace): string => `${placeId}/${path}`;

const depthOf = ({ path }: FolderOfPlace): number => (path === '' ? 0 : path.split('/').length);

/** Folders and all those above them, each once, those above before those below. */
function withParents(wished: readonly FolderOfPlace[]): FolderOfPlace[] {
  const all = new Map<string, FolderOfPlace>();
  for (const { placeId, path } of wished) {
    checkRelative(path);
    for (let at = path; !all.has(folderKey({ placeId, path: at })); at = splitPath(at).folder)
      all.set(folderKey({ placeId, path: at }), { placeId, path: at });
  }
  return [...all.values()].sort((a, b) => depthOf(a) - depthOf(b) || (a.path < b.path ? -1 : 1));
}

async function idsOf(db: Db, wished: readonly FolderOfPlace[]): Promise<Map<string, string>> {
  const { rows } = await sql<FolderOfPlace & { id: string }>`
    select d.id, d.place_id as "placeId", d.path from folder d
    join unnest(${wished.map(({ placeId }) => placeId)}::uuid[], ${wished.map(({ path }) => path)}::text[])
      as wished(place_id, path) using (place_id, path)`.execute(db);
  return new Map(rows.map((row) => [folderKey(row), row.id]));
}

/**
 * Rows of folders, made with those above them where missing.
 * @returns ids by `folderKey`
 */
export async function ensureFolders(
  db: Db,
  wished: readonly FolderOfPlace[],
): Promise<Map<string, string>> {
  const all = withParents(wished);
  const ids = await idsOf(db, all);
  const missing = all.filter((one) => !ids.has(folderKey(one)));
  for (let from = 0; from < missing.length;) {
    const depth = depthOf(missing[from]!);
    const level = missing.slice(from).filter((one) => depthOf(one) === depth);
    from += level.length;
    const parentOf = ({ placeId, path }: FolderOfPlace): string | null =>
      path === '' ? null : ids.get(folderKey({ placeId, path: splitPath(path).folder }))!;
    // Somebody else may be making the same ones: whoever comes second takes those.
    await sql`insert into folder (id, place_id, parent_id, path, name)
      select * from unnest(${level.map(newId)}::uuid[], ${level.map(({ placeId }) => placeId)}::uuid[],
        ${level.map(parentOf)}::uuid[], ${level.map(({ path }) => path)}::text[],
        ${level.map(({ path }) => splitPath(path).name)}::text[])
      on conflict (place_id, path) do nothing`.execute(db);
    for (const [key, id] of await idsOf(db, level)) ids.set(key, id);
  }
  return ids;
}

/** The row of a folder, made with those above it where missing. */
export async function ensureFolder(db: Db, placeId: string, path: string): Promise<string> {
  const ids = await ensureFolders(db, [{ placeId, path }]);
  return ids.get(folderKey({ placeId, path }))!;
}
