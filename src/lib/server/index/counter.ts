import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { countedHere, type Counting, type Part } from '#core/index/answers';
import type { Items } from '#core/index/itemSet';
import { countOver, type Count, type Sums } from '#core/index/counting';

/** What the counting thread is asked, and what it answers. */
export interface Asked {
  no: number;
  parts: (Items & { counts: readonly Count[] })[];
}
export interface Counted {
  no: number;
  sums: Sums[][];
}

/** Questions the thread has at once: it never waits for the next, and what waits behind them is counted here. */
const AT_ONCE = 4;
/** Below this, asking takes longer than counting. */
const FEW_LOOKS = 10_000;
/** Values looked up here, about 3 ms, before whoever else asks has a turn. */
const SLICE_LOOKS = 500_000;
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

/** A question that waits to be counted. */
class Question {
  readonly sums: Sums[][] = [];

  constructor(
    readonly parts: readonly Part[],
    readonly resolve: (sums: Sums[][]) => void,
  ) {}

  /** Go on counting here. @returns whether all is counted */
  countOn(): boolean {
    let looks = 0;
    for (const [at, { found, counts }] of this.parts.entries()) {
      const own = (this.sums[at] ??= []);
      while (own.length < counts.length) {
        if (looks > SLICE_LOOKS) return false;
        const count = counts[own.length]!;
        own.push(countOver(found.rows, count));
        looks += found.count * LOOKS[count.how];
      }
    }
    return true;
  }
}

/**
 * A second thread that counts, where the columns of the index lie in shared memory; without it this one does. What waits
 * while the thread is busy is counted here, the oldest first, whenever there is nothing else to do.
 */
export class Counter {
  #worker: Worker | null = null;
  readonly #waiting: Question[] = [];
  #sent = new Map<number, Question>();
  /** Counted here. */
  #own: Question | null = null;
  #isHelping = false;
  #no = 0;
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
    if (!this.#worker || looksOf(parts) < FEW_LOOKS) return Promise.resolve(countedHere(parts));
    return new Promise((resolve) => {
      this.#waiting.push(new Question(parts, resolve));
      this.#send();
      this.#help();
    });
  };

  #send(): void {
    while (this.#worker && this.#sent.size < AT_ONCE && this.#waiting.length > 0) {
      const question = this.#waiting.shift()!;
      const no = (this.#no += 1);
      this.#sent.set(no, question);
      const asked: Asked = {
        no,
        parts: question.parts.map(({ found, counts }) => ({
          ...(counts.length > 0 ? found.items : NONE),
          counts,
        })),
      };
      this.#worker.postMessage(asked);
    }
  }

  #help(): void {
    if (this.#isHelping || (!this.#own && this.#waiting.length === 0)) return;
    this.#isHelping = true;
    setImmediate(() => {
      this.#isHelping = false;
      this.#own ??= this.#waiting.shift() ?? null;
      if (this.#own?.countOn()) {
        this.#own.resolve(this.#own.sums);
        this.#own = null;
      }
      this.#help();
    });
  }

  #start(): void {
    if (this.#isStopped) return;
    const worker = new Worker(this.script, {
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MB },
      name: 'counting',
    });
    worker.on('message', ({ no, sums }: Counted) => {
      this.#sent.get(no)?.resolve(sums);
      this.#sent.delete(no);
      this.#send();
    });
    worker.on('error', (error) =>
      this.log.warn({ error: String(error) }, 'the counting thread failed; it is started again'),
    );
    worker.on('exit', () => {
      if (this.#worker === worker) this.#worker = null;
      this.#restAt = Date.now() + TRY_AGAIN_MS;
      // What it had before it is counted here.
      this.#waiting.unshift(...this.#sent.values());
      this.#sent.clear();
      this.#help();
    });
    worker.unref();
    this.#worker = worker;
  }

  async stop(): Promise<void> {
    this.#isStopped = true;
    await this.#worker?.terminate();
  }
}
