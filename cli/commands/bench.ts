import { chmodSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import { BENCHES } from '../../bench/bench';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const help = `Usage: ./mindful bench NAME [--n N] [--runs N] [--json]

Measures against a floor in the same run: ${Object.keys(BENCHES).join(', ')}. bench/README.md explains each.`;

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
    json: { type: 'boolean' },
  });
  const bench = BENCHES[positionals[0] ?? ''];
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
    MINDFUL_PG_PORT: '42280',
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
