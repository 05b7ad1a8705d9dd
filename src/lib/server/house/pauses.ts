/**
 * A sleeping machine, a moved host or a stopped process lets clocks run on while nothing is done: what ran out of time
 * meanwhile did not take long.
 */
const TICK_MS = 1000;
/** ms between two ticks that a busy process does not reach by itself. */
const PAUSE_MS = 8 * TICK_MS;

let ticked = performance.now();
let pausedAt = -Infinity;

/** Look whether time went by without us. */
function look(): void {
  const now = performance.now();
  if (now - ticked > PAUSE_MS) pausedAt = now;
  ticked = now;
}
setInterval(look, TICK_MS).unref();

/** More pauses than this within one piece of work are no accident. */
const MOST_TRIES = 4;

/**
 * Run something that may run out of time; once more where this process stood still meanwhile.
 * @param isLate whether an error says that it ran out of time
 */
export async function acrossPauses<T>(
  run: () => Promise<T>,
  isLate: (error: unknown) => boolean,
): Promise<T> {
  for (let tried = 1; ; tried += 1) {
    const began = performance.now();
    try {
      return await run();
    } catch (error) {
      look();
      if (tried >= MOST_TRIES || pausedAt < began || !isLate(error)) throw error;
    }
  }
}
