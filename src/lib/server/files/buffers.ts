/** Buffers that are used again: a new one for each megabyte read keeps the garbage collector busy. */
const SIZE = 1 << 20;
const MOST_KEPT = 16;
const free: Buffer[] = [];

/** Run with a buffer of one megabyte that nobody else has; its content is whatever was left in it. */
export async function withBuffer<T>(run: (buffer: Buffer) => Promise<T>): Promise<T> {
  const buffer = free.pop() ?? Buffer.allocUnsafeSlow(SIZE);
  try {
    return await run(buffer);
  } finally {
    if (free.length < MOST_KEPT) free.push(buffer);
  }
}
