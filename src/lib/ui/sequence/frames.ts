import { timesOf } from '#core/footage/frames';
import { api } from '../common/api';

/** When frames of clips are shown, asked for once each. */
export class FrameTimesOf {
  readonly #asked = new Map<string, Promise<Float64Array | null>>();
  readonly #known = new Map<string, Float64Array | null>();

  /** What is known by now; null: it follows evenly, or is not known. */
  now(item: string): Float64Array | null {
    return this.#known.get(item) ?? null;
  }
  async of(item: string): Promise<Float64Array | null> {
    const asked =
      this.#asked.get(item) ??
      api
        .get(`/api/items/${item}/film`)
        .then((film) => (film?.frames ? timesOf(film.frames, film.first) : null))
        .catch(() => null);
    this.#asked.set(item, asked);
    const times = await asked;
    this.#known.set(item, times);
    return times;
  }
}
