import { join } from 'node:path';
import type { House } from '#server/house/house';
import { DEMO_ACCOUNTS, DEMO_PASSWORD, makeDemo, prepareDemo } from '../../demo/demo';
import { demoPictures } from '../../demo/folders';
import { makeSite, serveSite } from '../../demo/site';
import type { Command } from '../arguments';
import { freePort } from '../postgres';
import { runServer } from './start';

const SITE_PORT_BESIDE = 9;
const width = Math.max(...DEMO_ACCOUNTS.map(({ email }) => email.length));

const accounts = DEMO_ACCOUNTS.map(({ email, role }) => `  ${email.padEnd(width)}  ${role}`).join(
  '\n',
);

const siteOf = ({ settings }: House): string => join(settings.home, 'site');

/** The simulated site gets a port of its own beside the archive's; web server and worker are told of it. */
async function announceStandIns({ settings }: House): Promise<number> {
  const port = await freePort(settings.port + SITE_PORT_BESIDE);
  process.env['MINDFUL_STANDINS'] = `127.0.0.1:${port}`;
  return port;
}

export const command: Command = {
  summary: 'start with the demo library',
  help: `Usage: ./mindful demo

Starts the archive with the library of Saltreach Kites, a made-up kite workshop. The first run draws it, which
takes some minutes; its pages open meanwhile. Later runs start in seconds. Ctrl-C ends all of it.`,
  run: () => {
    let sitePort = 0;
    return runServer(
      (address) =>
        `\nMindful Archive is at ${address}\n\nSign in as any of these; the password is “${DEMO_PASSWORD}”:\n${accounts}\n\nCtrl-C ends it.`,
      {
        prepare: async ({ house }) => {
          await prepareDemo(house);
          sitePort = await announceStandIns(house);
        },
        fill: async ({ house }) => {
          await makeDemo(house, process.env['MINDFUL_DEMO'] === 'small', (line) =>
            console.error(line),
          );
          await makeSite(siteOf(house), await demoPictures(house.settings.home));
          await serveSite(siteOf(house), sitePort);
          return '\nThe library is complete.';
        },
      },
    );
  },
};
