import { liesBelow, mainOf } from '#core/intake/bundles';
import { LONE_SIDECAR, type LeftOut } from '#core/intake/leftOut';
import { pairSidecars } from '#core/intake/sidecars';
import { isSidecar } from '#core/kinds/kinds';
import type { RecordChange } from '#core/records/fields';
import type { SourceFacts } from '#core/intake/facts';
import { walkAll, type FoundFile } from '../../files/disk';

/** One file to bring in. */
export interface WishedFile {
  /** Path below the source's folder. */
  path: string;
  size: number;
  /** Bring it in although it is held; or as a version of an item; or, where its picture is held, let the item take over
   * what it says. Without a word, what is held is left out. */
  decision?: 'again' | 'describe' | { versionOf: string };
  /** What is said of it beside the plan. */
  given?: RecordChange;
  /** The file as it was seen, by which it is known again. */
  facts?: SourceFacts;
  /** It is not brought in, but listed with this reason. */
  leftOut?: string;
  /** It stands for a folder with these parts: one item. */
  bundle?: { folder: string; parts: { path: string; size: number }[] };
}

/** Everything below a folder: files that become items, and what is left out, each with its reason. */
export async function filesToBring(root: string): Promise<WishedFile[]> {
  const { files, leftOut } = await lookOver(root);
  return [
    ...files.map(({ path, size }) => ({ path, size })),
    ...leftOut.map(({ path, why }) => ({ path, size: 0, leftOut: why })),
  ];
}

/** Files of a source that become items, and what does not: lone sidecars, links, hidden folders. */
export async function lookOver(root: string): Promise<{ files: FoundFile[]; leftOut: LeftOut[] }> {
  const { files, leftOut } = await walkAll(root);
  const { lone } = pairSidecars(files.map(({ path }) => path));
  return {
    files: files.filter(({ path }) => !isSidecar(path)),
    leftOut: [...lone.map((path) => ({ path, why: LONE_SIDECAR })), ...leftOut],
  };
}

/** Fold files into the bundles their folders are marked as; each bundle stands where its main file stood. */
export function bundled(files: WishedFile[], folders: string[]): WishedFile[] {
  const outer = folders.filter(
    (folder) => !folders.some((other) => other !== folder && liesBelow(folder, other)),
  );
  const taken = new Set<string>();
  const mains = new Map<string, WishedFile>();
  for (const folder of outer) {
    const own = files.filter(({ path, leftOut }) => !leftOut && liesBelow(path, folder));
    const main = mainOf(
      folder,
      own.map(({ path }) => path),
    );
    if (!main) continue;
    const parts = own.filter(({ path }) => path !== main).map(({ path, size }) => ({ path, size }));
    for (const { path } of parts) taken.add(path);
    mains.set(main, { ...own.find(({ path }) => path === main)!, bundle: { folder, parts } });
  }
  return files.filter(({ path }) => !taken.has(path)).map((file) => mains.get(file.path) ?? file);
}
