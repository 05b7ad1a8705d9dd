import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { sql } from 'kysely';
import { fieldsThatCan } from '#core/fields/registry';
import { is, refTo, type Node, type Query } from '#core/query/tree';
import type { House } from '#server/house/house';
import type { AnswerTo, Ask } from '#server/index/answer';
import { askIndex } from '#server/index/client';
import { INDEX_ENVIRONMENT, INDEX_FLAGS } from '#server/index/process';
import { changeRecords } from '#server/records/records';
import { summaryOfItems } from '#server/records/summary';
import { randomOf } from './material';
import { machine, type BenchLine } from './report';
import { seededItems } from './archive';
import { asSeen } from '#server/sight/seen';

/** Benches over a seeded archive: the index in a process of its own, eight clients at once. */
const CLIENTS = 8;
const ROUNDS = 30;
const WARM = 12;

export interface RunningIndex {
  child: ChildProcess;
  /** Seconds from its start to its first answer. */
  startSeconds: number;
}

/** The index, started as `./mindful start` starts it. */
export async function startIndexProcess(house: House): Promise<RunningIndex> {
  const began = performance.now();
  const flags = [...INDEX_FLAGS, ...process.execArgv];
  const child = spawn(process.execPath, [...flags, process.argv[1]!, 'index'], {
    env: {
      ...process.env,
      ...INDEX_ENVIRONMENT,
      MINDFUL_HOME: house.settings.home,
      DATABASE_URL: house.databaseUrl,
      MINDFUL_LOG: 'warn',
    },
    stdio: ['ignore', 'inherit', 'inherit'],
  });
  const query: Query = { where: [], order: { by: 'taken', down: true } };
  while (!(await askIndex(house, { ask: 'total', query }, null)))
    await new Promise((resolve) => setTimeout(resolve, 200));
  return { child, startSeconds: (performance.now() - began) / 1000 };
}

/** Resident megabytes of a process, now and at most. */
export function memoryOf(pid: number): { now: number; most: number } {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8');
  const read = (name: string): number =>
    Math.round(Number(new RegExp(`${name}:\\s+(\\d+)`).exec(status)?.[1] ?? 0) / 1024);
  return { now: read('VmRSS'), most: read('VmHWM') };
}

/** What the index answers; that it does not answer is no answer. */
async function answered<A extends Ask>(house: House, ask: A): Promise<AnswerTo<A>> {
  const found = await askIndex(house, ask, null);
  if (found === null) throw new Error('the index did not answer');
  return found;
}

const p95 = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length * 0.95)]!;
const middle = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!;
/** So many items are chosen at once. */
const MANY = 10_000;
const rounded = (value: number): number => Math.round(value * 100) / 100;

/** Latencies in ms of work done by eight clients at once, each after the other of its own. */
async function latencies(
  work: (client: number, round: number) => Promise<unknown>,
): Promise<number[]> {
  const found: number[] = [];
  await Promise.all(
    Array.from({ length: CLIENTS }, async (_, client) => {
      for (let round = 0; round < ROUNDS; round += 1) {
        const began = performance.now();
        await work(client, round);
        found.push(performance.now() - began);
      }
    }),
  );
  return found;
}

/** Seeds that follow on each other, spread over all there are: else their first numbers are nearly the same. */
const spread = (seed: number): number => (seed * 2_654_435_761) % 2 ** 32;

/** Random sentences of one to four conditions over what the seeded archive holds. */
async function sentences({ db }: House): Promise<(seed: number) => Query> {
  const terms = await sql<{
    id: string;
  }>`select id from term order by md5(label) limit 400`.execute(db);
  const folders = await sql<{
    id: string;
  }>`select id from folder order by length(path), md5(path) limit 400`.execute(db);
  const stages = await db.selectFrom('stage').select('id').execute();
  return (seed) => {
    const next = randomOf(spread(seed));
    const pick = <T>(list: readonly T[]): T => list[Math.floor(next() * list.length)]!;
    const makers: (() => Node)[] = [
      () => is('kind', pick(['photo', 'footage', 'sound'])),
      () => ({ field: 'rating', test: 'range', values: [pick([1, 2, 3]), null] }),
      () => is('terms', refTo(pick(terms.rows).id)),
      () => ({ field: 'folder', test: 'in', values: [refTo(pick(folders.rows).id)] }),
      () => is('stage', refTo(pick(stages).id)),
      () => ({ field: 'taken', test: 'within', values: [String(2000 + Math.floor(next() * 26))] }),
      () => is('camera', `Camera ${Math.floor(next() * 20)}`),
      () => ({ field: 'iso', test: 'range', values: [200, 1600] }),
      () => ({ field: 'creditLine', test: 'has', values: [], not: true }),
      () => ({ field: 'words', test: 'says', values: [`word${Math.floor(next() * 300)}`] }),
    ];
    const where = Array.from({ length: 1 + Math.floor(next() * 4) }, () => pick(makers)());
    return { where, order: { by: pick(['taken', 'name', 'rating', 'bytes']), down: next() < 0.5 } };
  };
}

/** Scan typed arrays of as many rows for as many conditions: what no index can be asked to beat by much. */
function scanner(rows: number): (conditions: number) => number {
  const columns = Array.from({ length: 5 }, (_, at) => {
    const next = randomOf(at + 1);
    return Uint16Array.from({ length: rows }, () => next() * 60_000);
  });
  return (conditions) => {
    let total = 0;
    for (let row = 0; row < rows; row += 1) {
      let holds = 1;
      for (let at = 0; at < conditions; at += 1) if (columns[at]![row]! > 40_000) holds = 0;
      total += holds;
    }
    return total;
  };
}

async function compared(
  house: House,
  bench: string,
  ours: (client: number, round: number) => Promise<unknown>,
  floor: (client: number, round: number) => Promise<unknown>,
  runs: number,
): Promise<BenchLine> {
  const n = await seededItems(house);
  const pairs: [number, number][] = [];
  // Orders are made when they are first asked for.
  for (let round = 0; round < WARM; round += 1) await ours(0, round).catch(() => undefined);
  for (let run = 0; run < runs; run += 1)
    pairs.push([p95(await latencies(ours)), p95(await latencies(floor))]);
  return {
    bench,
    ours: rounded(middle(pairs.map(([mine]) => mine))),
    floor: rounded(middle(pairs.map(([, theirs]) => theirs))),
    ratio: rounded(middle(pairs.map(([mine, theirs]) => mine / theirs))),
    unit: 'ms p95',
    n,
    runs,
    machine: machine(),
  };
}

/** One after the other, as a thread answers them: a client waits for those before it. */
function queued(): <T>(work: () => T) => Promise<T> {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const mine = last.then(() => new Promise<void>((resolve) => setImmediate(resolve))).then(work);
    last = mine;
    return mine;
  };
}

export const MILLION: Record<string, (house: House, runs: number) => Promise<BenchLine>> = {
  /** First page, exact total and all facets of random sentences. */
  async query(house, runs) {
    const sentence = await sentences(house);
    const fields = fieldsThatCan('count').map(({ key }) => key);
    const scan = scanner(await seededItems(house));
    const inTurn = queued();
    let seed = 0;
    return compared(
      house,
      'query',
      async () => {
        const query = sentence((seed += 1));
        await answered(house, { ask: 'facets', query, fields, page: 60 });
      },
      () => inTurn(() => scan(3)),
      runs,
    );
  },
  /** A page of a million-item wall, anywhere. */
  async scroll(house, runs) {
    const total = await seededItems(house);
    const query: Query = { where: [], order: { by: 'taken', down: true } };
    const { rows } = await sql<{
      id: string;
    }>`select id from item order by md5(number) limit 20000`.execute(house.db);
    const next = randomOf(7);
    const fetch = (ids: string[]): Promise<unknown> =>
      sql`select * from item where id = any(${ids}::uuid[])`.execute(house.db);
    return compared(
      house,
      'scroll',
      async () => {
        const from = Math.floor(next() * (total - 100));
        const ids = await answered(house, { ask: 'ids', query, from, to: from + 100 });
        await fetch(ids);
      },
      () => {
        const from = Math.floor(next() * (rows.length - 100));
        return fetch(rows.slice(from, from + 100).map(({ id }) => id));
      },
      runs,
    );
  },
  /** The record card of ten thousand chosen items; and a field set on all of them, until the counts are right. */
  async card(house, runs) {
    const { db } = house;
    const n = Math.min(MANY, await seededItems(house));
    const { rows } = await sql<{
      id: string;
    }>`select id from item where deleted_at is null order by md5(number) limit ${n}`.execute(db);
    const ids = rows.map(({ id }) => id);
    const timed = async (work: () => Promise<unknown>): Promise<number> => {
      const began = performance.now();
      await work();
      return performance.now() - began;
    };
    const fetch = (): Promise<unknown> =>
      sql`select * from item where id = any(${ids}::uuid[])`.execute(db);
    await summaryOfItems(db, asSeen(ids));
    const pairs: [number, number][] = [];
    const [set, counted]: [number[], number[]] = [[], []];
    for (let run = 0; run < runs; run += 1) {
      pairs.push([await timed(() => summaryOfItems(db, asSeen(ids))), await timed(fetch)]);
      const event = `Bench ${performance.now()}`;
      set.push(await timed(() => changeRecords(db, null, asSeen(ids), { event })));
      const query: Query = { where: [is('event', event)], order: { by: 'taken', down: true } };
      counted.push(
        await timed(async () => {
          // While it takes changes in the index says so, and the database answers.
          while ((await askIndex(house, { ask: 'total', query }, null)) !== n)
            await new Promise((resolve) => setTimeout(resolve, 20));
        }),
      );
    }
    await db.deleteFrom('job').where('task', '=', 'write-records').execute();
    return {
      bench: 'card',
      n,
      runs,
      unit: 'ms',
      machine: machine(),
      ours: rounded(middle(pairs.map(([mine]) => mine))),
      floor: rounded(middle(pairs.map(([, theirs]) => theirs))),
      ratio: rounded(middle(pairs.map(([mine, theirs]) => mine / theirs))),
      setMs: rounded(middle(set)),
      countedMs: rounded(middle(counted)),
    };
  },
  /** Words and beginnings of words. */
  async words(house, runs) {
    const next = randomOf(11);
    const word = (): string => `word${Math.floor(next() * 2000)}`;
    return compared(
      house,
      'words',
      () =>
        answered(house, {
          ask: 'total',
          query: {
            where: [{ field: 'words', test: 'says', values: [word()] }],
            order: { by: 'taken', down: true },
          },
        }),
      () =>
        sql`select count(*) from item_words where words @@ ${`'${word()}':*`}::tsquery`.execute(
          house.db,
        ),
      runs,
    );
  },
};
