import { execFile, spawn } from 'node:child_process';
import { ArchiveError } from '#core/errors';
import { withoutMarkup } from '#core/kinds/reasons';
import { acrossPauses } from '../house/pauses';

export interface ToolLimits {
  /** seconds of wall-clock time */
  seconds: number;
  /** bytes of address space */
  memory?: number;
  /** bytes of output kept */
  output?: number;
}

const MEMORY = 3 * 1024 ** 3;
const OUTPUT = 64 << 20;
/** Characters of what a tool says of itself that are kept. */
const MOST_COMPLAINT = 20_000;

/** What a tool complained, speaking of files by their names: where folders lie is nobody's business. */
const withoutFolders = (complaint: string, args: string[]): string =>
  args
    .filter((arg) => arg.startsWith('/'))
    .reduce((text, path) => text.replaceAll(path, path.split('/').at(-1)!), complaint);

/** What went wrong with a tool, in a sentence. */
function wrongWith(
  command: string,
  args: string[],
  found: { isMissing: boolean; late: boolean; complaint: string; seconds: number },
): ArchiveError {
  if (found.isMissing)
    return new ArchiveError('tool-missing', `The tool “${command}” is not installed.`);
  const last = withoutMarkup(found.complaint.trim().split('\n').at(-1) ?? '').slice(0, 300);
  const reason = found.late ? `took longer than ${found.seconds} s` : withoutFolders(last, args);
  return new ArchiveError('tool-failed', `${command}: ${reason}`, { command, late: found.late });
}

/** Whether something failed because it ran out of time. */
export const isLate = (error: unknown): boolean =>
  error instanceof ArchiveError && error.data['late'] === true;

/**
 * Run an outside tool with an argument list, never a shell, under limits of time and memory.
 * @returns what it printed
 * @throws ArchiveError tool-missing, tool-failed with the last line it complained
 */
export const runTool = (command: string, args: string[], limits: ToolLimits): Promise<Buffer> =>
  acrossPauses(() => runOnce(command, args, limits), isLate);

function runOnce(command: string, args: string[], limits: ToolLimits): Promise<Buffer> {
  const memory = limits.memory ?? MEMORY;
  const limited = [`--as=${memory}`, `--cpu=${limits.seconds * 2}`, '--', command, ...args];
  return new Promise((resolve, reject) => {
    execFile(
      'prlimit',
      limited,
      {
        timeout: limits.seconds * 1000,
        killSignal: 'SIGKILL',
        maxBuffer: limits.output ?? OUTPUT,
        encoding: 'buffer',
      },
      (error, stdout, stderr) => {
        if (!error) return resolve(stdout);
        const isMissing = (error as NodeJS.ErrnoException).code === 'ENOENT' || error.code === 127;
        const late = error.killed === true;
        const complaint = stderr.toString() || error.message;
        reject(wrongWith(command, args, { isMissing, late, complaint, seconds: limits.seconds }));
      },
    );
  });
}

/**
 * Run an outside tool and read what it prints as it comes, so that nothing of it is held.
 * @returns what it complained
 * @throws ArchiveError as {@link runTool}
 */
export function streamTool(
  command: string,
  args: string[],
  limits: ToolLimits,
  take: (chunk: Buffer) => void,
): Promise<string> {
  const memory = limits.memory ?? MEMORY;
  const limited = [`--as=${memory}`, `--cpu=${limits.seconds * 2}`, '--', command, ...args];
  return new Promise((resolve, reject) => {
    const child = spawn('prlimit', limited, { stdio: ['ignore', 'pipe', 'pipe'] });
    let complaint = '';
    let late = false;
    const timer = setTimeout(() => {
      late = true;
      child.kill('SIGKILL');
    }, limits.seconds * 1000);
    child.stdout.on('data', take);
    child.stderr.on('data', (chunk: Buffer) => {
      complaint = (complaint + chunk.toString()).slice(-MOST_COMPLAINT);
    });
    const ended = (code: number | null): void => {
      clearTimeout(timer);
      if (code === 0) return resolve(complaint);
      const isMissing = code === 127;
      reject(wrongWith(command, args, { isMissing, late, complaint, seconds: limits.seconds }));
    };
    child.on('error', () => ended(127));
    child.on('close', (code) => ended(code));
  });
}
