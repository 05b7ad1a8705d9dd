import type { ChangeAnswer } from '#core/deeds/answer';
import { api, Problem } from './api';
import { sayDone } from './notices.svelte';

/** Operations somebody did while this page is open, to take back and do again, the last first. */
const done: string[] = [];
const undone: string[] = [];

export function did(operation: string): void {
  done.push(operation);
  undone.length = 0;
}

const AGAIN_MS = 400;
const PATIENCE_MS = 60_000;

/** What is still being done is taken back as soon as it is done. */
async function askBack(operation: string): Promise<ChangeAnswer> {
  for (const until = Date.now() + PATIENCE_MS; ;) {
    try {
      return await api.post(`/api/ledger/${operation}/undo`, {});
    } catch (error) {
      const isUnfinished = error instanceof Problem && error.data['isUnfinished'] === true;
      if (!isUnfinished || Date.now() > until) throw error;
      await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
    }
  }
}

/** What is said of a change that a job goes on with. */
export const UNDERWAY = 'This takes a while: Underway tells how far it is, and can stop it.';

/** Taking back is an operation of the ledger too; taking that back does the first again. */
async function back(operation: string, from: string[], to: string[], words: string): Promise<void> {
  const answer = await askBack(operation);
  // What could not be taken back stays to be tried again.
  const at = from.lastIndexOf(operation);
  if (at >= 0) from.splice(at, 1);
  if (answer.operation) to.push(answer.operation);
  sayDone(answer.underway ? UNDERWAY : words);
}
export const takeBack = (operation: string): Promise<void> =>
  back(operation, done, undone, 'Taken back.');

/** Say what was done, with its undo; what follows an undo as well. */
export function sayUndoable(
  words: string,
  operation: string,
  after: () => unknown = () => undefined,
): void {
  did(operation);
  sayDone(words, {
    label: 'Undo',
    run: async () => {
      await takeBack(operation);
      await after();
    },
  });
}

/** Say what came of a change: with its undo, that it goes on, or where nothing differed nothing. */
export function sayChanged({ operation, underway }: ChangeAnswer, words: string): void {
  if (underway) sayDone(UNDERWAY);
  else if (operation) sayUndoable(words, operation);
}

export async function undoLast(): Promise<void> {
  const operation = done.at(-1);
  if (operation) await takeBack(operation);
  else sayDone('Nothing was changed here yet.');
}
export async function redoLast(): Promise<void> {
  const operation = undone.at(-1);
  if (operation) await back(operation, undone, done, 'Done again.');
  else sayDone('Nothing was taken back.');
}
