import { ArchiveError } from '#core/errors';
import type { House } from '#server/house/house';
import { removeEmptyFolders } from '#server/places/emptyFolders';
import { makeFolderIn, moveFolder } from '#server/places/folders';
import { placeByName } from '#server/places/places';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';
import { operationDone } from '../waiting';

const help = `Usage: ./mindful folder make PLACE/FOLDER | rename PLACE/FOLDER NAME | move PLACE/FOLDER PLACE/FOLDER |
       remove PLACE/FOLDER  [--yes] [--json]

Makes a folder, gives it another name, puts it into another one of its place, or removes an empty one. A folder with
files in it is renamed or moved only where --yes says so. The ledger can undo it.`;

/** A folder by its path, and how many files the archive knows of in it and below. */
async function folderAt(house: House, path: string): Promise<{ id: string; files: number }> {
  const [name = '', ...parts] = path.split('/').filter(Boolean);
  const place = await placeByName(house.db, name);
  if (!place) throw new ArchiveError('not-found', `There is no place “${name}”.`);
  const below = parts.join('/');
  const row = await house.db
    .selectFrom('folder as d')
    .select('d.id')
    .select((select) =>
      select
        .selectFrom('file as f')
        .innerJoin('folder as e', 'e.id', 'f.folderId')
        .select(({ fn }) => fn.countAll<string>().as('count'))
        .whereRef('e.placeId', '=', 'd.placeId')
        .where((where) =>
          where.or([
            where('e.path', '=', below),
            where(where.fn<boolean>('starts_with', ['e.path', where.val(`${below}/`)]), '=', true),
          ]),
        )
        .as('files'),
    )
    .where('d.placeId', '=', place.id)
    .where('d.path', '=', below)
    .executeTakeFirst();
  if (!row) throw new ArchiveError('not-found', `There is no folder “${path}”.`);
  return { id: row.id, files: Number(row.files) };
}

const parentOf = (path: string): [string, string] => {
  const at = path.lastIndexOf('/');
  if (at < 0) throw new ArchiveError('bad-request', 'A folder lies in a place: PLACE/FOLDER.');
  return [path.slice(0, at), path.slice(at + 1)];
};

type Act = (house: House, path: string, to: string) => Promise<string>;
const ACTS: Record<string, Act> = {
  async make(house, path) {
    const [above, name] = parentOf(path);
    const { id } = await folderAt(house, above);
    return (await makeFolderIn(house.db, null, id, name)).operation;
  },
  async rename(house, path, name) {
    return moveFolder(house.db, null, (await folderAt(house, path)).id, { name });
  },
  async move(house, path, into) {
    const [{ id }, { id: parentId }] = [await folderAt(house, path), await folderAt(house, into)];
    return moveFolder(house.db, null, id, { parentId });
  },
  async remove(house, path) {
    const { id } = await folderAt(house, path);
    return (await removeEmptyFolders(house.db, null, id)).operation;
  },
};

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [act = '', path, to] = positionals;
  const isMove = act === 'rename' || act === 'move';
  if (!(act in ACTS) || !path || (isMove && !to))
    throw new ArchiveError('bad-request', `Say what and which:\n${help}`);
  const archive = await openArchive();
  const { house } = archive;
  try {
    const files = isMove ? (await folderAt(house, path)).files : 0;
    if (files > 1 && !values.yes) {
      answer(
        values.json,
        { operation: null, files },
        () => `${files} files lie in it and would go along. Nothing was changed; --yes does it.`,
      );
      return 0;
    }
    const operation = await ACTS[act]!(house, path, to ?? '');
    await operationDone(house, operation, 'Making words found');
    answer(values.json, { operation, files }, () => `Operation ${operation}.`);
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'make, rename, move and remove folders', help, run };
