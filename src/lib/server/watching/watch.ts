import type { House } from '../house/house';
import type { Lock } from '../house/locks';
import { sweepDropZone } from './dropzone';
import { askToCompare } from './compare';
import { watchFolders, type FolderWatch } from './folders';
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

interface Watched {
  root: string;
  watcher: FolderWatch;
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
  watched.watcher = watchFolders(place.root, soon, complain(house));
  return watched;
}

const complain =
  (house: House) =>
  (error: unknown): void =>
    house.log.warn({ part: 'watch', error: String(error) }, 'watching faltered');

/** Watch all places, and the drop zone, until `stop`. Only one worker does; another takes over when it ends. */
export function startWatching(house: House): Watching {
  const watched = new Map<string, Watched>();
  let lock: Lock | null = null;
  let stopped = false;

  const forget = (id: string): void => {
    const one = watched.get(id);
    watched.delete(id);
    if (one?.timer) clearTimeout(one.timer);
    one?.watcher.close();
  };
  const takeLock = async (): Promise<boolean> => {
    // Of all workers one watches.
    if (!lock?.isHeld()) lock = await house.locks.take('watching');
    return lock !== null;
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
      if (one && (!wanted || one.root !== place.root)) forget(place.id);
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
    for (const id of watched.keys()) if (!state.has(id)) forget(id);
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
      for (const id of [...watched.keys()]) forget(id);
      await lock?.release();
      lock = null;
    },
  };
}
