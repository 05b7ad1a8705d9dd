import { stemOf } from '../kinds/kinds';
import { liesBelow } from '../intake/bundles';

/** An item's file that others may stand beside. */
export interface Owner {
  itemId: string;
  /** Path of its original below the place. */
  path: string;
}

/**
 * Which item each new sidecar belongs to: `A.jpg.xmp` to A.jpg, `A.xmp` to the first file of that stem in its
 * folder. An item has one sidecar.
 * @param taken items that have one
 * @returns item ids by the sidecar's path; a sidecar of nobody's is left out
 */
export function ownersOfSidecars(
  originals: Owner[],
  taken: Set<string>,
  sidecars: string[],
): Map<string, string> {
  const byPath = new Map(originals.map(({ itemId, path }) => [path, itemId]));
  const byStem = new Map<string, string>();
  for (const { itemId, path } of [...originals].sort((a, b) => (a.path < b.path ? -1 : 1)))
    if (!byStem.has(stemOf(path))) byStem.set(stemOf(path), itemId);
  const owners = new Map<string, string>();
  const given = new Set(taken);
  // The whole name says more than the stem: those that carry it choose first.
  for (const names of [byPath, byStem])
    for (const path of sidecars) {
      const itemId = names.get(stemOf(path));
      if (itemId === undefined || given.has(itemId) || owners.has(path)) continue;
      given.add(itemId);
      owners.set(path, itemId);
    }
  return owners;
}

/** The item whose folder a path lies in, the innermost where folders lie within each other; else undefined. */
export function bundleAround(
  bundles: { itemId: string; folder: string }[],
  path: string,
): string | undefined {
  return bundles
    .filter(({ folder }) => liesBelow(path, folder))
    .sort((a, b) => b.folder.length - a.folder.length)[0]?.itemId;
}
