import { sql } from 'kysely';
import { describe, expect, it } from 'vitest';
import { makeLocks } from '#server/house/locks';
import { useArchive } from '../support/archive';

const archive = useArchive({ worker: false });
const open = () => makeLocks(archive.databaseUrl);

describe('locks', () => {
  it('are had by one at a time, within a process and across processes', async () => {
    const [one, other] = [open(), open()];
    const lock = (await one.take('a'))!;
    expect(lock.isHeld()).toBe(true);
    expect(await one.take('a')).toBeNull();
    expect(await other.take('a')).toBeNull();
    expect((await other.take('b'))!.isHeld()).toBe(true);
    const order: string[] = [];
    const waiting = other.hold('a').then(async (held) => {
      order.push('had');
      await held.release();
    });
    order.push('released');
    await lock.release();
    await waiting;
    expect(order).toEqual(['released', 'had']);
    expect(lock.isHeld()).toBe(false);
    expect(await one.take('b')).toBeNull();
    await other.end();
    expect((await one.hold('b')).isHeld()).toBe(true);
    await one.end();
  });

  it('are known to be lost with their connection, and can be had again', async () => {
    const locks = open();
    const lock = (await locks.take('c'))!;
    await sql`select pg_terminate_backend(l.pid) from pg_locks l join pg_stat_activity a on a.pid = l.pid
      where l.locktype = 'advisory' and a.datname = current_database()`.execute(archive.house.db);
    for (const end = Date.now() + 5000; lock.isHeld() && Date.now() < end;)
      await new Promise((done) => setTimeout(done, 20));
    expect(lock.isHeld()).toBe(false);
    expect((await locks.hold('c')).isHeld()).toBe(true);
    await lock.release();
    expect(await locks.take('c')).toBeNull();
    await locks.end();
  });

  it('leave the pool to the work: more are held than it has connections', async () => {
    const { locks, db, pool } = archive.house;
    const held = await Promise.all(
      Array.from({ length: 4 * pool.options.max }, (_, at) => locks.hold(`many ${at}`)),
    );
    await sql`select 1`.execute(db);
    await Promise.all(held.map((lock) => lock.release()));
    expect(await locks.take('many 0')).not.toBeNull();
  });
});
