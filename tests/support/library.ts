import { execFileSync } from 'node:child_process';
import { rmSync } from 'node:fs';
import { afterAll } from 'vitest';
import { endApplication, startApplication } from './running';

/** Every file of tests has the library as it was made, and an application of its own: none sees what another did. */
const made = process.env['MINDFUL_TEST_MADE'];
if (made) {
  const home = process.env['MINDFUL_TEST_HOME']!;
  // A server that a file of tests left behind may still be writing its last.
  rmSync(home, { recursive: true, force: true, maxRetries: 20, retryDelay: 250 });
  // Owners and times as they are: PostgreSQL and the watch look at both.
  execFileSync('cp', ['-a', '--reflink=auto', made, home]);
  const child = await startApplication(home, process.env['MINDFUL_TEST_ADDRESS']!);
  afterAll(() => endApplication(child));
}
