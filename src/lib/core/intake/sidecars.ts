import { isRawName, isSidecar, stemOf } from '../kinds/kinds';

/** Of the files of one stem, the one that `stem.xmp` describes: the one raw, else the only one. */
export function ownerOfStem<T extends { path: string }>(files: T[]): T | null {
  const raws = files.filter(({ path }) => isRawName(path));
  if (raws.length === 1) return raws[0]!;
  return raws.length === 0 && files.length === 1 ? files[0]! : null;
}

/**
 * Whose each sidecar is: `a.jpg.xmp` describes a.jpg, `a.xmp` the one raw of that name or the only file of it.
 * Letters of either case are the same here, as on the cards of cameras.
 * @param paths all files of a folder tree, sidecars included
 * @returns the sidecar of each described file, and the sidecars of none
 */
export function pairSidecars(paths: string[]): {
  sidecarOf: Map<string, string>;
  lone: string[];
} {
  const files = paths.filter((path) => !isSidecar(path));
  const byName = new Map(files.map((path) => [path.toLowerCase(), path]));
  const byStem = new Map<string, { path: string }[]>();
  for (const path of files) {
    const stem = stemOf(path).toLowerCase();
    byStem.set(stem, [...(byStem.get(stem) ?? []), { path }]);
  }
  const sidecarOf = new Map<string, string>();
  const byStemOnly: string[] = [];
  const lone: string[] = [];
  for (const path of paths.filter(isSidecar)) {
    const owner = byName.get(stemOf(path).toLowerCase());
    if (owner && !sidecarOf.has(owner)) sidecarOf.set(owner, path);
    else byStemOnly.push(path);
  }
  // The whole name says more than the stem: those that carry it choose first.
  for (const path of byStemOnly) {
    const owner = ownerOfStem(byStem.get(stemOf(path).toLowerCase()) ?? [])?.path;
    if (owner && !sidecarOf.has(owner)) sidecarOf.set(owner, path);
    else lone.push(path);
  }
  return { sidecarOf, lone };
}
