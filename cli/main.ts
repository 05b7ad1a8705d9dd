import { ArchiveError } from '#core/errors';
import type { Command } from './arguments';
import { overview } from './summaries.mjs';

/** Commands are loaded when asked for: `find` need not wait for what `demo` needs. */
const COMMANDS: Record<string, () => Promise<{ command: Command }>> = {
  demo: () => import('./commands/demo'),
  start: () => import('./commands/start'),
  test: () => import('./commands/test'),
  worker: () => import('./commands/worker'),
  index: () => import('./commands/index'),
  check: () => import('./commands/check'),
  intake: () => import('./commands/intake'),
  find: () => import('./commands/find'),
  set: () => import('./commands/set'),
  dates: () => import('./commands/dates'),
  positions: () => import('./commands/positions'),
  stamp: () => import('./commands/stamp'),
  terms: () => import('./commands/terms'),
  rename: () => import('./commands/rename'),
  file: () => import('./commands/file'),
  folder: () => import('./commands/folder'),
  access: () => import('./commands/access'),
  spans: () => import('./commands/spans'),
  discard: () => import('./commands/discard'),
  ledger: () => import('./commands/ledger'),
  undo: () => import('./commands/undo'),
  show: () => import('./commands/show'),
  verify: () => import('./commands/verify'),
  cache: () => import('./commands/cache'),
  bench: () => import('./commands/bench'),
};

async function main(): Promise<number> {
  const [name = 'help', ...args] = process.argv.slice(2);
  if (name === 'help' || name === '--help' || name === '-h') {
    console.log(overview());
    return 0;
  }
  const load = COMMANDS[name];
  if (!load)
    throw new ArchiveError(
      'bad-request',
      `There is no command “${name}”; ./mindful --help lists them.`,
    );
  const { command } = await load();
  if (args.includes('--help')) {
    console.log(command.help);
    return 0;
  }
  return command.run(args);
}

/** One clear sentence for whatever goes wrong, and a non-zero exit. */
function explain(error: unknown): string {
  if (error instanceof ArchiveError) return error.message;
  const code = (error as NodeJS.ErrnoException).code;
  if (code === 'ENOSPC' || code === '53100')
    return 'The disk is full: make room, then start again.';
  if (code === 'ECONNREFUSED')
    return 'PostgreSQL cannot be reached at the address of DATABASE_URL.';
  return error instanceof Error
    ? process.env['MINDFUL_LOG'] === 'debug'
      ? error.stack!
      : error.message
    : String(error);
}

try {
  process.exitCode = await main();
} catch (error) {
  console.error(`mindful: ${explain(error)}`);
  process.exitCode = 1;
}
