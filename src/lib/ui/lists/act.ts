import { counted } from '#core/text/quantities';
import { freshen } from '../common/freshen';
import { sayDone, sayWrong } from '../common/notices.svelte';
import { sayUndoable, UNDERWAY } from '../common/undoing';

/** What a change of a list answers. */
export interface Acted {
  operation: string | null;
  items?: number;
  underway?: boolean;
}

/**
 * Do something to a list and say so, with its undo; what is wrong is said as well.
 * @returns what came of it, or null
 */
export async function act<A extends Acted>(
  words: string,
  run: () => Promise<A>,
  after: (done: A) => unknown = () => undefined,
): Promise<A | null> {
  try {
    const done = await run();
    const { operation, items = 0 } = done;
    const follow = items > 0 ? `, and ${counted(items, 'item')} with it` : '';
    if (done.underway) sayDone(UNDERWAY);
    else if (operation)
      sayUndoable(`${words}${follow}.`, operation, async () => {
        await freshen('mindful:lists');
        await freshen('mindful:card');
      });
    else sayDone('Nothing was changed: it is so already.');
    // First what comes after: what is loaded anew may take away the very thing this was done to.
    await after(done);
    await freshen('mindful:lists');
    return done;
  } catch (error) {
    sayWrong(error);
    return null;
  }
}
