import { AsyncLocalStorage } from 'node:async_hooks';
import { CamelCasePlugin, Kysely, PostgresDialect } from 'kysely';
import pg from 'pg';
import type { Database } from './schema';

const BIGINT = 20;
const TIMESTAMP = 1114;

// Sizes and change numbers stay far below 2^53; wall-clock times must never meet a time zone.
const types = {
  getTypeParser(oid: number, format?: 'text' | 'binary') {
    if (oid === BIGINT) return Number;
    if (oid === TIMESTAMP) return (text: string) => text.replace(' ', 'T');
    return pg.types.getTypeParser(oid, format as 'text');
  },
};

/** Milliseconds a statement may take: somebody waits for a page; work may take its time, but not for ever. */
export const STATEMENT_MS = { page: 15_000, work: 15 * 60_000 } as const;
/** Milliseconds a connection may be waited for: a disk that stalls fails no work. */
const CONNECTION_MS = { page: 10_000, work: 120_000 } as const;
export type Patience = keyof typeof STATEMENT_MS;

/** The request that is answered; statements asked for it end when it goes away. */
const asking = new AsyncLocalStorage<AbortSignal>();

/** Run with every statement cancelled once the signal fires. */
export const whileWanted = <T>(signal: AbortSignal, run: () => T): T => asking.run(signal, run);

interface PlainClient extends pg.PoolClient {
  processID: number;
}

/** Let the statements of a connection end with the request they are asked for. */
function makeCancellable(client: PlainClient, cancel: (backend: number) => Promise<void>): void {
  const plain = client.query.bind(client) as (...given: unknown[]) => Promise<unknown>;
  const query = (...given: unknown[]): unknown => {
    const signal = asking.getStore();
    if (!signal || typeof given.at(-1) === 'function') return plain(...given);
    let cancelling: Promise<void> | undefined;
    const end = (): void => void (cancelling = cancel(client.processID));
    const run = async (): Promise<unknown> => {
      signal.throwIfAborted();
      signal.addEventListener('abort', end, { once: true });
      try {
        return await plain(...given);
      } finally {
        signal.removeEventListener('abort', end);
        // The connection is handed on only when no cancellation can hit the next statement.
        await cancelling;
      }
    };
    return run();
  };
  client.query = query as typeof client.query;
}

/** Connect to PostgreSQL; the pool is shared with the queue and the sign-in library. */
export function connect(
  url: string,
  poolSize: number,
  patience: Patience,
): { db: Kysely<Database>; pool: pg.Pool } {
  const pool = new pg.Pool({
    connectionString: url,
    max: poolSize,
    connectionTimeoutMillis: CONNECTION_MS[patience],
    // Statements of many columns were compiled for seconds to run for one.
    // Disks of today find a row as fast anywhere: a scan of everything is not cheaper.
    options: '-c jit=off -c random_page_cost=1.1',
    statement_timeout: STATEMENT_MS[patience],
    idle_in_transaction_session_timeout: STATEMENT_MS[patience],
    types: types as pg.CustomTypesConfig,
  });
  const cancel = async (backend: number): Promise<void> => {
    const client = new pg.Client({ connectionString: url, connectionTimeoutMillis: 5000 });
    client.on('error', () => undefined);
    try {
      await client.connect();
      await client.query('select pg_cancel_backend($1)', [backend]);
    } catch {
      // Its time limit ends the statement as well, only later.
    } finally {
      await client.end().catch(() => undefined);
    }
  };
  // A connection lost while idle is replaced on the next query; the error must not end the process.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => {
    client.on('error', () => undefined);
    makeCancellable(client as PlainClient, cancel);
  });
  const db = new Kysely<Database>({
    dialect: new PostgresDialect({ pool }),
    plugins: [new CamelCasePlugin({ maintainNestedObjectKeys: true })],
  });
  return { db, pool };
}
