import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';
import pLimit from 'p-limit';

/** A lock that is had; PostgreSQL gives it back by itself when this process or its connection dies. */
export interface Lock {
  isHeld: () => boolean;
  release: () => Promise<void>;
}

/**
 * Locks by name, across all processes of an archive. One connection holds all those of a process: a lock that
 * kept a connection of the pool while its holder waits for another would end with everybody waiting.
 */
export interface Locks {
  /** @returns null where somebody else has it, in this process or another */
  take: (name: string) => Promise<Lock | null>;
  /** Wait until it is free, and take it. */
  hold: (name: string) => Promise<Lock>;
  end: () => Promise<void>;
}

const LOOK_EVERY_MS = 50;

interface Session {
  client: pg.Client;
  /** PostgreSQL would give the same session the same lock twice. */
  held: Set<string>;
}

export function makeLocks(databaseUrl: string): Locks {
  let current: Promise<Session> | null = null;
  const oneByOne = pLimit(1);
  const session = (): Promise<Session> => {
    if (current) return current;
    const client = new pg.Client({ connectionString: databaseUrl });
    const mine: Promise<Session> = client
      .connect()
      .then(() => ({ client, held: new Set<string>() }));
    const lost = (): void => {
      if (current === mine) current = null;
    };
    mine.catch(lost);
    client.on('error', lost).on('end', lost);
    return (current = mine);
  };
  const take = async (name: string): Promise<Lock | null> => {
    const mine = session();
    const { client, held } = await mine;
    if (held.has(name)) return null;
    held.add(name);
    try {
      const { rows } = await oneByOne(() =>
        client.query<{ taken: boolean }>(
          'select pg_try_advisory_lock(hashtextextended($1, 0)) as taken',
          [name],
        ),
      );
      if (!rows[0]?.taken) {
        held.delete(name);
        return null;
      }
    } catch (error) {
      held.delete(name);
      throw error;
    }
    const isHeld = (): boolean => current === mine && held.has(name);
    return {
      isHeld,
      async release() {
        if (isHeld())
          await oneByOne(() =>
            client.query('select pg_advisory_unlock(hashtextextended($1, 0))', [name]),
          ).catch(() => undefined);
        held.delete(name);
      },
    };
  };
  return {
    take,
    async hold(name) {
      for (;;) {
        const lock = await take(name);
        if (lock) return lock;
        await sleep(LOOK_EVERY_MS);
      }
    },
    async end() {
      const last = await current?.catch(() => null);
      current = null;
      await last?.client.end().catch(() => undefined);
    },
  };
}
