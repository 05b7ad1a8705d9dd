import { Worker } from 'node:worker_threads';

/** Files that get another name on the same disk, as columns; those of one group go together or not at all. */
export interface MovesAsked {
  from: string[];
  to: string[];
  groups: number[];
}
interface Answer {
  no: number;
  left: number[];
}

const SCRIPT = new URL('./moverThread.js', import.meta.url);
const HEAP_MB = 32;

let thread: Worker | null = null;
let asked = 0;
const waiting = new Map<number, { count: number; resolve: (left: number[]) => void }>();

/** What the thread did not answer has to be looked at one by one. */
function giveUp(): void {
  thread = null;
  for (const { count, resolve } of waiting.values())
    resolve(Array.from({ length: count }, (_, at) => at));
  waiting.clear();
}

/** It lives as long as the process, and keeps nobody from ending. */
function theThread(): Worker {
  if (thread) return thread;
  const started = new Worker(SCRIPT, {
    resourceLimits: { maxOldGenerationSizeMb: HEAP_MB },
    name: 'moving',
  });
  started.unref();
  started.on('message', ({ no, left }: Answer) => {
    const one = waiting.get(no);
    waiting.delete(no);
    if (waiting.size === 0) started.unref();
    one?.resolve(left);
  });
  started.on('error', () => undefined);
  started.on('exit', () => {
    if (thread === started) giveUp();
  });
  return (thread = started);
}

/**
 * Give many files another name, without ever replacing one: link, then unlink, in a thread of its own.
 * @returns positions of those that were not moved, whatever the reason, or only linked: whoever looks at each finds out
 */
export function moveMany(moves: MovesAsked): Promise<number[]> {
  if (moves.from.length === 0) return Promise.resolve([]);
  const worker = theThread();
  const no = (asked += 1);
  return new Promise((resolve) => {
    waiting.set(no, { count: moves.from.length, resolve });
    worker.ref();
    worker.postMessage({ no, ...moves });
  });
}
