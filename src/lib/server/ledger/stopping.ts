import { Stopped, type Progress } from '../jobs/attempt';

/** Whoever pauses or stops waits so long at most for what is not being done just then, ms. */
const ASK_MS = 250;

/** Whether somebody wants some work to pause or stop, for work that has to end in order first. */
export class Stopping {
  /** What was wished; null: it goes on. */
  wished: Stopped | null = null;
  #asked = -Infinity;

  constructor(readonly progress: Progress) {}

  async isWished(): Promise<boolean> {
    if (this.wished === null && performance.now() - this.#asked > ASK_MS) {
      this.#asked = performance.now();
      await this.progress.checkWish().catch((error: unknown) => {
        if (!(error instanceof Stopped)) throw error;
        this.wished = error;
      });
    }
    return this.wished !== null;
  }
}
