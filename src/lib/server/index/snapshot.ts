import { open, type FileHandle } from 'node:fs/promises';
import { deserialize, serialize } from 'node:v8';
import { createHash } from 'node:crypto';
import { ALL_FIELDS } from '#core/fields/registry';
import { resized, type Codes } from '#core/index/arrays';
import { ShelfIndex } from '#core/index/shelfIndex';
import type { LivingIndex } from './living';
import { readNames } from './names';

/**
 * The index on disk: a line that says what it is, then parts, each with its length and a checksum. It is true for the
 * transactions below its horizon; what came later is read from the change log.
 */
const HEAD = Buffer.from('mindful index 7\n');
const DIGEST = 16;

const digestOf = (bytes: Buffer): Buffer =>
  createHash('sha256').update(bytes).digest().subarray(0, DIGEST);

function part(value: unknown): Buffer[] {
  const bytes = serialize(value);
  const length = Buffer.alloc(8);
  length.writeBigUInt64LE(BigInt(bytes.length));
  return [length, digestOf(bytes), bytes];
}

/** What a snapshot must have been made with: another registry keeps other columns. */
const shape = (): string => createHash('sha256').update(JSON.stringify(ALL_FIELDS)).digest('hex');

/** The parts of a snapshot, each made when the one before is written. */
export function* saved({ index, horizon }: LivingIndex): Generator<Buffer> {
  yield HEAD;
  yield* part({ shape: shape(), horizon, frame: index.toPlain() });
  for (const { key } of ALL_FIELDS) yield* part({ key, ...index.plainField(key) });
}

/** Columns in memory that another thread may read; what was read of their field is let go. */
function alone<T>(value: T): T {
  if (ArrayBuffer.isView(value) && !Buffer.isBuffer(value)) {
    const from = value as unknown as Codes | Float64Array;
    return resized(from, from.length) as T;
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return value;
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, alone(one)])) as T;
}

/** Parts one after the other, each in memory of its own: columns stay in the bytes they were read as. */
async function* partsOf(file: FileHandle): AsyncGenerator<unknown> {
  let at = 0;
  const read = async (length: number): Promise<Buffer> => {
    const bytes = Buffer.alloc(length);
    const { bytesRead } = await file.read(bytes, 0, length, at);
    at += bytesRead;
    if (bytesRead !== length) throw new Error('it is torn');
    return bytes;
  };
  const { size } = await file.stat();
  if (!(await read(HEAD.length)).equals(HEAD)) throw new Error('it is no snapshot');
  while (at < size) {
    const length = Number((await read(8)).readBigUInt64LE());
    const digest = await read(DIGEST);
    if (length > size - at) throw new Error('it is torn');
    const own = await read(length);
    if (!digestOf(own).equals(digest)) throw new Error('it is torn');
    yield alone(deserialize(own));
  }
}

/** Go on from a snapshot. @returns false where there is none, or it is torn, of another registry or database's past */
export async function restored(living: LivingIndex, path: string): Promise<boolean> {
  const file = await open(path, 'r').catch(() => null);
  if (!file) return false;
  try {
    let head: Head | null = null;
    const fields = new Map<string, Record<string, unknown>>();
    for await (const part of partsOf(file))
      if (head === null) {
        head = part as Head;
        if (head.shape !== shape() || !(await living.reaches(head.horizon))) return false;
      } else {
        const field = part as { key: string } & Record<string, unknown>;
        fields.set(field.key, field);
      }
    if (head === null || fields.size !== ALL_FIELDS.length) return false;
    const index = ShelfIndex.from(head.frame, fields);
    living.take(index, await readNames(living.db), head.horizon);
    return true;
  } catch {
    return false;
  } finally {
    await file.close();
  }
}

interface Head {
  shape: string;
  horizon: string;
  frame: Record<string, unknown>;
}
