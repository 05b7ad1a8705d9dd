import { Agent, request } from 'node:http';
import { ArchiveError, type ErrorCode } from '#core/errors';
import type { House } from '../house/house';
import type { Sight } from '#core/sight/viewer';
import type { AnswerTo, Ask } from './answer';
import { socketOf } from './socket';

/** Longer than any answer of the index takes; then the database is asked. */
const PATIENCE_MS = 4000;
/** An index that did not answer is left alone for a moment. */
const REST_MS = 500;

const agent = new Agent({ keepAlive: true, maxSockets: 16 });
let restUntil = 0;

interface Reply {
  status: number;
  text: string;
}

function call(path: string, body: string): Promise<Reply> {
  return new Promise((resolve, reject) => {
    const asking = request(
      {
        agent,
        socketPath: path,
        method: 'POST',
        path: '/',
        timeout: PATIENCE_MS,
        headers: { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body) },
      },
      (response) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () =>
          resolve({ status: response.statusCode ?? 0, text: Buffer.concat(parts).toString() }),
        );
        response.on('error', reject);
      },
    );
    asking.on('timeout', () => asking.destroy(new Error('the index is slow')));
    asking.on('error', reject);
    asking.end(body);
  });
}

/**
 * Ask the index.
 * @returns null where it is not there, not ready or behind: the database is asked instead
 * @throws ArchiveError what the index refuses
 */
export async function askIndex<A extends Ask>(
  house: House,
  ask: A,
  sight: Sight | null,
): Promise<AnswerTo<A> | null> {
  if (Date.now() < restUntil) return null;
  try {
    const { status, text } = await call(socketOf(house), JSON.stringify({ ...ask, sight }));
    if (status === 200) return JSON.parse(text) as AnswerTo<A>;
    if (status !== 422) return null;
    const { code, message } = JSON.parse(text) as { code: ErrorCode; message: string };
    throw new ArchiveError(code, message);
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    restUntil = Date.now() + REST_MS;
    return null;
  }
}
