import { untrack } from 'svelte';

/** What a preview answers: how much is changed, bound by a fingerprint to what is done. */
export interface Answer {
  changed: number;
  problems: number;
  fingerprint: string;
}
const NOTHING = { changed: 0, problems: 0, fingerprint: '' };
/** Whoever types is not asked after at every letter. */
const PAUSE_MS = 200;

/** What a wish would do, shown while it is being said; only what was shown can be done. */
export class Previewed<Wish extends object, Told extends Answer> {
  told = $state.raw<Told | typeof NOTHING>(NOTHING);
  wrong = $state('');
  isBusy = $state(false);
  readonly ready = $derived(
    !this.isBusy && this.wrong === '' && this.told.fingerprint !== '' && this.told.changed > 0,
  );

  /**
   * @param ask asks what a wish would do
   * @param asked what is wished, as a body of the request; null while it is not said whole
   */
  constructor(ask: (wish: Wish) => Promise<Told>, asked: () => Wish | null) {
    $effect(() => {
      const wish = asked();
      untrack(() => (this.told = { ...this.told, fingerprint: '' }));
      if (!wish) {
        this.told = NOTHING;
        this.wrong = '';
        return;
      }
      let isLatest = true;
      const timer = setTimeout(() => {
        ask(wish)
          .then((found) => {
            if (isLatest) [this.told, this.wrong] = [found, ''];
          })
          .catch((error: Error) => {
            if (isLatest) [this.told, this.wrong] = [NOTHING, error.message];
          });
      }, PAUSE_MS);
      return () => {
        isLatest = false;
        clearTimeout(timer);
      };
    });
  }

  /** Do what was shown. @returns whether it was done */
  async act(run: (fingerprint: string) => Promise<void>): Promise<boolean> {
    this.isBusy = true;
    try {
      await run(this.told.fingerprint);
      return true;
    } catch (error) {
      this.wrong = (error as Error).message;
      return false;
    } finally {
      this.isBusy = false;
    }
  }
}
