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

/** Connect to PostgreSQL; the pool is shared with the queue and the sign-in library. */
export function connect(url: string, poolSize: number): { db: Kysely<Database>; pool: pg.Pool } {
  const pool = new pg.Pool({
    connectionString: url,
    max: poolSize,
    connectionTimeoutMillis: 10_000,
    types: types as pg.CustomTypesConfig,
  });
  // A connection lost while idle is replaced on the next query; the error must not end the process.
  pool.on('error', () => undefined);
  pool.on('connect', (client) => client.on('error', () => undefined));
  const db = new Kysely<Database>({
    dialect: new PostgresDialect({ pool }),
    plugins: [new CamelCasePlugin({ maintainNestedObjectKeys: true })],
  });
  return { db, pool };
}
