import { watch, type FSWatcher } from 'chokidar';
import type pg from 'pg';
import { isClutter } from '#core/kinds/kinds';
import type { House } from '../house/house';
import { sweepDropZone } from './dropzone';
import { askToCompare } from './compare';
import { rootIsHere } from '../places/here';
import { allPlaces, type Place } from '../places/places';

export interface Watching {
  stop: () => Promise<void>;
}

/** Places are looked at for being here or away this often. */
const ROUND_MS = 2000;
/** Events of one change come in a bunch. */
const CALM_MS = 700;
/** Most of what stirs while we bring in or write is our own doing: wait for its end, but not for ever. */
const OWN_WORK_MS = 1500;
const LONGEST_DELAY_MS = 6000;
/** Some disks of the network tell nothing: a place is compared at least this often. */
const AT_LEAST_MS = 15 * 60_000;
/** Arbitrary, constant: of all workers one watches. */
const WATCH_LOCK = 4_180_003;

interface Watched {
  root: string;
  watcher: FSWatcher;
  timer: NodeJS.Timeout | null;
  asked: number;
}

/** Whether work of ours changes files at the moment. */
async function isAtWork(house: House): Promise<boolean> {
  const job = await house.db
    .selectFrom('job')
    .select('id')
    .where('state', 'in', ['waiting', 'running'])
    .where('task', 'in', ['intake', 'operation', 'write-record', 'write-records', 'empty-source'])
    .limit(1)
    .executeTakeFirst();
  return job !== undefined;
}

function watchPlace(house: House, place: Place): Watched {
  const watched: Watched = { root: place.root, timer: null, asked: Date.now(), watcher: null! };
  const compare = async (since: number): Promise<void> => {
    watched.timer = null;
    if (Date.now() - since < LONGEST_DELAY_MS && (await isAtWork(house))) {
      watched.timer = setTimeout(() => void compare(since).catch(complain(house)), OWN_WORK_MS);
      return;
    }
    watched.asked = Date.now();
    await askToCompare(house, place);
  };
  const soon = (): void => {
    const since = Date.now();
    watched.timer ??= setTimeout(() => void compare(since).catch(complain(house)), CALM_MS);
  };
  // Folders alone are watched: they tell of every file in them, and a hundred thousand files cost nothing.
  const watcher = watch(place.root, {
    ignored: (path, stats) =>
      stats?.isFile() === true || (path !== place.root && isClutter(path.split('/').at(-1)!)),
    ignoreInitial: true,
    followSymlinks: false,
    persistent: true,
  });
  watcher.on('raw', (_event, name) => {
    if (!isClutter(String(name ?? ''))) soon();
  });
  watcher.on('addDir', soon).on('unlinkDir', soon);
  watcher.on('error', complain(house));
  watched.watcher = watcher;
  return watched;
}

const complain =
  (house: House) =>
  (error: unknown): void =>
    house.log.warn({ part: 'watch', error: String(error) }, 'watching faltered');

/** Watch all places, and the drop zone, until `stop`. Only one worker does; another takes over when it ends. */
export function startWatching(house: House): Watching {
  const watched = new Map<string, Watched>();
  let lock: pg.PoolClient | null = null;
  let stopped = false;

  const forget = async (id: string): Promise<void> => {
    const one = watched.get(id);
    watched.delete(id);
    if (one?.timer) clearTimeout(one.timer);
    await one?.watcher.close();
  };
  const takeLock = async (): Promise<boolean> => {
    if (lock) return true;
    const client = await house.pool.connect();
    const { rows } = await client.query<{ mine: boolean }>(
      'select pg_try_advisory_lock($1) as mine',
      [WATCH_LOCK],
    );
    if (!rows[0]?.mine) {
      client.release();
      return false;
    }
    client.on('error', () => (lock = null));
    lock = client;
    return true;
  };
  const round = async (): Promise<void> => {
    if (!(await takeLock())) return;
    const rows = await house.db.selectFrom('place').select(['id', 'here', 'watched']).execute();
    const state = new Map(rows.map((row) => [row.id, row]));
    for (const place of await allPlaces(house.db)) {
      const here = await rootIsHere(house, place);
      const known = state.get(place.id);
      const one = watched.get(place.id);
      const wanted = here && known?.watched === true;
      if (one && (!wanted || one.root !== place.root)) await forget(place.id);
      if (stopped) return;
      if (here !== known?.here) await askToCompare(house, place);
      if (wanted && !watched.has(place.id)) {
        watched.set(place.id, watchPlace(house, place));
        // What happened while nobody watched.
        await askToCompare(house, place);
      } else if (one && Date.now() - one.asked > AT_LEAST_MS) {
        one.asked = Date.now();
        await askToCompare(house, place);
      }
    }
    for (const id of watched.keys()) if (!state.has(id)) await forget(id);
    await sweepDropZone(house);
  };
  let running: Promise<void> = Promise.resolve();
  const tick = (): void => {
    running = running.then(() => (stopped ? undefined : round())).catch(complain(house));
  };
  tick();
  const timer = setInterval(tick, ROUND_MS);
  return {
    async stop() {
      stopped = true;
      clearInterval(timer);
      await running;
      await Promise.all([...watched.keys()].map(forget));
      await lock?.query('select pg_advisory_unlock($1)', [WATCH_LOCK]).catch(() => undefined);
      lock?.release();
      lock = null;
    },
  };
}
