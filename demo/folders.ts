import { readdir } from 'node:fs/promises';
import { join } from 'node:path';

export interface DemoFolders {
  shelf: string;
  travel: string;
  devices: string;
}

export const demoFolders = (home: string): DemoFolders => ({
  shelf: join(home, 'holdings', 'Studio shelf'),
  travel: join(home, 'holdings', 'Travel drive'),
  devices: join(home, 'devices'),
});

/** Some pictures of the library, for the simulated site. */
export async function demoPictures(home: string): Promise<string[]> {
  const folder = join(demoFolders(home).shelf, 'Wind Week');
  const names = await readdir(folder, { recursive: true });
  return names
    .filter((name) => name.endsWith('.jpg') || name.endsWith('.JPG'))
    .sort()
    .filter((_, at, all) => at % Math.max(1, Math.floor(all.length / 8)) === 0)
    .map((name) => join(folder, name));
}
