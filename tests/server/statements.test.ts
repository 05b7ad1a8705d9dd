import { sql } from 'kysely';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { connect, STATEMENT_MS, whileWanted } from '#server/db/connect';
import { known } from '#server/edge/edge';
import { useArchive } from '../support/archive';

const archive = useArchive({ worker: false });
let page: ReturnType<typeof connect>;

beforeAll(() => {
  page = connect(archive.databaseUrl, 3, 'page');
});
afterAll(() => page.db.destroy());

const sleeping = async (): Promise<number> => {
  const { rows } = await sql<{ n: number }>`select count(*)::int as n from pg_stat_activity
    where query like '%pg_sleep(60)%' and state = 'active' and pid <> pg_backend_pid()`.execute(
    archive.house.db,
  );
  return rows[0]!.n;
};

describe('statements', () => {
  it('have a limit of time by the kind of work', async () => {
    const limit = async ({ db }: Pick<typeof page, 'db'>): Promise<string> =>
      (
        await sql<{
          limit: string;
        }>`select current_setting('statement_timeout') as "limit"`.execute(db)
      ).rows[0]!.limit;
    expect(await limit(page)).toBe(`${STATEMENT_MS.page / 1000}s`);
    expect(await limit(archive.house)).toBe(`${STATEMENT_MS.work / 60_000}min`);
  });

  it('end with the request that asked, and the connection goes on', async () => {
    const gone = new AbortController();
    const asked = whileWanted(gone.signal, () => sql`select pg_sleep(60)`.execute(page.db));
    const refused = expect(asked).rejects.toMatchObject({ code: '57014' });
    for (let look = 0; look < 100 && (await sleeping()) === 0; look += 1)
      await new Promise((resolve) => setTimeout(resolve, 20));
    const began = Date.now();
    gone.abort();
    await refused;
    expect(Date.now() - began).toBeLessThan(5000);
    expect(await sleeping()).toBe(0);
    const again = await sql<{ n: number }>`select 1 as n`.execute(page.db);
    expect(again.rows).toEqual([{ n: 1 }]);
    // Nothing is begun for one that is gone already.
    await expect(
      whileWanted(gone.signal, () => sql`select 1`.execute(page.db)),
    ).rejects.toMatchObject({ name: 'AbortError' });
  });

  it('that PostgreSQL refuses or ends are told in words', () => {
    const coded = (code: string) => known(Object.assign(new Error('x'), { code }));
    expect(coded('57014')).toMatchObject({ code: 'too-slow', status: 503 });
    for (const code of ['22003', '22021', '22P02']) expect(coded(code)!.status).toBe(400);
    expect(coded('ECONNREFUSED')).toMatchObject({ code: 'database-away' });
    expect(coded('23505')).toMatchObject({ code: 'conflict', status: 409 });
  });
});
