import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { expect, it } from 'vitest';
import { APPLICATION } from '#server/house/application';

it('a pause is no failure: what ran out of time across it is tried again', async () => {
  const child = spawn(
    process.execPath,
    ['--import', 'tsx', join(APPLICATION, 'tests/support/sleeping.ts')],
    { cwd: APPLICATION, stdio: ['ignore', 'pipe', 'inherit'] },
  );
  let said = '';
  child.stdout.on('data', (chunk: Buffer) => (said += chunk.toString()));
  const end = once(child, 'exit');
  await once(child.stdout, 'data');
  child.kill('SIGSTOP');
  // Longer than the tool has, and than anybody takes for a busy moment.
  await wait(9500);
  child.kill('SIGCONT');
  expect(await end).toEqual([0, null]);
  expect(said).toBe('begun\ndone\n');
}, 40_000);
