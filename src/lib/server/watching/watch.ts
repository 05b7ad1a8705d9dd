import type { Selectable } from 'kysely';
import type { Database } from '../db/schema';
import type { House } from '../house/house';
import type { Lock } from '../house/locks';
import { sweepDropZone } from './dropzone';
import { askToCompare } from './compare';
import { watchFolders, type FolderWatch, type WatchOne } from './folders';
import { factsOf } from '../files/disk';
import { rootIsHere, setDeaf } from '../places/here';
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
/**
 * Some disks of the network tell nothing, and where very much stirs the system drops what it has to tell: a place is
 * compared, and its folders are watched anew, at least this often.
 */
const AT_LEAST_MS = 15 * 60_000;
/** As often where the system says that it cannot watch all of it, but no more than a tenth of the time. */
const DEAF_MS = 30_000;
const DEAF_SHARE = 10;

/** How it is heard what happens in folders; tests have ears of their own. */
interface Ears {
  watchOne?: WatchOne;
  deafMs?: number;
}

interface Watched {
  root: string;
  /** Of the root when it was watched: another one of the same name is not watched by it. */
  inode: bigint | undefined;
  watcher: FolderWatch;
  timer: NodeJS.Timeout | null;
  /** When it was begun to be watched, and last asked to be compared. */
  since: number;
  asked: number;
}

const KNOWN = ['id', 'here', 'watched', 'deaf'] as const;
type Known = Pick<Selectable<Database['place']>, (typeof KNOWN)[number]>;

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

/** How long the last comparison of a place took, in milliseconds. */
async function lastTook(house: House, placeId: string): Promise<number> {
  const job = await house.db
    .selectFrom('job')
    .select(['startedAt', 'finishedAt'])
    .where('task', '=', 'compare-place')
    .where('subject', '=', placeId)
    .where('state', '=', 'done')
    .orderBy('finishedAt', 'desc')
    .limit(1)
    .executeTakeFirst();
  return job?.startedAt && job.finishedAt ? +job.finishedAt - +job.startedAt : 0;
}

/** Whether a watch is of the folder that lies there now, and no old one. */
const isStill = (watched: Watched, { root }: Place, inode: bigint | undefined): boolean =>
  watched.root === root && watched.inode === inode && Date.now() - watched.since < AT_LEAST_MS;

/** Whether a place is to be compared though nothing was heard of it. */
async function isDue(
  house: House,
  placeId: string,
  { asked, watcher }: Watched,
  { deafMs = DEAF_MS }: Ears,
): Promise<boolean> {
  const waited = Date.now() - asked;
  if (waited > AT_LEAST_MS) return true;
  if (!watcher.deaf() || waited < deafMs) return false;
  return waited > DEAF_SHARE * (await lastTook(house, placeId));
}

function watchPlace(
  house: House,
  place: Place,
  inode: bigint | undefined,
  { watchOne }: Ears,
): Watched {
  const watched: Watched = {
    root: place.root,
    inode,
    timer: null,
    since: Date.now(),
    asked: Date.now(),
    watcher: null!,
  };
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
  watched.watcher = watchFolders(place.root, soon, complain(house), watchOne);
  return watched;
}

const complain =
  (house: House) =>
  (error: unknown): void =>
    house.log.warn({ part: 'watch', error: String(error) }, 'watching faltered');

/** Watch all places, and the drop zone, until `stop`. Only one worker does; another takes over when it ends. */
export function startWatching(house: House, ears: Ears = {}): Watching {
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
  /** Watch a place or let go of it, and ask for it to be compared where that is due. */
  const lookAt = async (place: Place, known: Known | undefined): Promise<void> => {
    const here = await rootIsHere(house, place);
    const wanted = here && known?.watched === true;
    const inode = wanted ? (await factsOf(place.root))?.ino : undefined;
    const before = watched.get(place.id);
    if (before && !(wanted && isStill(before, place, inode))) forget(place.id);
    if (stopped) return;
    if (here !== known?.here) await askToCompare(house, place);
    const one = watched.get(place.id);
    if (wanted && !one) {
      watched.set(place.id, watchPlace(house, place, inode, ears));
      // What happened while nobody watched.
      await askToCompare(house, place);
    } else if (one && (await isDue(house, place.id, one, ears))) {
      one.asked = Date.now();
      await askToCompare(house, place);
    }
    const now = watched.get(place.id);
    const deaf = now ? now.watcher.deaf() : null;
    if (deaf !== undefined && deaf !== known?.deaf) await setDeaf(house, place, deaf);
  };
  const round = async (): Promise<void> => {
    if (!(await takeLock())) return;
    const rows = await house.db.selectFrom('place').select(KNOWN).execute();
    const state = new Map(rows.map((row) => [row.id, row]));
    // A place whose disk reports an error does not keep the others from being looked at.
    for (const place of await allPlaces(house.db))
      await lookAt(place, state.get(place.id)).catch(complain(house));
    for (const id of watched.keys()) if (!state.has(id)) forget(id);
    if (!stopped) await sweepDropZone(house);
  };
  let running: Promise<void> | null = null;
  /** A round that takes long is waited for, not queued behind. */
  const tick = (): void => {
    running ??= round()
      .catch(complain(house))
      .finally(() => (running = null));
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
