import type { FolderNode } from '../catalogue/tile';

/** The way down to where one looks, and what lies below it. */
export interface Shelf {
  /** From the place to the folder; empty where all holdings are looked at. */
  way: FolderNode[];
  below: FolderNode[];
}

/** The shelf line of a folder among all, parents before children. */
export function shelfOf(nodes: readonly FolderNode[], folderId: string | null): Shelf {
  const byId = new Map(nodes.map((node) => [node.id, node]));
  const way: FolderNode[] = [];
  for (let at = folderId ? byId.get(folderId) : undefined; at;) {
    way.unshift(at);
    at = at.parentId === null ? undefined : byId.get(at.parentId);
  }
  const own = way.at(-1)?.id ?? null;
  return { way, below: nodes.filter(({ parentId }) => parentId === own) };
}
