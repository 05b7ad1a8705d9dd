import { ArchiveError } from '#core/errors';
import type { Command } from './arguments';

/** Commands are loaded when asked for: `find` need not wait for what `demo` needs. */
const COMMANDS: Record<string, { summary: string; load: () => Promise<{ command: Command }> }> = {
  demo: {
    summary: 'start with the demo library of Saltreach Kites',
    load: () => import('./commands/demo'),
  },
  start: {
    summary: 'start; the first visit makes the first keeper',
    load: () => import('./commands/start'),
  },
  test: { summary: 'run every check and every test', load: () => import('./commands/test') },
  worker: { summary: 'run one more worker', load: () => import('./commands/worker') },
  intake: { summary: 'bring a folder in', load: () => import('./commands/intake') },
  find: { summary: 'list the items a query finds', load: () => import('./commands/find') },
  set: { summary: 'describe the items a query finds', load: () => import('./commands/set') },
  rename: { summary: 'rename the items a query finds', load: () => import('./commands/rename') },
  undo: { summary: 'take back an operation of the ledger', load: () => import('./commands/undo') },
  show: { summary: 'show one item whole', load: () => import('./commands/show') },
  verify: {
    summary: 'check files against their manifests',
    load: () => import('./commands/verify'),
  },
  bench: { summary: 'measure against a floor', load: () => import('./commands/bench') },
};

function overview(): string {
  const lines = Object.entries(COMMANDS).map(
    ([name, { summary }]) => `  ${name.padEnd(8)} ${summary}`,
  );
  return [
    'Mindful Archive — the asset library of a creative team.',
    '',
    'Usage: ./mindful COMMAND [--help]',
    '',
    ...lines,
    '',
    'Settings come from the environment: MINDFUL_HOME, HOST, PORT, DATABASE_URL and more; see README.md.',
  ].join('\n');
}

async function main(): Promise<number> {
  const [name = 'help', ...args] = process.argv.slice(2);
  if (name === 'help' || name === '--help' || name === '-h') {
    console.log(overview());
    return 0;
  }
  const entry = COMMANDS[name];
  if (!entry)
    throw new ArchiveError(
      'bad-request',
      `There is no command “${name}”; ./mindful --help lists them.`,
    );
  const { command } = await entry.load();
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
