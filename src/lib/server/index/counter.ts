import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { countedHere, type Counting, type Part } from '#core/index/answers';
import type { Items } from '#core/index/itemSet';
import type { Count, Sums } from '#core/index/counting';

/** What the counting thread is asked, and what it answers. */
export interface Asked {
  no: number;
  looks: number;
  parts: (Items & { counts: readonly Count[] })[];
}
/** Where the thread tells how many values it has looked up: sooner than its answers are read. */
export interface Told {
  done: Int32Array;
}
export interface Counted {
  no: number;
  sums: Sums[][];
}

/**
 * Values looked up that may lie before the thread, about 60 ms of its time: beyond that this one counts, which else has
 * enough to do.
 */
const MOST_BEFORE = 5_000_000;
/** Below this, asking takes longer than counting. */
const FEW_LOOKS = 10_000;
/** Values of an item that are looked up, about. */
const LOOKS: Record<Count['how'], number> = { codes: 1, lists: 4 };
const TRY_AGAIN_MS = 10_000;
const HEAP_MB = 64;

const NONE: Items = { rows: new Uint32Array(0) };

const looksOf = (parts: readonly Part[]): number => {
  let looks = 0;
  for (const { found, counts } of parts)
    for (const { how } of counts) looks += found.count * LOOKS[how];
  return looks;
};

/** A second thread that counts, where the columns of the index lie in shared memory; without it this one does. */
export class Counter {
  #worker: Worker | null = null;
  #waiting = new Map<number, { parts: readonly Part[]; resolve: (sums: Sums[][]) => void }>();
  #no = 0;
  /** Values the thread was asked to look up, and has. */
  #asked = 0;
  readonly #done = new Int32Array(new SharedArrayBuffer(4));
  #restAt = 0;
  #isStopped = false;

  /** @param script of the thread */
  constructor(
    readonly script: URL,
    readonly log: Logger,
  ) {
    this.#start();
  }

  readonly count: Counting = (parts) => {
    if (!this.#worker && Date.now() > this.#restAt) this.#start();
    const looks = looksOf(parts);
    if (!this.#worker || this.#before > MOST_BEFORE || looks < FEW_LOOKS)
      return Promise.resolve(countedHere(parts));
    const no = (this.#no += 1);
    this.#asked = (this.#asked + looks) | 0;
    const asked: Asked = {
      no,
      looks,
      parts: parts.map(({ found, counts }) => ({
        ...(counts.length > 0 ? found.items : NONE),
        counts,
      })),
    };
    return new Promise((resolve) => {
      this.#waiting.set(no, { parts, resolve });
      this.#worker!.postMessage(asked);
    });
  };

  /** Values the thread has not looked up yet; sums of 32 bits may turn over, their difference stays. */
  get #before(): number {
    return (this.#asked - Atomics.load(this.#done, 0)) | 0;
  }

  #start(): void {
    if (this.#isStopped) return;
    Atomics.store(this.#done, 0, this.#asked);
    const told: Told = { done: this.#done };
    const worker = new Worker(this.script, {
      workerData: told,
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MB },
      name: 'counting',
    });
    worker.on('message', ({ no, sums }: Counted) => {
      this.#waiting.get(no)?.resolve(sums);
      this.#waiting.delete(no);
    });
    worker.on('error', (error) =>
      this.log.warn({ error: String(error) }, 'the counting thread failed; it is started again'),
    );
    worker.on('exit', () => {
      if (this.#worker === worker) this.#worker = null;
      this.#restAt = Date.now() + TRY_AGAIN_MS;
      // What it had before it is counted here.
      const left = [...this.#waiting.values()];
      this.#waiting.clear();
      for (const { parts, resolve } of left) resolve(countedHere(parts));
    });
    worker.unref();
    this.#worker = worker;
  }

  async stop(): Promise<void> {
    this.#isStopped = true;
    await this.#worker?.terminate();
  }
}
