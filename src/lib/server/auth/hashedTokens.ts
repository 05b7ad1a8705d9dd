import type { DBAdapter, Where } from 'better-auth';
import { hashToken } from '../house/tokens';

type Session = { token?: unknown };

const hashed = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(hashed) : typeof value === 'string' ? hashToken(value) : value;

const isToken = ({ field }: Where): boolean => field === 'token';

/** Conditions on a session's token ask for its hash. */
const stored = (where: Where[] | undefined): Where[] | undefined =>
  where?.map((one) =>
    isToken(one) ? { ...one, value: hashed(one.value) as Where['value'] } : one,
  );

/** The library goes on with the token it asked for, not with what is kept of it. */
function asAsked<T>(found: T, where: Where[] | undefined): T {
  const asked = where?.find(isToken)?.value;
  if (!found || typeof asked !== 'string') return found;
  return { ...found, token: asked };
}

/**
 * A database adapter of the sign-in library that keeps session tokens as hashes alone: whoever reads the table
 * cannot sign in with what stands there.
 */
export function withHashedTokens<A extends Omit<DBAdapter, 'transaction'>>(adapter: A): A {
  const isSession = (model: string): boolean => model === 'session';
  const wrapped = {
    ...adapter,
    async create(wish: Parameters<A['create']>[0]) {
      if (!isSession(wish.model)) return adapter.create(wish);
      const { token } = wish.data as Session;
      const made = await adapter.create({
        ...wish,
        data: { ...wish.data, token: hashed(token) },
      });
      return { ...(made as object), token };
    },
    async findOne(wish: Parameters<A['findOne']>[0]) {
      if (!isSession(wish.model)) return adapter.findOne(wish);
      return asAsked(await adapter.findOne({ ...wish, where: stored(wish.where)! }), wish.where);
    },
    async update(wish: Parameters<A['update']>[0]) {
      if (!isSession(wish.model)) return adapter.update(wish);
      return asAsked(await adapter.update({ ...wish, where: stored(wish.where)! }), wish.where);
    },
  } as A;
  for (const name of ['findMany', 'count', 'updateMany', 'delete', 'deleteMany'] as const) {
    const plain = adapter[name] as (wish: { model: string; where?: Where[] }) => unknown;
    Object.assign(wrapped, {
      [name]: (wish: { model: string; where?: Where[] }) =>
        plain(isSession(wish.model) ? { ...wish, where: stored(wish.where) } : wish),
    });
  }
  const { transaction } = adapter as unknown as DBAdapter;
  if (transaction)
    Object.assign(wrapped, {
      transaction: (run: (inner: A) => Promise<unknown>) =>
        transaction((inner) => run(withHashedTokens(inner as unknown as A))),
    });
  return wrapped;
}
