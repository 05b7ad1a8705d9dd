import type { ScanFile } from './types';

/** Which group a file belongs to by hand: its number, or none. Without a word the first group takes what is new. */
export type Owners = Record<number, number | null>;
/** What is to become of files that are held already, by position. */
export type Decisions = Record<number, 'again' | 'describe' | { versionOf: string }>;

/** Nobody holds it, no accession takes it, and no earlier file of the source is the same. */
export const isNew = (file: ScanFile): boolean =>
  file.held === null && file.taken === null && file.twinPosition === null;

/** The group that takes a file; null where it is left out. */
export function ownerOf(file: ScanFile, owners: Owners): number | null {
  const byHand = owners[file.position];
  return byHand === undefined ? (isNew(file) ? 0 : null) : byHand;
}

export const filesOf = (files: ScanFile[], owners: Owners, group: number): ScanFile[] =>
  files.filter((file) => ownerOf(file, owners) === group);

/** Give files to a group, or to none. */
export const give = (owners: Owners, files: ScanFile[], group: number | null): Owners => ({
  ...owners,
  ...Object.fromEntries(files.map(({ position }) => [position, group])),
});

/** The nearest thing held that a file is the same as or like; null where it is like nothing held. */
export function nearest(file: ScanFile): { itemId: string; number: string } | null {
  if (file.heldItemId && file.held) return { itemId: file.heldItemId, number: file.held };
  const alike = file.alike.find(({ itemId }) => itemId !== null);
  return alike ? { itemId: alike.itemId!, number: alike.number! } : null;
}

/** Decisions the server needs for the files of a group: held ones that come in all the same. */
export function decisionsFor(files: ScanFile[], decisions: Decisions): Decisions {
  const wished: Decisions = {};
  for (const file of files) {
    const decision = decisions[file.position];
    if (decision) wished[file.position] = decision;
    else if (file.held !== null) wished[file.position] = 'again';
  }
  return wished;
}

/** What stands on a tile of a file that is not simply new. */
export function remark(file: ScanFile, files: ScanFile[]): string {
  if (file.taken) return `in ${file.taken}`;
  if (file.held)
    return file.heldDiffers.length > 0
      ? `same picture as ${file.held}, described differently`
      : `already held as ${file.held}`;
  const nameAt = (position: number): string =>
    files
      .find((other) => other.position === position)
      ?.path.split('/')
      .at(-1) ?? '';
  if (file.twinPosition !== null) return `twin of ${nameAt(file.twinPosition)}`;
  const [first] = file.alike;
  if (first?.number) return `like ${first.number}`;
  if (first?.kind === 'lookalike' && first.position !== null)
    return `like ${nameAt(first.position)}`;
  return '';
}

/** Counts for the head of the wall. */
export function countsOf(files: ScanFile[]): {
  held: number;
  /** Of those held, the ones that are described differently. */
  differ: number;
  twins: number;
  alike: number;
  looked: number;
} {
  return {
    held: files.filter(({ held }) => held !== null).length,
    differ: files.filter(({ heldDiffers }) => heldDiffers.length > 0).length,
    twins: files.filter(({ twinPosition, held }) => twinPosition !== null && held === null).length,
    alike: files.filter(
      ({ held, alike }) =>
        held === null && alike.some(({ kind, itemId }) => kind === 'lookalike' && itemId !== null),
    ).length,
    looked: files.filter(({ lookedAt }) => lookedAt).length,
  };
}
