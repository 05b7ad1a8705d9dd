import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { countedHere, type Counting, type Part } from '#core/index/answers';
import { RowsLent, type ItemSet, type Items } from '#core/index/itemSet';
import { countOver, type Count, type Sums } from '#core/index/counting';

/** What the counting thread is asked, and what it answers. */
export interface CountTask {
  no: number;
  /** Items that are counted over, where they are others than before. */
  over: Items | null;
  counts: readonly Count[];
}
export interface Counted {
  no: number;
  sums: Sums[];
}

/** Slices the thread has at once: it never waits for the next. */
const AT_ONCE = 6;
/** Below this, asking takes longer than counting. */
const FEW_LOOKS = 10_000;
/** Values looked up in one go, about 3 ms, before whoever else asks has a turn. */
const SLICE_LOOKS = 500_000;
/** Values of an item that are looked up, about. */
const LOOKS: Record<Count['how'], number> = { codes: 1, lists: 4 };
const TRY_AGAIN_MS = 10_000;
/** It makes little but arrays, which lie elsewhere. */
const HEAP_MB = 64;
const YOUNG_MB = 6;

const looksOf = ({ found, counts }: Part): number =>
  counts.reduce((looks, { how }) => looks + found.count * LOOKS[how], 0);

/** Some counts of one part of a question, done in one go. */
interface Slice {
  question: Question;
  part: number;
  from: number;
  to: number;
}

/** A question that is counted slice by slice. */
class Question {
  readonly sums: Sums[][];
  /** Slices nobody has begun. */
  readonly left: Slice[] = [];
  #open: number;

  constructor(
    readonly parts: readonly Part[],
    readonly resolve: (sums: Sums[][]) => void,
    readonly reject: (error: unknown) => void,
  ) {
    this.sums = parts.map(() => []);
    for (const [part, { found, counts }] of parts.entries()) {
      let looks = 0;
      for (const [at, { how }] of counts.entries()) {
        const last = this.left.at(-1);
        if (last?.part !== part || looks > SLICE_LOOKS) {
          this.left.push({ question: this, part, from: at, to: at + 1 });
          looks = 0;
        } else last.to = at + 1;
        looks += found.count * LOOKS[how];
      }
    }
    this.#open = this.left.length;
  }

  counted({ part, from }: Slice, sums: readonly Sums[]): void {
    sums.forEach((one, at) => (this.sums[part]![from + at] = one));
    this.#open -= 1;
    if (this.#open === 0) this.resolve(this.sums);
  }
}

const countsOf = ({ question, part, from, to }: Slice): readonly Count[] =>
  question.parts[part]!.counts.slice(from, to);
const foundOf = ({ question, part }: Slice): ItemSet => question.parts[part]!.found;

/**
 * A second thread that counts, where the columns of the index lie in shared memory; without it this one does. Both take
 * slices of the oldest question, this one whenever there is nothing else to do: a large one is done twice as soon.
 */
export class Counter {
  #worker: Worker | null = null;
  /** Questions of which slices are left, the oldest first. */
  readonly #waiting: Question[] = [];
  readonly #sent = new Map<number, Slice>();
  /** What the thread counts over. */
  #over: ItemSet | null = null;
  readonly #lent = new RowsLent();
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
    const looks = parts.reduce((sum, part) => sum + looksOf(part), 0);
    if (!this.#worker || looks < FEW_LOOKS) return Promise.resolve(countedHere(parts));
    return new Promise((resolve, reject) => {
      this.#waiting.push(new Question(parts, resolve, reject));
      this.#send();
      this.#help();
    });
  };

  #next(): Slice | null {
    const slice = this.#waiting[0]?.left.shift();
    if (this.#waiting[0]?.left.length === 0) this.#waiting.shift();
    return slice ?? null;
  }

  #send(): void {
    while (this.#worker && this.#sent.size < AT_ONCE) {
      const slice = this.#next();
      if (!slice) return;
      const no = (this.#no += 1);
      this.#sent.set(no, slice);
      const found = foundOf(slice);
      const over = found === this.#over ? null : found.items;
      this.#over = found;
      const asked: CountTask = { no, over, counts: countsOf(slice) };
      this.#worker.postMessage(asked);
    }
  }

  #help(): void {
    if (this.#isHelping || this.#waiting.length === 0) return;
    this.#isHelping = true;
    setImmediate(() => {
      this.#isHelping = false;
      const slice = this.#next();
      if (!slice) return;
      try {
        const rows = foundOf(slice).rowsIn(this.#lent);
        slice.question.counted(
          slice,
          countsOf(slice).map((count) => countOver(rows, count)),
        );
      } catch (error) {
        slice.question.reject(error);
      }
      this.#help();
    });
  }

  #start(): void {
    if (this.#isStopped) return;
    const worker = new Worker(this.script, {
      resourceLimits: { maxOldGenerationSizeMb: HEAP_MB, maxYoungGenerationSizeMb: YOUNG_MB },
      name: 'counting',
    });
    worker.on('message', ({ no, sums }: Counted) => {
      const slice = this.#sent.get(no);
      this.#sent.delete(no);
      slice?.question.counted(slice, sums);
      this.#send();
    });
    worker.on('error', (error) =>
      this.log.warn({ error: String(error) }, 'the counting thread failed; it is started again'),
    );
    worker.on('exit', () => {
      if (this.#worker === worker) this.#worker = null;
      this.#restAt = Date.now() + TRY_AGAIN_MS;
      this.#over = null;
      // What it had before it is counted here.
      for (const slice of [...this.#sent.values()].reverse()) {
        const { question } = slice;
        question.left.unshift(slice);
        if (!this.#waiting.includes(question)) this.#waiting.unshift(question);
      }
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
