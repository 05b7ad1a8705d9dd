import { startWorker } from '#server/work/worker';
import type { Command } from '../arguments';
import { openArchive } from '../archive';
import { untilTold } from '../signals';

export const command: Command = {
  summary: 'run one more worker',
  help: 'Usage: ./mindful worker\n\nTakes jobs from the queue until it is ended. Several may run at once.',
  async run() {
    // Heard from the first moment: what is being begun is ended too.
    const told = untilTold();
    const archive = await openArchive({
      ...process.env,
      MINDFUL_LOG: process.env['MINDFUL_LOG'] ?? 'info',
    });
    const worker = await startWorker(archive.house);
    await told;
    await worker.stop();
    await archive.close();
    return 0;
  },
};
