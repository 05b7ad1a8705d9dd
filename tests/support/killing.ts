import { spawn, type ChildProcess } from 'node:child_process';
import { join, resolve } from 'node:path';
import { afterAll } from 'vitest';
import { random } from '../../demo/paint/random';
import { until, type TestArchive } from './archive';

const ROOT = resolve(import.meta.dirname, '../..');

const killed = (child: ChildProcess): Promise<void> =>
  new Promise((done) => {
    child.once('exit', () => done());
    child.kill('SIGKILL');
  });

/** Workers of an archive that are processes of their own, to be killed without warning. */
export function killing(archive: TestArchive) {
  let worker: ChildProcess | null = null;

  const spawnWorker = (): ChildProcess =>
    spawn(
      process.execPath,
      [
        '--import',
        join(ROOT, 'node_modules/tsx/dist/loader.mjs'),
        join(ROOT, 'cli/main.ts'),
        'worker',
      ],
      {
        env: {
          ...process.env,
          MINDFUL_HOME: archive.house.settings.home,
          DATABASE_URL: archive.databaseUrl,
          MINDFUL_LOG: 'silent',
        },
        stdio: 'ignore',
      },
    );
  async function killWorker(): Promise<void> {
    const dying = worker;
    worker = null;
    if (dying && dying.exitCode === null) await killed(dying);
  }
  afterAll(killWorker);

  const jobs = (...states: ('waiting' | 'running')[]) =>
    archive.house.db.selectFrom('job').where('state', 'in', states);
  /** How much work waits or runs. */
  const open = async (): Promise<number> =>
    (await jobs('waiting', 'running').select('id').execute()).length;
  /** How often the work that is open was begun since it last got further. */
  const cutOff = async (): Promise<number> => {
    const { attempts } = await jobs('waiting', 'running')
      .select((job) => job.fn.max('attempts').as('attempts'))
      .executeTakeFirstOrThrow();
    return attempts ?? 0;
  };

  /** Kill whoever works, again and again, until the work is done. @returns how often */
  async function killUntilDone(
    seed: number,
    most: number,
    between: [number, number],
  ): Promise<number> {
    const { between: pause } = random(seed);
    let kills = 0;
    worker = spawnWorker();
    // The first moments are the worker's start; killing there would test nothing.
    while (kills < most && (await open()) > 0) {
      await until(
        async () =>
          (await jobs('running').select('id').executeTakeFirst()) !== undefined ||
          (await open()) === 0,
        'work to begin',
        60,
      );
      await new Promise((done) => setTimeout(done, pause(...between)));
      if ((await open()) === 0) break;
      await killWorker();
      kills += 1;
      worker = spawnWorker();
    }
    await until(async () => (await open()) === 0, 'the work to end', 200);
    await killWorker();
    return kills;
  }
  return { spawnWorker, killed, open, cutOff, killUntilDone };
}
