import { join } from 'node:path';
import type { House } from '#server/house/house';
import { DEMO_ACCOUNTS, DEMO_PASSWORD, makeDemo } from '../../demo/demo';
import { demoPictures } from '../../demo/make';
import { makeSite, serveSite } from '../../demo/site';
import type { Command } from '../arguments';
import { freePort } from '../postgres';
import { runServer } from './start';

const SITE_PORT_BESIDE = 9;
const width = Math.max(...DEMO_ACCOUNTS.map(({ email }) => email.length));

const accounts = DEMO_ACCOUNTS.map(({ email, role }) => `  ${email.padEnd(width)}  ${role}`).join(
  '\n',
);

/** The simulated site, on a port of its own beside the archive's; web server and worker are told of it. */
async function startStandIns({ settings }: House): Promise<void> {
  const folder = join(settings.home, 'site');
  await makeSite(folder, await demoPictures(settings.home));
  const port = await freePort(settings.port + SITE_PORT_BESIDE);
  await serveSite(folder, port);
  process.env['MINDFUL_STANDINS'] = `127.0.0.1:${port}`;
}

export const command: Command = {
  summary: 'start with the demo library',
  help: `Usage: ./mindful demo

Starts the archive with the library of Saltreach Kites, a made-up kite workshop. The first run draws it and
takes some minutes; later runs start in seconds. Ctrl-C ends all of it.`,
  run: () =>
    runServer(
      async ({ house }) => {
        await makeDemo(house, process.env['MINDFUL_DEMO'] === 'small', (line) =>
          console.error(line),
        );
        await startStandIns(house);
      },
      (address) =>
        `\nMindful Archive is at ${address}\n\nSign in as any of these; the password is “${DEMO_PASSWORD}”:\n${accounts}\n\nCtrl-C ends it.`,
    ),
};
