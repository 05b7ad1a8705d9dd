/** A file with its path below the folder that was chosen or dropped. */
export interface Gathered {
  path: string;
  file: File;
}

/** What an input chose; whole folders tell the paths of their files. */
export const fromInput = (files: FileList): Gathered[] =>
  [...files].map((file) => ({ path: file.webkitRelativePath || file.name, file }));

const fileOf = (entry: FileSystemFileEntry): Promise<File> =>
  new Promise((resolve, reject) => entry.file(resolve, reject));

/** A folder tells its entries in batches until one is empty. */
async function entriesOf(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const batch = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, reject),
    );
    if (batch.length === 0) return all;
    all.push(...batch);
  }
}

async function below(entry: FileSystemEntry, path: string): Promise<Gathered[]> {
  const here = path ? `${path}/${entry.name}` : entry.name;
  if (entry.isFile) return [{ path: here, file: await fileOf(entry as FileSystemFileEntry) }];
  const found: Gathered[] = [];
  for (const one of await entriesOf(entry as FileSystemDirectoryEntry))
    found.push(...(await below(one, here)));
  return found;
}

/** What was dropped: files and whole folders. */
export async function fromDrop(transfer: DataTransfer): Promise<Gathered[]> {
  // Entries must be taken before the first wait: the list is emptied after the event.
  const entries = [...transfer.items]
    .map((item) => item.webkitGetAsEntry?.() ?? null)
    .filter((entry) => entry !== null);
  if (entries.length === 0) return fromInput(transfer.files);
  const found: Gathered[] = [];
  for (const entry of entries) found.push(...(await below(entry, '')));
  return found;
}
