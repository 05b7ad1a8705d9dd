import type { IncomingMessage, ServerResponse } from 'node:http';
import type { RequestEvent } from '@sveltejs/kit';
import { ArchiveError } from '#core/errors';
import { addressOf } from './visitor';

/**
 * A share for each person: of what costs much only few requests are answered at once, the rest wait for their turn, and
 * whoever sends more than that is told to come back. So one person's work never takes everybody's time.
 */
interface Lane {
  /** Requests of one person answered at once. */
  atOnce: number;
  /** Requests of one person that may wait. */
  waiting: number;
}
const LANES = {
  /** Pages, pictures and small questions: more than any browser asks at once. */
  common: { atOnce: 16, waiting: 400 },
  /** What looks at very many items or holds a process for a while. */
  heavy: { atOnce: 1, waiting: 30 },
  /** Tables are written as long as they are being read. */
  tables: { atOnce: 1, waiting: 30 },
  /** What is typed is asked for again and again. */
  typing: { atOnce: 1, waiting: 30 },
  /** Files, as long as they are being read. */
  files: { atOnce: 6, waiting: 60 },
} satisfies Record<string, Lane>;
type LaneName = keyof typeof LANES;

/** Seconds after which somebody who was sent away may come back. */
const COME_BACK_S = 5;
/** ms; whoever waited so long is sent away. */
const LONGEST_WAIT_MS = 30_000;

const HEAVY =
  /^\/api\/(catalogue\/(census|density|positions|why|ids|spread)|records($|\/)|rename|filing|dates|positions|terms\/near|lists\/(terms\/file|stamps\/put|contributors\/preview)|wastebasket|items\/\[id\]\/(measure|tiles$|specimen|text)|v1\/(items|facets)$|intake\/(sheets|plan|scans|accessions))|^\/census$/;
const TABLES = /^\/api\/(catalogue|ledger)\/csv$/;
const FILES =
  /\/(original|drawing|media|manifest|report)$|^\/r\/\[token\]\/(file|media)\/|^\/api\/uploads/;
/** A stream is open as long as its window. */
const STREAM = '/api/live';
const TYPING = /^\/api\/catalogue\/(complete|choices)$/;

/** Which share a route is of; null where it is counted elsewhere. */
export function laneOf(routeId: string): LaneName | null {
  if (routeId === STREAM) return null;
  const path = routeId.replace(/\/\([^)]+\)/g, '');
  if (TYPING.test(path)) return 'typing';
  if (TABLES.test(path)) return 'tables';
  if (FILES.test(path)) return 'files';
  return HEAVY.test(path) ? 'heavy' : 'common';
}

interface Share {
  open: number;
  waiting: (() => void)[];
}
const shares = new Map<string, Share>();

function give(key: string, share: Share): void {
  const next = share.waiting.shift();
  if (next) return next();
  share.open -= 1;
  if (share.open === 0) shares.delete(key);
}

const tooMany = (): ArchiveError =>
  new ArchiveError(
    'too-many-tries',
    'You ask for much at once; what you asked before is still being answered. Try again in a moment.',
    { retryAfter: COME_BACK_S },
  );

/**
 * Wait for a turn.
 * @param key whose share
 * @param gone fires where whoever asked does not wait any more
 * @returns gives the turn to the next
 * @throws ArchiveError too-many-tries
 */
export async function takeTurn(
  key: string,
  { atOnce, waiting }: Lane,
  gone?: AbortSignal,
): Promise<() => void> {
  const share = shares.get(key) ?? { open: 0, waiting: [] };
  shares.set(key, share);
  if (share.open < atOnce) share.open += 1;
  else {
    if (share.waiting.length >= waiting) throw tooMany();
    await new Promise<void>((resolve, reject) => {
      const leave = (): void => {
        share.waiting = share.waiting.filter((one) => one !== enter);
        reject(tooMany());
      };
      const late = setTimeout(leave, LONGEST_WAIT_MS);
      const enter = (): void => {
        clearTimeout(late);
        gone?.removeEventListener('abort', leave);
        resolve();
      };
      if (gone?.aborted) return leave();
      gone?.addEventListener('abort', leave, { once: true });
      share.waiting.push(enter);
    });
  }
  let isGiven = false;
  return () => {
    if (!isGiven) give(key, share);
    isGiven = true;
  };
}

/** The answer of a request as the server around us lends it; absent where there is none. */
const answerOf = (event: RequestEvent): ServerResponse | undefined =>
  (event.platform as { req?: IncomingMessage & { answer?: ServerResponse } } | undefined)?.req
    ?.answer;

/** Answer a request in its turn; the turn is over once the whole answer was taken. */
export async function inTurn(
  event: RequestEvent,
  answer: () => Promise<Response>,
): Promise<Response> {
  const lane = laneOf(event.route.id ?? '');
  if (lane === null) return answer();
  const who = event.locals.actor?.id ?? `address ${addressOf(event)}`;
  const gone = new AbortController();
  const sent = answerOf(event);
  // Whoever went before is told of by no event any more.
  if (sent?.closed) gone.abort();
  else sent?.once('close', () => gone.abort());
  const give = await takeTurn(`${lane} ${who}`, LANES[lane], gone.signal);
  try {
    const response = await answer();
    // Whoever went away meanwhile takes no answer any more: the turn is over.
    if (sent && !gone.signal.aborted && response.body) sent.once('close', give);
    else give();
    return response;
  } catch (error) {
    give();
    throw error;
  }
}
