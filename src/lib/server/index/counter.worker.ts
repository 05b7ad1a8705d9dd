import { parentPort } from 'node:worker_threads';
import { rowsOf } from '#core/index/bits';
import { countOver } from '#core/index/counting';
import type { Asked, Counted } from './counter';

/** A thread that counts over what lies in shared memory. */
parentPort!.on('message', ({ no, parts }: Asked) => {
  const sums = parts.map(({ rows, bits, counts }) => {
    const some = rows ?? rowsOf(bits!);
    return counts.map((count) => countOver(some, count));
  });
  const counted: Counted = { no, sums };
  parentPort!.postMessage(counted);
});
