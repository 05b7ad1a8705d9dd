import pg from 'pg';
import { databaseUrlOf } from '#server/house/house';
import { readSettings } from '#server/house/settings';

const CALM_MS = 120_000;
const LOOK_MS = 100;

/** Wait until an application does nothing by itself: places are compared with their disks, no work waits. */
export async function calm(home: string, pgPort: string, since: Date): Promise<void> {
  const settings = readSettings({ MINDFUL_HOME: home, MINDFUL_PG_PORT: pgPort });
  const client = new pg.Client({ connectionString: databaseUrlOf(settings) });
  await client.connect();
  try {
    for (const end = Date.now() + CALM_MS; ;) {
      const { rows } = await client.query<{ left: string }>(
        `select 'place ' || name as left from place
           where here and watched and coalesce(looked_at, 'epoch') < $1
         union all select task || ' ' || subject from job where state in ('waiting', 'running')`,
        [since],
      );
      if (rows.length === 0) return;
      if (Date.now() > end)
        throw new Error(`never calm: ${rows.map(({ left }) => left).join(', ')}`);
      await new Promise((done) => setTimeout(done, LOOK_MS));
    }
  } finally {
    await client.end();
  }
}
