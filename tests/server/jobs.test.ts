import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from 'vitest';
import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import { migrate } from '#server/db/migrate';
import { MIGRATIONS } from '#server/db/migrations';
import { enqueue, requeue, underway, wishJob, type NewJob } from '#server/jobs/queue';
import { runJob, Stopped, type Task } from '#server/jobs/attempt';
import { migrateQueue, workerSeen } from '#server/work/queue';
import { startWorker } from '#server/work/worker';
import { startListening } from '#server/live/listen';
import { notify, notifyItems } from '#server/live/notify';
import { KEEPER, until, useArchive } from '../support/archive';

const archive = useArchive({ worker: false });
const db = () => archive.house.db;

const work = (over: Partial<NewJob> = {}): NewJob => ({
  task: 'scan',
  title: 'Looking through a card',
  subject: randomUUID(),
  ...over,
});
const stateOf = async (id: string) =>
  db().selectFrom('job').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
const one = async (over: Partial<NewJob> = {}): Promise<string> =>
  (await enqueue(db(), [work(over)]))[0]!;
const run = (task: Task, id: string): Promise<void> =>
  runJob(archive.house, { scan: task, operation: task, tiles: task }, id);

describe('the schema', () => {
  it('is brought up to date once, however many start at once', async () => {
    await Promise.all([migrate(db()), migrate(db()), migrate(db())]);
    const { rows } = await sql<{ name: string }>`select name from migration order by name`.execute(
      db(),
    );
    expect(rows.map(({ name }) => name)).toEqual(MIGRATIONS.map(({ name }) => name).sort());
    await migrateQueue(archive.house);
  });

  it('keeps what must hold out of the hands of code', async () => {
    const wrong = [
      sql`insert into job (id, task, title, state) values (${randomUUID()}, 'scan', 'x', 'sleeping')`,
      sql`insert into item_term (item_id, term_id) values (${randomUUID()}, ${randomUUID()})`,
      sql`insert into person (id, name, email, role, email_verified) values (${randomUUID()}, 'x', 'x@y', 'guest', false)`,
    ];
    for (const statement of wrong)
      await expect(statement.execute(db())).rejects.toMatchObject({
        code: expect.stringMatching(/^23/) as string,
      });
  });
});

describe('work', () => {
  it('is added once for one subject while it waits', async () => {
    const subject = randomUUID();
    const first = await enqueue(db(), [work({ subject }), work({ subject })]);
    expect(first).toHaveLength(1);
    expect(await enqueue(db(), [work({ subject })])).toEqual([]);
    expect(await enqueue(db(), [])).toEqual([]);
    await run(async () => undefined, first[0]!);
    expect((await stateOf(first[0]!)).state).toBe('done');
    expect(await enqueue(db(), [work({ subject })])).toHaveLength(1);
  });

  it('appears with its transaction or not at all', async () => {
    const subject = randomUUID();
    await expect(
      db()
        .transaction()
        .execute(async (transaction) => {
          await enqueue(transaction, [work({ subject })]);
          throw new Error('and then it broke');
        }),
    ).rejects.toThrow('and then it broke');
    const left = await db().selectFrom('job').select('id').where('subject', '=', subject).execute();
    expect(left).toEqual([]);
    const { rows } = await sql<{ count: number }>`
      select count(*)::int as count from graphile_worker.jobs where task_identifier = 'scan' and key is null`.execute(
      db(),
    );
    expect(rows[0]!.count).toBe(0);
  });

  it('reports, ends, and is not done twice', async () => {
    const id = await one();
    let runs = 0;
    const task: Task = async (_house, _job, progress) => {
      runs += 1;
      await progress.report(3, 10, 'files');
      await progress.report(10, 10, 'files');
    };
    await run(task, id);
    expect(await stateOf(id)).toMatchObject({
      state: 'done',
      done: 10,
      total: 10,
      unit: 'files',
      attempts: 1,
    });
    await run(task, id);
    expect(runs).toBe(1);
  });

  it('is never done by two at once', async () => {
    const id = await one();
    let release: () => void = () => undefined;
    const held = new Promise<void>((resolve) => (release = resolve));
    const first = run(() => held, id);
    await until(async () => (await stateOf(id)).state === 'running', 'the first to begin');
    await expect(run(async () => undefined, id)).rejects.toMatchObject({ code: 'conflict' });
    release();
    await first;
    expect((await stateOf(id)).state).toBe('done');
  });

  it('says why it failed, in a typed sentence at once, in another after some tries', async () => {
    const typed = await one();
    await run(async () => {
      throw new ArchiveError('disk-full', 'The disk is full.');
    }, typed);
    expect(await stateOf(typed)).toMatchObject({ state: 'failed', reason: 'The disk is full.' });

    const odd = await one();
    const breaks: Task = async () => {
      throw new Error('connection lost');
    };
    await expect(run(breaks, odd)).rejects.toThrow('connection lost');
    expect((await stateOf(odd)).state).toBe('waiting');
    await expect(run(breaks, odd)).rejects.toThrow('connection lost');
    await run(breaks, odd);
    expect(await stateOf(odd)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('connection lost') as string,
    });
  });

  it('that takes its worker down again and again is given up', async () => {
    const id = await one();
    const cutOff = (triedSince: Date) =>
      db().updateTable('job').set({ attempts: 3, triedSince }).where('id', '=', id).execute();
    // Four within a moment are somebody who ends workers, not work that does.
    await cutOff(new Date(Date.now() - 15_000));
    let runs = 0;
    const task: Task = async () => {
      runs += 1;
      throw new Stopped('paused');
    };
    await run(task, id);
    expect([runs, (await stateOf(id)).state]).toEqual([1, 'paused']);
    await requeue(db(), id);
    await cutOff(new Date(Date.now() - 90_000));
    await run(task, id);
    expect(runs).toBe(1);
    expect(await stateOf(id)).toMatchObject({
      state: 'failed',
      reason: expect.stringContaining('given up') as string,
    });
    await requeue(db(), id);
    await run(async () => undefined, id);
    expect((await stateOf(id)).state).toBe('done');
  });

  it('that gets further each time is not given up', async () => {
    const id = await one();
    const attempts = async (): Promise<number> =>
      (
        await db()
          .selectFrom('job')
          .select('attempts')
          .where('id', '=', id)
          .executeTakeFirstOrThrow()
      ).attempts;
    await db().updateTable('job').set({ attempts: 2, done: 5 }).where('id', '=', id).execute();
    let seen: number[] = [];
    await run(async (_house, _job, progress) => {
      // What was reached before is no progress.
      await progress.report(5, 5, 'files');
      seen = [await attempts()];
      await progress.report(6, 6, 'files');
      seen.push(await attempts());
    }, id);
    expect(seen).toEqual([3, 1]);
  });

  it('nobody knows is failed in words', async () => {
    const id = await one({ task: 'proxy' });
    await run(async () => undefined, id);
    expect((await stateOf(id)).reason).toContain('proxy');
  });
});

describe('pause, go on, stop', () => {
  it('act between steps of what runs', async () => {
    const id = await one();
    const steps: number[] = [];
    const task: Task = async (_house, _job, progress) => {
      for (let step = 0; step < 6; step += 1) {
        await progress.checkWish();
        steps.push(step);
        if (step === 2) await wishJob(db(), KEEPER, id, 'pause');
      }
    };
    await run(task, id);
    expect([steps, (await stateOf(id)).state]).toEqual([[0, 1, 2], 'paused']);
    await run(task, id);
    expect(steps).toHaveLength(3);
    await wishJob(db(), KEEPER, id, 'run');
    expect((await stateOf(id)).state).toBe('waiting');
    await wishJob(db(), KEEPER, id, 'cancel');
    expect((await stateOf(id)).state).toBe('cancelled');
    await run(task, id);
    expect(steps).toHaveLength(3);
  });

  it('reach the work that follows', async () => {
    const parent = await one();
    const child = await one({ parentId: parent });
    await wishJob(db(), KEEPER, parent, 'cancel');
    expect([(await stateOf(parent)).state, (await stateOf(child)).state]).toEqual([
      'cancelled',
      'cancelled',
    ]);
  });

  it('refuse what runs to its end, and what is not there', async () => {
    const id = await one({ task: 'tiles' });
    for (const wish of ['pause', 'cancel'] as const)
      await expect(wishJob(db(), KEEPER, id, wish)).rejects.toMatchObject({ code: 'conflict' });
    expect((await stateOf(id)).wish).toBe('run');
    await expect(wishJob(db(), KEEPER, randomUUID(), 'pause')).rejects.toMatchObject({
      code: 'not-found',
    });
  });
});

describe('underway', () => {
  it('lists open work first, with what follows from it, and hides what only a look asked for', async () => {
    const parent = await one({ title: 'The parent' });
    await one({ parentId: parent });
    await one({ task: 'tiles', title: 'A close look' });
    const lines = await underway(db(), KEEPER);
    const found = lines.find(({ id }) => id === parent)!;
    expect(found).toMatchObject({ title: 'The parent', after: { waiting: 1, done: 0, failed: 0 } });
    expect(lines.some(({ title }) => title === 'A close look')).toBe(false);
    const states = lines.map(({ state }) => ['waiting', 'running', 'paused'].includes(state));
    expect(
      states.indexOf(false) === -1 || !states.slice(states.indexOf(false)).includes(true),
    ).toBe(true);
  });
});

describe('live', () => {
  let heard: string[] = [];
  beforeAll(() => {
    startListening(archive.house, {
      hear: (message) => heard.push(message),
      again: () => undefined,
    });
  });

  it('tells every ear what changed once it is committed', async () => {
    await until(async () => {
      await notify(db(), { about: 'rooms' });
      return heard.length > 0;
    }, 'the first message');
    heard = [];
    await db()
      .transaction()
      .execute(async (transaction) => {
        await notifyItems(transaction as never, ['a'], ['rating']);
        await new Promise((resolve) => setTimeout(resolve, 150));
        expect(heard.filter((text) => text.includes('items'))).toEqual([]);
      });
    await until(async () => heard.some((text) => text.includes('"a"')), 'the message');
  });

  it('says “many” where the ids would not fit', async () => {
    heard = [];
    const ids = Array.from({ length: 5000 }, () => randomUUID());
    await notifyItems(db(), ids, ['rating'], 'op');
    await until(async () => heard.length > 0, 'the message');
    expect(JSON.parse(heard[0]!)).toEqual({
      ...{ about: 'items', ids: [], fields: ['rating'], operation: 'op' },
    });
  });

  it('listens again when the database broke the connection off', async () => {
    await sql`select pg_terminate_backend(pid) from pg_stat_activity where query like 'listen %' and datname = current_database()`.execute(
      db(),
    );
    heard = [];
    await until(async () => {
      await notify(db(), { about: 'collections' });
      return heard.length > 0;
    }, 'a message after the break');
  });
});

describe('workers', () => {
  it('are seen while they live; what a dead one held is done by the next', async () => {
    expect(await workerSeen(archive.house)).toBe(false);
    const id = await one({ task: 'scan', subject: randomUUID() });
    // As a killed worker leaves it: running by its row, held by nobody.
    await db()
      .updateTable('job')
      .set({ state: 'running', attempts: 1 })
      .where('id', '=', id)
      .execute();
    await sql`update graphile_worker._private_jobs set locked_at = now(), locked_by = 'dead' where key = ${id}`.execute(
      db(),
    );
    await db()
      .insertInto('worker')
      .values({
        id: randomUUID(),
        host: archive.house.settings.hostname,
        pid: 2 ** 22 + 1,
        locks: ['dead'],
        seenAt: new Date(Date.now() - 3600_000),
      })
      .execute();
    const worker = await startWorker(archive.house);
    try {
      expect(await workerSeen(archive.house)).toBe(true);
      await until(
        async () => ['failed', 'done'].includes((await stateOf(id)).state),
        'the left work to be done',
        30,
      );
    } finally {
      await worker.stop();
    }
    await until(async () => !(await workerSeen(archive.house)), 'the worker to be gone', 60);
  });

  it('take up what waits without a place in the queue, as a kill between the two once left it', async () => {
    const id = await one();
    await sql`delete from graphile_worker._private_jobs where key = ${id}`.execute(db());
    const worker = await startWorker(archive.house);
    try {
      await until(async () => (await stateOf(id)).state !== 'waiting', 'it to be begun', 30);
    } finally {
      await worker.stop();
    }
  });
});
