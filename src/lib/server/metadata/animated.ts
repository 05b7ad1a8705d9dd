import { constants } from 'node:fs';
import { open } from 'node:fs/promises';
import { wordsBetween, type Chunk } from '#core/kinds/animatedPng';
import { bytesOfPath } from '../files/paths';

/** More words than any picture needs; chunks before the first picture data, at most. */
const MOST_WORDS = 16 << 20;
const MOST_CHUNKS = 2000;

/** Set right where words were laid between the control of a frame and the frame. @param path a PNG of ours */
export async function settleWords(path: string): Promise<void> {
  const handle = await open(bytesOfPath(path), constants.O_RDWR | constants.O_NOFOLLOW);
  try {
    const chunks: Chunk[] = [];
    const head = Buffer.alloc(8);
    for (let at = 8; chunks.length < MOST_CHUNKS && chunks.at(-1)?.type !== 'IDAT';) {
      const { bytesRead } = await handle.read(head, 0, 8, at);
      if (bytesRead < 8) return;
      chunks.push({ type: head.toString('latin1', 4, 8), at });
      // Length, type and check sum beside the data.
      at += head.readUInt32BE(0) + 12;
    }
    const between = wordsBetween(chunks);
    if (!between || between.to - between.from > MOST_WORDS) return;
    const both = Buffer.alloc(between.to - between.from);
    await handle.read(both, 0, both.length, between.from);
    const first = between.middle - between.from;
    const exchanged = Buffer.concat([both.subarray(first), both.subarray(0, first)]);
    await handle.write(exchanged, 0, exchanged.length, between.from);
  } finally {
    await handle.close();
  }
}
