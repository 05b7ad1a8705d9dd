import { sql, type Kysely } from 'kysely';
import { splitPath } from '../files/paths';
import type { Database } from '../db/schema';
import { isHeld } from '../sight/seen';

export interface HeldName {
  path: string;
  itemId: string;
  number: string;
  place: string;
  folder: string;
  /** Also of the same size: most likely the same file. */
  sameSize: boolean;
}

/** Items whose file has, or came in under, the name of one of these files; before a byte of them is sent. */
export async function heldNamesOf(
  db: Kysely<Database>,
  files: { path: string; size: number }[],
): Promise<HeldName[]> {
  const names = [...new Set(files.map(({ path }) => splitPath(path).name.toLowerCase()))];
  if (names.length === 0) return [];
  const { rows } = await sql<{
    name: string;
    original: string;
    id: string;
    number: string;
    place: string;
    folder: string;
    size: number;
  }>`select lower(f.name) as name, lower(i.original_name) as original, i.id, i.number, p.name as place,
      d.path as folder, f.size
    from item i join file f on f.item_id = i.id and f.role = 'original'
    join folder d on d.id = f.folder_id join place p on p.id = f.place_id
    where ${isHeld('i')} and (lower(f.name) = any(${names}::text[]) or lower(i.original_name) = any(${names}::text[]))
    order by i.number desc limit 20000`.execute(db);
  return files.flatMap(({ path, size }) => {
    const name = splitPath(path).name.toLowerCase();
    const same = rows.filter((row) => row.name === name || row.original === name);
    const best = same.find((row) => row.size === size) ?? same[0];
    return best
      ? [
          {
            path,
            itemId: best.id,
            number: best.number,
            place: best.place,
            folder: best.folder,
            sameSize: best.size === size,
          },
        ]
      : [];
  });
}
