import { parentPort, workerData } from 'node:worker_threads';
import { rowsOf } from '#core/index/bits';
import { countOver } from '#core/index/counting';
import type { Asked, Counted, Told } from './counter';

const { done } = workerData as Told;

/** A thread that counts over what lies in shared memory. */
parentPort!.on('message', ({ no, looks, parts }: Asked) => {
  const sums = parts.map(({ rows, bits, counts }) => {
    const some = rows ?? rowsOf(bits!);
    return counts.map((count) => countOver(some, count));
  });
  Atomics.add(done, 0, looks);
  const counted: Counted = { no, sums };
  parentPort!.postMessage(counted);
});
