import { execFile, spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync } from 'node:fs';
import { join, relative } from 'node:path';
import { promisify } from 'node:util';
import { z } from 'zod';
import { APPLICATION } from '#server/house/application';
import { pageWeight } from '../../bench/weight';
import { parse, type Command } from '../arguments';
import { buildIfChanged } from '../serve';

const ROOT = APPLICATION;
const WORK = join(ROOT, '.build');

const help = `Usage: ./mindful test [NAME …]

Runs every check (types, lint, format) and every test: the core alone, the server against a real PostgreSQL
and real files, the built application in a headless browser, and the faults. With names, only the test files
whose paths hold one of them.`;

interface Count {
  passed: number;
  failed: number;
}

const execute = promisify(execFile);
const MOST_SAID = 64 * 1024 * 1024;

/** A check counts as one test. */
async function check(name: string, program: string, args: string[]): Promise<Count> {
  const began = Date.now();
  const wrong = await execute(process.execPath, [join(ROOT, 'node_modules', program), ...args], {
    cwd: ROOT,
    encoding: 'utf8',
    maxBuffer: MOST_SAID,
  }).then(
    () => null,
    (error: unknown) => error as Error & { stdout?: string; stderr?: string },
  );
  const seconds = ((Date.now() - began) / 1000).toFixed(1);
  console.log(`${wrong ? 'FAILED' : 'passed'}  ${name}  ${seconds} s`);
  if (wrong) console.log(`${wrong.stdout ?? ''}${wrong.stderr ?? ''}` || wrong.message);
  return { passed: wrong ? 0 : 1, failed: wrong ? 1 : 0 };
}

/** The wall's scripts are weighed in every run: what comes with them comes with every page. */
function weigh(): Count {
  const line = pageWeight();
  const isLight = line.ours <= line.floor;
  console.log(`${isLight ? 'passed' : 'FAILED'}  weight  ${JSON.stringify(line)}`);
  return { passed: isLight ? 1 : 0, failed: isLight ? 0 : 1 };
}

const reportSchema = z.object({
  numPassedTests: z.number(),
  numFailedTests: z.number(),
  numFailedTestSuites: z.number(),
  testResults: z.array(z.object({ name: z.string(), startTime: z.number(), endTime: z.number() })),
});
type Report = z.infer<typeof reportSchema>;

/** Files that take longest, and s that one may take before it is parted or made quicker. */
const SHOWN = 20;
const BUDGET_SECONDS = 60;

function tellSlowest({ testResults }: Report): void {
  const files = testResults
    .map(({ name, startTime, endTime }) => ({
      name: relative(ROOT, name),
      seconds: (endTime - startTime) / 1000,
    }))
    .sort((a, b) => b.seconds - a.seconds);
  console.log(`\nThe slowest files, of ${BUDGET_SECONDS} s each may take:`);
  for (const { name, seconds } of files.slice(0, SHOWN))
    console.log(
      `${seconds.toFixed(1).padStart(7)} s  ${name}${seconds > BUDGET_SECONDS ? '  over its budget' : ''}`,
    );
}

function suites(names: string[]): Count {
  const report = join(WORK, 'tests.json');
  rmSync(report, { force: true });
  const vitest = join(ROOT, 'node_modules/vitest/vitest.mjs');
  const args = [
    'run',
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
    ...names,
  ];
  const done = spawnSync(process.execPath, [vitest, ...args], { cwd: ROOT, stdio: 'inherit' });
  try {
    const found = reportSchema.parse(JSON.parse(readFileSync(report, 'utf8')));
    tellSlowest(found);
    // A file that could not even be loaded counts as a failure of its own.
    const failed =
      found.numFailedTests + (found.numFailedTests === 0 ? found.numFailedTestSuites : 0);
    return { passed: found.numPassedTests, failed: failed || (done.status === 0 ? 0 : 1) };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

async function run(args: string[]): Promise<number> {
  const { positionals } = parse(args, {});
  mkdirSync(WORK, { recursive: true });
  const counts: Count[] = [];
  await buildIfChanged((line) => console.log(line));
  if (positionals.length === 0)
    counts.push(
      ...(await Promise.all([
        check('types', 'svelte-check/bin/svelte-check', [
          '--threshold',
          'warning',
          '--fail-on-warnings',
        ]),
        check('lint', 'eslint/bin/eslint.js', ['.', '--max-warnings', '0']),
        check('format', 'prettier/bin/prettier.cjs', ['--check', '.', '--log-level', 'warn']),
      ])),
    );
  if (positionals.length === 0) counts.push(weigh());
  counts.push(suites(positionals));
  const passed = counts.reduce((sum, count) => sum + count.passed, 0);
  const failed = counts.reduce((sum, count) => sum + count.failed, 0);
  console.log(`\n${passed} passed, ${failed} failed`);
  return failed > 0 ? 1 : 0;
}

export const command: Command = { summary: 'run every check and every test', help, run };
