import { extensionOf } from '../kinds/kinds';

/** A folder that belongs together: a layout with what it links to, a web site. */
export interface BundleSuggestion {
  /** Path of the folder below the source; empty for the source itself. */
  folder: string;
  /** Path of the file that stands for it. */
  main: string;
  reason: 'layout' | 'web site';
}

/** What a layout places or is set in; a document is none of these. */
const PLACED = new Set(
  'jpg jpeg png gif webp avif heic tif tiff bmp dng raw mp4 mov mxf mkv webm avi wav aif aiff mp3 flac ogg m4a ttf otf woff woff2 xmp txt css js json'.split(
    ' ',
  ),
);
/** Forms a layout is given out in: the file one works in goes before them. */
const GIVEN_OUT = ['html', 'htm', 'pdf', 'svg'];
const LINKED = /^(links|fonts|document fonts|images|assets)$/i;

const parentOf = (path: string): string => path.split('/').slice(0, -1).join('/');
const nameOf = (path: string): string => path.split('/').at(-1)!;
/** Whether a path lies below a folder. */
export const liesBelow = (path: string, folder: string): boolean =>
  folder === '' || path.startsWith(`${folder}/`);

const isDocument = (path: string): boolean => {
  const extension = extensionOf(nameOf(path));
  return extension !== '' && !PLACED.has(extension);
};

/** The file that stands for a folder marked as one item: its index page, its document, else its first file. */
export function mainOf(folder: string, paths: string[]): string | null {
  const own = paths.filter((path) => parentOf(path) === folder).sort();
  const index = own.find((path) => /^index\.html?$/i.test(nameOf(path)));
  if (index) return index;
  const documents = own.filter(isDocument);
  const worked = documents.find((path) => !GIVEN_OUT.includes(extensionOf(nameOf(path))));
  return (
    worked ??
    documents[0] ??
    own[0] ??
    paths.filter((path) => liesBelow(path, folder)).sort()[0] ??
    null
  );
}

/**
 * Folders that look like one item: a web site by its index page, a layout by a document beside its Links or
 * Fonts. The outermost counts; a folder within a suggested one belongs to that.
 */
export function suggestBundles(paths: string[]): BundleSuggestion[] {
  const folders = new Set<string>();
  for (const path of paths)
    for (let at = parentOf(path); at !== ''; at = parentOf(at)) folders.add(at);
  const found: BundleSuggestion[] = [];
  for (const folder of [...folders].sort()) {
    if (found.some((outer) => liesBelow(folder, outer.folder))) continue;
    const own = paths.filter((path) => parentOf(path) === folder);
    const rooms = [...folders].filter((other) => parentOf(other) === folder).map(nameOf);
    const main = mainOf(folder, paths);
    if (!main || own.length === 0) continue;
    if (/^index\.html?$/i.test(nameOf(main))) found.push({ folder, main, reason: 'web site' });
    else if (rooms.some((room) => LINKED.test(room)) && isDocument(main))
      found.push({ folder, main, reason: 'layout' });
  }
  return found;
}
