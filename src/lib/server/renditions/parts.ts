import { formatOf } from '#core/kinds/kinds';
import { headOf } from '../files/disk';
import { joinPath } from '../files/paths';
import type { House } from '../house/house';

/** The picture that stands for a bundle: the largest photo among its parts. */
export async function pictureOfParts(
  house: House,
  itemId: string,
): Promise<{ path: string; format: string; kind: string; mediaType: string } | null> {
  const rows = await house.db
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .innerJoin('place as p', 'p.id', 'f.placeId')
    .select(['f.name', 'd.path as folder', 'p.root'])
    .where('f.itemId', '=', itemId)
    .where('f.role', '=', 'part')
    .orderBy('f.size', 'desc')
    .limit(40)
    .execute();
  for (const { name, folder, root } of rows) {
    const path = joinPath(root, folder, name);
    const format = formatOf(await headOf(path).catch(() => Buffer.alloc(0)), name);
    if (format.kind === 'photo' || format.kind === 'vector' || format.type === 'application/pdf')
      return { path, format: format.key, kind: format.kind, mediaType: format.type };
  }
  return null;
}
