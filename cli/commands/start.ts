import { refusedRoots } from '#server/files/grounds';
import { readSettings } from '#server/house/settings';
import type { Command } from '../arguments';
import { openArchive, type Archive } from '../archive';
import { buildIfChanged, checkPort, serve } from '../serve';
import { untilTold } from '../signals';

/** Start everything, print what to do next, and end everything when told. */
export async function runServer(
  words: (address: string) => string,
  {
    prepare = async () => undefined,
    fill = async () => '',
  }: {
    prepare?: (archive: Archive) => Promise<void>;
    /** What goes on while pages are answered already. @returns what is said once it is done */
    fill?: (archive: Archive) => Promise<string>;
  } = {},
): Promise<number> {
  const settings = readSettings();
  await checkPort(settings);
  const told = untilTold();
  const archive = await openArchive();
  for (const refusal of refusedRoots(archive.house))
    console.error(`mindful: left out of MINDFUL_ROOTS: ${refusal}`);
  let isServing = false;
  const filling = { goes: false };
  // Ctrl-C while the library is made or built ends at once; the next start takes it up again.
  void told.then(async () => {
    if (isServing) return;
    await archive.close().catch(() => undefined);
    process.exit(130);
  });
  try {
    await prepare(archive);
    filling.goes = true;
    const filled = fill(archive).finally(() => (filling.goes = false));
    // What goes wrong with it is told where it is waited for.
    filled.catch(() => undefined);
    await buildIfChanged((line) => console.error(line));
    isServing = true;
    const serving = await serve(settings);
    console.log(words(serving.address));
    try {
      const said = await Promise.race([filled, told]);
      if (said) console.log(said);
      await told;
    } finally {
      await serving.stop();
    }
  } finally {
    await archive.close();
  }
  // Who ends it does not wait for what is still being drawn; the next start takes it up again.
  if (filling.goes) process.exit(130);
  return 0;
}

export const command: Command = {
  summary: 'start',
  help: 'Usage: ./mindful start\n\nStarts database, web server and worker. The first visit makes the first keeper. Ctrl-C ends all of it.',
  run: () => runServer((address) => `\nMindful Archive is at ${address}\nCtrl-C ends it.`),
};
