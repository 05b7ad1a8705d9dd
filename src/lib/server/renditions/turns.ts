import pLimit from 'p-limit';
import { ArchiveError } from '#core/errors';
import { runApart, type Apart, type ApartRun } from '../apart/apart';
import { MEASURE, MEASURE_SECONDS } from './prepared';
import type { Decodable } from './render';

/** Bytes a decoder may hold beside those of others. */
const LIGHT = 64 << 20;
const heavy = pLimit(1);

/** Decode in turn what its decoder must hold whole; others side by side. @param held bytes */
export const inTurn = <T>(held: number, decode: () => Promise<T>): Promise<T> =>
  held > LIGHT ? heavy(decode) : decode();

/**
 * Make something of a picture in a process of its own, in its turn. What breaks that process is tried a second time: the
 * first may have died of something else.
 * @throws ArchiveError file-unreadable
 */
export async function rendered<Run extends ApartRun>(
  task: Apart<Run>,
  wish: Decodable & Parameters<Run>[0],
  seconds: number,
): Promise<Awaited<ReturnType<Run>>> {
  const measured = await twice(() => runApart(MEASURE, wish, MEASURE_SECONDS));
  return inTurn(measured.held, () => twice(() => runApart(task, wish, seconds)));
}

const broke = (error: unknown): boolean =>
  error instanceof ArchiveError && error.data['broke'] === true;

const twice = <T>(run: () => Promise<T>): Promise<T> =>
  run().catch((error: unknown) => {
    if (broke(error)) return run();
    throw error;
  });
