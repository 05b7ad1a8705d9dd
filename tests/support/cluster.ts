import { mkdtempSync, chmodSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startPostgres } from '../../cli/postgres';
import { migrate } from '#server/db/migrate';
import { closeHouse, databaseUrlOf, openHouse } from '#server/house/house';
import { readSettings } from '#server/house/settings';
import { migrateQueue } from '#server/work/queue';

/** One PostgreSQL cluster for all server tests, in a folder of its own, on loopback; it waits for no disk. */
export default async function setup(): Promise<() => Promise<void>> {
  const home = mkdtempSync(join(tmpdir(), 'mindful-tests-'));
  chmodSync(home, 0o755);
  // The next free port from here on; far from those of the application that the browser tests start.
  const settings = readSettings({ MINDFUL_HOME: home, MINDFUL_PG_PORT: '22380' });
  const cluster = await startPostgres(settings, false);
  process.env['MINDFUL_TEST_DATABASE'] = databaseUrlOf(settings);
  // An archive with nothing in it, of which every file of tests gets a copy.
  const house = openHouse(settings);
  await migrate(house.db);
  await migrateQueue(house);
  await closeHouse(house);
  return async () => {
    await cluster.stop();
    rmSync(home, { recursive: true, force: true });
  };
}
