import { chmod, rename, rm, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { sql } from 'kysely';
import type { House } from '../house/house';
import { startListening } from '../live/listen';
import { notify } from '../live/notify';
import { answerFrom } from './answer';
import { BEHIND, serverOf } from './asking';
import { Counter } from './counter';
import { exercise } from './exercise';
import { LivingIndex } from './living';
import { restored, saved } from './snapshot';
import { socketOf } from './socket';

const POLL_MS = 400;
/** Behind by more than this it does not answer: the database does. */
const BEHIND_MS = 2000;
const SNAPSHOT_EVERY_MS = 10 * 60_000;
const TRY_AGAIN_MS = 1000;
const FIRST_ORDERS = ['taken', 'name', 'bytes'];

/** Give back what reading everything took: while nobody asks, nothing else would. */
function collectGarbage(): void {
  setFlagsFromString('--expose-gc');
  (runInNewContext('gc') as () => void)();
}

export interface IndexServer {
  living: LivingIndex;
  /** It answers from now on. */
  ready: Promise<void>;
  stop: () => Promise<void>;
}

/**
 * Keep the index of an archive and answer on its socket until `stop`.
 * @param counting script of the thread that counts; where there is one core alone it would only stand in the way
 */
export function startIndex(house: House, counting: URL | null): IndexServer {
  const counter = counting && availableParallelism() > 1 ? new Counter(counting, house.log) : null;
  const living = new LivingIndex(house.db, house.pool, counter);
  const path = join(house.folders.cache, 'index.snapshot');
  let isReady = false;
  let ended = false;
  let savedVersion = 0;
  let savedAt = Date.now();
  let savedBuilds = 0;

  const save = async (): Promise<void> => {
    if (!isReady || living.index.version === savedVersion) return;
    await living.settle();
    const version = living.index.version;
    await writeFile(`${path}.part`, saved(living), { mode: 0o600 });
    await rename(`${path}.part`, path);
    savedVersion = version;
    savedBuilds = living.builds;
    savedAt = Date.now();
  };

  const begin = async (): Promise<void> => {
    if (await restored(living, path)) {
      await living.catchUp();
      if (living.builds === 0) savedVersion = living.index.version;
    } else await living.build();
    // The orders one looks at first are made before anybody waits for them.
    for (const by of FIRST_ORDERS) living.answers.orders.ascending(by);
    isReady = true;
    await save();
    collectGarbage();
    void exercise(living, () => !ended).then(collectGarbage, (error: unknown) =>
      house.log.warn({ error: String(error) }, 'the index could not exercise'),
    );
  };

  let wake: () => void = () => undefined;
  const pause = (milliseconds: number): Promise<void> =>
    new Promise((resolve) => {
      const timer = setTimeout(resolve, milliseconds);
      wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });

  const follow = async (): Promise<void> => {
    while (!ended) {
      try {
        if (!isReady) await begin();
        else {
          const changed = await living.catchUp();
          if (changed) await notify(house.db, { about: 'counted', ids: changed.ids });
        }
        // What took minutes to read is not read a second time.
        if (Date.now() - savedAt > SNAPSHOT_EVERY_MS || living.builds > savedBuilds) await save();
        await pause(POLL_MS);
      } catch (error) {
        if (ended) return;
        house.log.warn({ error: String(error) }, 'the index lost the database; trying again');
        await pause(TRY_AGAIN_MS);
      }
    }
  };

  const server = serverOf(house, async (ask) =>
    isReady && Date.now() - living.caughtUpAt <= BEHIND_MS ? answerFrom(living, ask) : BEHIND,
  );

  const socket = socketOf(house);
  const listening = rm(socket, { force: true }).then(
    () =>
      new Promise<void>((resolve, reject) => {
        server.on('error', reject);
        server.listen(socket, () => resolve());
      }),
  );
  const ready = listening
    .then(() => chmod(socket, 0o600))
    .then(async () => {
      while (!isReady && !ended) await new Promise((resolve) => setTimeout(resolve, 20));
    });
  ready.catch((error: unknown) =>
    house.log.error({ error: String(error) }, 'the index cannot listen'),
  );
  const ear = { hear: () => wake(), again: () => wake() };
  startListening(house, ear);
  const following = follow();

  return {
    living,
    ready,
    async stop() {
      ended = true;
      wake();
      server.closeAllConnections();
      server.close();
      await following;
      await save().catch(() => undefined);
      await counter?.stop();
      await rm(socket, { force: true });
    },
  };
}

const KEEP_LOG = sql.lit('2 days');

/** Forget what the change log told long ago; whoever is further behind reads everything anew. */
export async function pruneChangeLog({ db }: House): Promise<void> {
  await sql`with gone as (
      delete from change_log where at < now() - ${KEEP_LOG}::interval returning xid
    ) update change_log_reach set pruned_below = last.xid
    from (select xid from gone order by xid desc limit 1) last where last.xid > pruned_below`.execute(
    db,
  );
}
