import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';
import { pino } from 'pino';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Answers } from '#core/index/answers';
import type { Surroundings } from '#core/index/evaluate';
import { inOrder, ShelfIndex } from '#core/index/shelfIndex';
import { EVERYTHING, has, is, isCondition, not, type Node, type Query } from '#core/query/tree';
import { answerFrom } from '#server/index/answer';
import { Counter } from '#server/index/counter';
import { exercise } from '#server/index/exercise';
import { LivingIndex } from '#server/index/living';
import { changeRecords } from '#server/records/records';
import { random as seeded } from '../../demo/paint/random';
import { useArchive } from '../support/archive';
import { makeItems } from '../support/made';
import { asSeen } from '#server/sight/seen';

const FIELDS = ['rating', 'camera', 'iso', 'creator', 'persons', 'bytes', 'taken', 'folder'];
const NODES: Node[][] = [
  [],
  [{ field: 'rating', test: 'range', values: [2, null] }],
  [is('camera', 'Camera 3')],
  [not(has('persons'))],
  [{ any: [is('iso', 200), is('rating', 5)] }],
];
const QUERIES = NODES.map((where): Query => ({ ...EVERYTHING, where }));
const log = pino({ level: 'silent' });
const around = { now: new Date(), slow: new Map() } as unknown as Surroundings;

/** An index of very many items, each saying something else. */
function made(count: number): ShelfIndex {
  const index = new ShelfIndex();
  const { int } = seeded(3);
  for (let ord = 1; ord <= count; ord += 1) {
    const at = Date.UTC(2000, 0, int(1, 9000));
    const values = inOrder({
      rating: int(0, 5),
      camera: `Camera ${int(0, 30)}`,
      iso: 100 * 2 ** int(0, 6),
      creator: int(0, 3) === 0 ? [] : [`Creator ${int(0, 200)}`],
      persons: Array.from({ length: int(0, 3) }, () => `Person ${int(0, 9000)}`),
      bytes: int(0, 900_000_000),
      taken: [at, at],
      folder: `folder-${int(0, 3000)}`,
    });
    const id = `018f0000-0000-7000-8000-${String(ord).padStart(12, '0')}`;
    index.put({ ord, id, numberKey: ord, aspect: 150, day: '', values });
  }
  index.settle(1);
  index.prepare();
  return index;
}

describe('the counting thread', () => {
  const folder = mkdtempSync(join(tmpdir(), 'mindful-counter-'));
  const script = join(folder, 'counter.mjs');
  beforeAll(async () => {
    await build({
      entryPoints: ['src/lib/server/index/counter.worker.ts'],
      ...{ outfile: script, bundle: true, format: 'esm', platform: 'node', logLevel: 'error' },
    });
  });
  afterAll(() => rmSync(folder, { recursive: true }));

  const index = made(40_000);
  /** What is counted anew, and asked of nobody else. */
  const facets = (count?: Counter['count']) => {
    const answers = new Answers(index, () => null);
    answers.prepare();
    return Promise.all(
      QUERIES.map((query) => answers.facets(query, FIELDS, around, 50, count ?? undefined)),
    );
  };

  it('says what this one says, many asking at once', async () => {
    const counter = new Counter(pathToFileURL(script), log);
    const expected = await facets();
    for (const found of await Promise.all([1, 2, 3, 4].map(() => facets(counter.count))))
      expect(found).toEqual(expected);
    await counter.stop();
    // And what each field says asked by itself, of which these are the most frequent.
    const answers = new Answers(index, () => null);
    QUERIES.forEach((query, at) => {
      for (const key of FIELDS.filter((one) => one !== 'bytes')) {
        const { counts } = answers.count(query, key, around);
        const { values, counts: told } = expected[at]![key]!;
        expect(told).toEqual([...counts.values()].sort((a, b) => b - a).slice(0, 50));
        expect(values.map((value) => counts.get(value))).toEqual(told);
      }
    });
  });

  it('is done without where it fails or ends amid its work', async () => {
    const expected = await facets();
    for (const [name, text] of [
      ['fails', `throw new Error('no');`],
      [
        'ends',
        `import { parentPort } from 'node:worker_threads'; parentPort.on('message', () => process.exit(1));`,
      ],
    ] as const) {
      writeFileSync(join(folder, `${name}.mjs`), text);
      const counter = new Counter(pathToFileURL(join(folder, `${name}.mjs`)), log);
      expect(await facets(counter.count)).toEqual(expected);
      expect(await facets(counter.count)).toEqual(expected);
      await counter.stop();
    }
    const none = new Counter(pathToFileURL(join(folder, 'not there.mjs')), log);
    expect(await facets(none.count)).toEqual(expected);
    await none.stop();
  });
});

describe('an index that is counted in another thread', () => {
  const archive = useArchive({ worker: false });

  it('takes in what changed when that has ended, and counts by itself meanwhile', async () => {
    await makeItems(archive);
    let isCounting = (): void => undefined;
    const begun = new Promise<void>((resolve) => (isCounting = resolve));
    let finish = (): void => undefined;
    const finished = new Promise<void>((resolve) => (finish = resolve));
    const { db, pool } = archive.house;
    const slow = {
      count: async (parts: Parameters<Counter['count']>[0]) => {
        isCounting();
        await finished;
        return new Counter(pathToFileURL('/nowhere.mjs'), log).count(parts);
      },
    } as Counter;
    const living = new LivingIndex(db, pool, slow);
    await living.build();
    const query = EVERYTHING;
    const ask = { ask: 'facets' as const, query, fields: ['rating'], page: 1 };
    const plain = new LivingIndex(db, pool);
    await plain.build();
    const was = (await answerFrom(plain, ask)).facets['rating'];
    const before = answerFrom(living, ask);
    await begun;
    const { id, rating } = await db
      .selectFrom('item')
      .select(['id', 'rating'])
      .limit(1)
      .executeTakeFirstOrThrow();
    await changeRecords(db, null, asSeen([id]), { rating: rating === 5 ? 4 : 5 });
    const { version } = living.index;
    const caught = living.catchUp();
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(living.index.version).toBe(version);
    // Who asks now waits for nobody.
    const meanwhile = await answerFrom(living, { ...ask, fields: ['rating', 'kind'] });
    expect(meanwhile.facets['rating']).toEqual(was);
    finish();
    expect((await before).facets['rating']).toEqual(was);
    await caught;
    const after = await answerFrom(living, ask);
    expect(after.facets['rating']).not.toEqual(was);
  });

  it('asks itself what people may ask, in every way, until it is told to stop', async () => {
    const living = new LivingIndex(archive.house.db, archive.house.pool);
    await living.build();
    const asked: Query[] = [];
    const { answers } = living;
    const facets = answers.facets.bind(answers);
    answers.facets = (query, ...rest) => {
      asked.push(query);
      return facets(query, ...rest);
    };
    await exercise(living, () => true);
    const nodes = asked.flatMap(({ where }) => where).filter(isCondition);
    expect(new Set(nodes.map(({ test }) => test))).toEqual(
      new Set(['has', 'is', 'in', 'range', 'within', 'says']),
    );
    // A wrong reference or value would find nothing.
    const ask = { fields: [], page: 1, ask: 'facets' as const };
    const vain: string[] = [];
    for (const node of nodes.filter(({ test }) => test !== 'has' && test !== 'says')) {
      const query = { ...EVERYTHING, where: [node] };
      if ((await answerFrom(living, { ...ask, query })).total === 0)
        vain.push(JSON.stringify(node));
    }
    expect([...new Set(vain)]).toEqual([]);
    asked.length = 0;
    await exercise(living, () => asked.length < 5);
    expect(asked).toHaveLength(5);
  });
});
