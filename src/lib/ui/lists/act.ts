import { counted } from '#core/text/quantities';
import { freshen } from '../common/freshen';
import { sayDone, sayWrong } from '../common/notices.svelte';
import { did, takeBack } from '../record/undoing';

/** What a change of a list answers. */
export interface Acted {
  operation: string | null;
  items?: number;
}

/**
 * Do something to a list and say so, with its undo; what is wrong is said as well.
 * @returns what came of it, or null
 */
export async function act<A extends Acted>(
  words: string,
  run: () => Promise<A>,
  after: () => unknown = () => undefined,
): Promise<A | null> {
  const again = async (): Promise<void> => {
    await freshen('mindful:lists');
    await after();
  };
  try {
    const done = await run();
    const { operation, items = 0 } = done;
    if (operation) {
      did(operation);
      sayDone(`${words}${items > 0 ? `, and ${counted(items, 'item')} with it` : ''}.`, {
        label: 'Undo',
        run: async () => {
          await takeBack(operation);
          await again();
        },
      });
    } else sayDone('Nothing was changed: it is so already.');
    await again();
    return done;
  } catch (error) {
    sayWrong(error);
    return null;
  }
}
