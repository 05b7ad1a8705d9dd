/**
 * The thread that gives files their names: link, then unlink, by system calls that are waited for. One such call costs a
 * sixth of what it does by way of a promise, and nobody else waits for it here.
 */
import { linkSync, unlinkSync } from 'node:fs';
import { parentPort } from 'node:worker_threads';

/** After so many it is known how fast the disk is. */
const TRIED = 50;
/** A disk that takes longer for one has more to gain from several at once. */
const SLOW_MS = 0.5;

/**
 * @param {{ from: string[], to: string[], groups: number[] }} asked groups of files that go together or not at all
 * @returns {number[]} positions of those that were not moved, and why not is for others to find out
 */
function move({ from, to, groups }) {
  /** @type {number[]} */
  const left = [];
  const began = performance.now();
  for (let at = 0; at < from.length; at += 1) {
    const isTooSlow = at >= TRIED && performance.now() - began > at * SLOW_MS;
    if (isTooSlow || (left.length > 0 && groups[left[left.length - 1]] === groups[at])) {
      left.push(at);
      continue;
    }
    try {
      linkSync(from[at], to[at]);
      unlinkSync(from[at]);
    } catch {
      left.push(at);
    }
  }
  return left;
}

parentPort?.on('message', ({ no, ...asked }) => parentPort.postMessage({ no, left: move(asked) }));
