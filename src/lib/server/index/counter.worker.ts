import { parentPort } from 'node:worker_threads';
import { countOf } from '#core/index/bits';
import { countOver } from '#core/index/counting';
import { RowsLent } from '#core/index/itemSet';
import type { CountTask, Counted } from './counter';

/** A thread that counts over what lies in shared memory. */
const lent = new RowsLent();
let rows: Uint32Array = new Uint32Array(0);
parentPort!.on('message', ({ no, over, counts }: CountTask) => {
  if (over) rows = over.rows ?? lent.rowsOf(over.bits, countOf(over.bits));
  const counted: Counted = { no, sums: counts.map((count) => countOver(rows, count)) };
  parentPort!.postMessage(counted);
});
