import { json } from '@sveltejs/kit';
import { sql } from 'kysely';
import { VERSION } from '#server/house/version';
import { workerSeen } from '#server/work/queue';
import type { RequestHandler } from './$types';

/** 200 once database and worker answer; 503 with what is missing before. */
export const GET: RequestHandler = async ({ locals: { house } }) => {
  const database = await sql`select 1`.execute(house.db).then(
    () => 'ready',
    () => 'away',
  );
  const worker = database === 'ready' && (await workerSeen(house)) ? 'ready' : 'away';
  const isReady = database === 'ready' && worker === 'ready';
  return json(
    { status: isReady ? 'ready' : 'starting', database, worker, version: VERSION },
    { status: isReady ? 200 : 503 },
  );
};
