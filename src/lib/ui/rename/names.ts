import type { LineFilter } from '#core/naming/rename';
import type { NamingChoices } from '#core/naming/wish';
import type { NamesWish, Counts, ShownName } from './names.worker';

/** Material as the server sends it; the page only hands it on. */
type Material = (NamesWish & { ask: 'load' })['material'];

/** The worker that reckons names, as functions. Close it when the names are looked at no more. */
export class Names {
  readonly #worker = new Worker(new URL('./names.worker.ts', import.meta.url), { type: 'module' });
  readonly #waiting = new Map<
    number,
    { resolve: (answer: never) => void; reject: (error: Error) => void }
  >();
  #next = 0;

  constructor() {
    this.#worker.onmessage = ({
      data,
    }: MessageEvent<{ id: number; answer: never; wrong?: string }>) => {
      const one = this.#waiting.get(data.id);
      this.#waiting.delete(data.id);
      if (data.wrong === undefined) one?.resolve(data.answer);
      else one?.reject(new Error(data.wrong));
    };
  }

  #ask<T>(asked: NamesWish): Promise<T> {
    this.#next += 1;
    const id = this.#next;
    return new Promise<T>((resolve, reject) => {
      this.#waiting.set(id, { resolve: resolve as (answer: never) => void, reject });
      this.#worker.postMessage({ id, asked });
    });
  }

  load = (material: Material): Promise<null> => this.#ask({ ask: 'load', material });
  plan = (choices: NamingChoices): Promise<Counts> => this.#ask({ ask: 'plan', choices });
  rows = (
    filter: LineFilter,
    from: number,
    to: number,
  ): Promise<{ total: number; rows: ShownName[] }> => this.#ask({ ask: 'rows', filter, from, to });
  fingerprint = (): Promise<string> => this.#ask({ ask: 'fingerprint' });
  close(): void {
    this.#worker.terminate();
  }
}
