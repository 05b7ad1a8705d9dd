import { startIndex } from '#server/index/serve';
import type { Command } from '../arguments';
import { openArchive } from '../archive';
import { untilTold } from '../signals';

const STOP_MS = 5000;

export const command: Command = {
  summary: 'keep the index in memory',
  help: 'Usage: ./mindful index\n\nHolds the archive in memory and answers the pages of the catalogue; `start` runs one. Without it the database answers.',
  async run() {
    const archive = await openArchive();
    const index = startIndex(archive.house, new URL('./counter.js', import.meta.url));
    await untilTold();
    // Whoever reads a million items just now does not hold up the end; the next start reads them.
    await Promise.race([
      index.stop().then(() => archive.close()),
      new Promise((resolve) => setTimeout(resolve, STOP_MS)),
    ]);
    // The connection that listens for changes is held open for ever.
    process.exit(0);
  },
};
