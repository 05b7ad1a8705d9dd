import { stemOf } from '../kinds/kinds';
import { liesBelow } from '../intake/bundles';
import { ownerOfStem } from '../intake/sidecars';

/** An item's file that others may stand beside. */
export interface Owner {
  itemId: string;
  /** Path of its original below the place. */
  path: string;
}

/**
 * Which item each new sidecar belongs to: `A.jpg.xmp` to A.jpg, `A.xmp` to the one raw of that stem in its folder
 * or the only file of it. An item has one sidecar.
 * @param taken items that have one
 * @returns item ids by the sidecar's path; a sidecar of nobody's is left out
 */
export function ownersOfSidecars(
  originals: Owner[],
  taken: Set<string>,
  sidecars: string[],
): Map<string, string> {
  const byPath = new Map(originals.map(({ itemId, path }) => [path, itemId]));
  const alike = new Map<string, Owner[]>();
  for (const owner of originals) {
    const stem = stemOf(owner.path);
    alike.set(stem, [...(alike.get(stem) ?? []), owner]);
  }
  const byStem = new Map<string, string>();
  for (const [stem, owners] of alike) {
    const owner = ownerOfStem(owners);
    if (owner) byStem.set(stem, owner.itemId);
  }
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
