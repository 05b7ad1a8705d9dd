import type { ClientInit } from '@sveltejs/kit';

/** ms; longer the page's own code never waits. */
const LONGEST = 300;
const frame = (): Promise<void> => new Promise((done) => requestAnimationFrame(() => done()));

/** A picture that is on its way is painted before the page's code takes the thread for itself. */
export const init: ClientInit = async () => {
  const picture = document.querySelector<HTMLImageElement>('img[fetchpriority=high]');
  if (!picture) return;
  const late = new Promise((done) => setTimeout(done, LONGEST));
  await Promise.race([
    picture
      .decode()
      .catch(() => undefined)
      .then(frame)
      .then(frame),
    late,
  ]);
};
