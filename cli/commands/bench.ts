import { chmodSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import { seed, seededItems } from '../../bench/archive';
import { BENCHES } from '../../bench/bench';
import { memoryOf, MILLION, startIndexProcess } from '../../bench/million';
import { pageWeight } from '../../bench/weight';
import { answer, parse, type Command } from '../arguments';
import { buildIfChanged } from '../serve';
import { openArchive } from '../archive';

const help = `Usage: ./mindful bench NAME [--n N] [--runs N] [--json]
       ./mindful bench seed [--items N] [--json]

Measures against a floor in the same run: ${[...Object.keys(BENCHES), ...Object.keys(MILLION), 'page'].join(', ')}.
bench/README.md explains each. ${Object.keys(MILLION).join(', ')} ask a made-up archive that seed fills, a million
items unless said, in a folder of its own that is kept.`;

/** Where the made-up archive lies: PostgreSQL's account must be able to pass. */
const SEEDED_HOME = join(tmpdir(), 'mindful-seeded');

async function onSeeded(
  name: string,
  items: number,
  runs: number,
  json: boolean | undefined,
): Promise<number> {
  mkdirSync(SEEDED_HOME, { recursive: true, mode: 0o755 });
  const archive = await openArchive({
    ...process.env,
    MINDFUL_HOME: join(SEEDED_HOME, 'home'),
    DATABASE_URL: '',
    MINDFUL_PG_PORT: '22290',
  });
  try {
    const { house } = archive;
    const held = await seededItems(house);
    const began = performance.now();
    if (held === 0)
      await seed(house, items, (done) => {
        if (done % 100_000 === 0) console.error(`${done} items made`);
      });
    if (name === 'seed') {
      const seconds = Math.round((performance.now() - began) / 1000);
      answer(json, { bench: 'seed', items: held || items, seconds: held ? 0 : seconds }, () =>
        held ? `${held} items are there` : `${items} items in ${seconds} s`,
      );
      return 0;
    }
    const index = await startIndexProcess(house);
    const ended = new Promise((resolve) => index.child.on('exit', resolve));
    const [line, memory] = await MILLION[name]!(house, runs)
      .then((done) => [done, memoryOf(index.child.pid!)] as const)
      .finally(() => {
        index.child.kill('SIGTERM');
        return ended;
      });
    answer(
      json,
      { ...line, startSeconds: index.startSeconds, memory },
      () =>
        `${line.bench}: ${line.ours} ${line.unit} against ${line.floor}, ${line.ratio} ×, ${line.n} items; started in ${index.startSeconds.toFixed(1)} s, ${memory.now} MB`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

const whole = (text: string, name: string): number => {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1)
    throw new ArchiveError('bad-request', `--${name} takes a whole number from 1.`);
  return value;
};

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    n: { type: 'string' },
    runs: { type: 'string', default: '3' },
    items: { type: 'string', default: '1000000' },
    json: { type: 'boolean' },
  });
  const name = positionals[0] ?? '';
  if (name === 'seed' || name in MILLION)
    return onSeeded(name, whole(values.items, 'items'), whole(values.runs, 'runs'), values.json);
  if (name === 'page') {
    await buildIfChanged((line) => console.error(line));
    const line = pageWeight();
    answer(values.json, line, () => `${line.bench}: ${line.ours} kB of ${line.floor} kB`);
    return 0;
  }
  const bench = BENCHES[name];
  if (!bench)
    throw new ArchiveError(
      'bad-request',
      `There are these benches: ${Object.keys(BENCHES).join(', ')}.`,
    );
  const home = mkdtempSync(join(tmpdir(), 'mindful-bench-'));
  chmodSync(home, 0o755);
  const archive = await openArchive({
    ...process.env,
    MINDFUL_HOME: home,
    DATABASE_URL: '',
    MINDFUL_PG_PORT: '22280',
  });
  try {
    const line = await bench.run(
      archive.house,
      values.n ? whole(values.n, 'n') : bench.count,
      whole(values.runs, 'runs'),
    );
    answer(
      values.json,
      line,
      () =>
        `${line.bench}: ${line.ours} ${line.unit} against ${line.floor} ${line.unit}, ${line.ratio} ×, ${line.n} pieces`,
    );
    return 0;
  } finally {
    await archive.close();
    rmSync(home, { recursive: true, force: true });
  }
}

export const command: Command = { summary: 'measure against a floor', help, run };
