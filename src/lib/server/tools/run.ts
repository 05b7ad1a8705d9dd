import { execFile } from 'node:child_process';
import { ArchiveError } from '#core/errors';

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

/** What a tool complained, speaking of files by their names: where folders lie is nobody's business. */
const withoutFolders = (complaint: string, args: string[]): string =>
  args
    .filter((arg) => arg.startsWith('/'))
    .reduce((text, path) => text.replaceAll(path, path.split('/').at(-1)!), complaint);

/**
 * Run an outside tool with an argument list, never a shell, under limits of time and memory.
 * @returns what it printed
 * @throws ArchiveError tool-missing, tool-failed with the last line it complained
 */
export function runTool(command: string, args: string[], limits: ToolLimits): Promise<Buffer> {
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
        const complaint = withoutFolders(
          stderr.toString().trim().split('\n').at(-1)?.slice(0, 300) ?? '',
          args,
        );
        if ((error as NodeJS.ErrnoException).code === 'ENOENT' || error.code === 127)
          return reject(
            new ArchiveError('tool-missing', `The tool “${command}” is not installed.`),
          );
        const reason = error.killed
          ? `took longer than ${limits.seconds} s`
          : complaint || error.message;
        reject(new ArchiveError('tool-failed', `${command}: ${reason}`, { command }));
      },
    );
  });
}
