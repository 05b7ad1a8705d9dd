/** What the archive knows of a file in a place. */
export interface KnownFile {
  id: string;
  /** Path below the place. */
  path: string;
  size: number;
  /** decimal nanoseconds, decimal inode */
  modified: string;
  inode: string;
  content: string;
  isMissing: boolean;
}

/** What lies on the disk. */
export interface SeenFile {
  path: string;
  size: number;
  modified: string;
  inode: string;
}

export interface Comparison {
  /** Lies elsewhere in the place, by inode, size and time. */
  moved: { known: KnownFile; seen: SeenFile }[];
  /** Same path; size, time or inode differ: its content has to be read. */
  touched: { known: KnownFile; seen: SeenFile }[];
  /** Was missing and lies where it lay. */
  back: { known: KnownFile; seen: SeenFile }[];
  /** Lies nowhere that can be told without reading. */
  gone: KnownFile[];
  /** Nobody knows it; content may tell that it is one of those gone. */
  unknown: SeenFile[];
}

const isSame = (known: KnownFile, seen: SeenFile): boolean =>
  known.size === seen.size && known.modified === seen.modified && known.inode === seen.inode;

const trace = (file: { inode: string; size: number; modified: string }): string =>
  `${file.inode} ${file.size} ${file.modified}`;

/**
 * Compare what is known of a place with what is seen there. A path is trusted first; then inode, size and
 * time together, for an inode alone is given again to new files. Every known and seen file is told once.
 */
export function comparePlace(known: KnownFile[], seen: SeenFile[]): Comparison {
  const found: Comparison = { moved: [], touched: [], back: [], gone: [], unknown: [] };
  const byPath = new Map(seen.map((file) => [file.path, file]));
  const unplaced: KnownFile[] = [];
  for (const file of known) {
    const at = byPath.get(file.path);
    // A file of another size under an old path is another file if its own lies elsewhere: two that traded names.
    if (!at || (at.inode !== file.inode && !isSame(file, at))) {
      unplaced.push(file);
      continue;
    }
    byPath.delete(file.path);
    if (!isSame(file, at)) found.touched.push({ known: file, seen: at });
    else if (file.isMissing) found.back.push({ known: file, seen: at });
  }
  const byTrace = new Map<string, SeenFile>();
  for (const file of byPath.values()) byTrace.set(trace(file), file);
  const left: KnownFile[] = [];
  for (const file of unplaced) {
    const at = byTrace.get(trace(file));
    if (!at) {
      left.push(file);
      continue;
    }
    byTrace.delete(trace(file));
    byPath.delete(at.path);
    found.moved.push({ known: file, seen: at });
  }
  // What is left under its old path was replaced by another program: the record stays with the path.
  for (const file of left) {
    const at = byPath.get(file.path);
    if (at) {
      byPath.delete(file.path);
      found.touched.push({ known: file, seen: at });
    } else found.gone.push(file);
  }
  found.unknown.push(...byPath.values());
  return found;
}

/** Sizes worth reading: an unknown file of another size than all those gone is none of them. */
export function worthReading(gone: KnownFile[], unknown: SeenFile[]): SeenFile[] {
  const sizes = new Set(gone.map(({ size }) => size));
  return unknown.filter(({ size }) => sizes.has(size));
}

/** Files that are found again by their content; each of both is used once, paths in their order. */
export function matchByContent(
  gone: KnownFile[],
  read: { seen: SeenFile; content: string }[],
): { known: KnownFile; seen: SeenFile }[] {
  const byContent = new Map<string, SeenFile[]>();
  for (const { seen, content } of read) {
    const list = byContent.get(content);
    if (list) list.push(seen);
    else byContent.set(content, [seen]);
  }
  return gone.flatMap((known) => {
    const seen = byContent.get(known.content)?.shift();
    return seen ? [{ known, seen }] : [];
  });
}
