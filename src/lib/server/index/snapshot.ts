import { deserialize, serialize } from 'node:v8';
import { createHash } from 'node:crypto';
import { ALL_FIELDS } from '#core/fields/registry';
import { ShelfIndex } from '#core/index/shelfIndex';
import type { LivingIndex } from './living';
import { readNames } from './load';

/**
 * The index on disk: a line that says what it is, then parts, each with its length and a checksum. It is true for the
 * transactions below its horizon; what came later is read from the change log.
 */
const HEAD = Buffer.from('mindful index 2\n');
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

/** The parts of a snapshot, to be written one after the other. */
export function saved({ index, horizon }: LivingIndex): Buffer[] {
  return [
    HEAD,
    ...part({ shape: shape(), horizon, frame: index.toPlain() }),
    ...ALL_FIELDS.flatMap(({ key }) => part({ key, ...index.plainField(key) })),
  ];
}

function* partsOf(bytes: Buffer): Generator<unknown> {
  if (!bytes.subarray(0, HEAD.length).equals(HEAD)) throw new Error('it is no snapshot');
  for (let at = HEAD.length; at < bytes.length;) {
    const length = Number(bytes.readBigUInt64LE(at));
    const digest = bytes.subarray(at + 8, at + 8 + DIGEST);
    const from = at + 8 + DIGEST;
    const own = bytes.subarray(from, from + length);
    if (own.length !== length || !digestOf(own).equals(digest)) throw new Error('it is torn');
    yield deserialize(own);
    at = from + length;
  }
}

/** Go on from a snapshot. @returns false where it is torn, of another registry, or of another database's past */
export async function restored(living: LivingIndex, bytes: Buffer): Promise<boolean> {
  try {
    const [head, ...fields] = [...partsOf(bytes)] as [
      { shape: string; horizon: string; frame: Record<string, unknown> },
      ...({ key: string } & Record<string, unknown>)[],
    ];
    if (head.shape !== shape() || fields.length !== ALL_FIELDS.length) return false;
    if (!(await living.reaches(head.horizon))) return false;
    const index = ShelfIndex.from(head.frame, new Map(fields.map((field) => [field.key, field])));
    living.take(index, await readNames(living.db), head.horizon);
    return true;
  } catch {
    return false;
  }
}
