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

/** Some pictures of the library, for the simulated site; wherever somebody who tries the demo has filed them. */
export async function demoPictures(home: string): Promise<string[]> {
  const { shelf } = demoFolders(home);
  const found = async (folder: string): Promise<string[]> => {
    const names = await readdir(folder, { recursive: true }).catch(() => []);
    return names
      .filter(
        (name) => /\.(jpg|JPG)$/.test(name) && !name.split('/').some((one) => one.startsWith('.')),
      )
      .sort()
      .map((name) => join(folder, name));
  };
  const week = await found(join(shelf, 'Wind Week'));
  const all = week.length > 0 ? week : await found(shelf);
  return all.filter((_, at) => at % Math.max(1, Math.floor(all.length / 8)) === 0);
}
