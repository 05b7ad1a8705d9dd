import { DEMO_ACCOUNTS, DEMO_PASSWORD, makeDemo } from '../../demo/demo';
import type { Command } from '../arguments';
import { runServer } from './start';

const width = Math.max(...DEMO_ACCOUNTS.map(({ email }) => email.length));

const accounts = DEMO_ACCOUNTS.map(({ email, role }) => `  ${email.padEnd(width)}  ${role}`).join(
  '\n',
);

export const command: Command = {
  summary: 'start with the demo library',
  help: `Usage: ./mindful demo

Starts the archive with the library of Saltreach Kites, a made-up kite workshop. The first run draws it and
takes some minutes; later runs start in seconds. Ctrl-C ends all of it.`,
  run: () =>
    runServer(
      ({ house }) =>
        makeDemo(house, process.env['MINDFUL_DEMO'] === 'small', (line) => console.error(line)),
      (address) =>
        `\nMindful Archive is at ${address}\n\nSign in as any of these; the password is “${DEMO_PASSWORD}”:\n${accounts}\n\nCtrl-C ends it.`,
    ),
};
