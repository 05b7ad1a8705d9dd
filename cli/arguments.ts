import { parseArgs, type ParseArgsConfig } from 'node:util';
import { ArchiveError } from '#core/errors';

type Options = NonNullable<ParseArgsConfig['options']>;

/** A command of the front door. */
export interface Command {
  /** One line for the list. */
  summary: string;
  /** What `--help` prints. */
  help: string;
  run: (args: string[]) => Promise<number>;
}

/** Parse arguments strictly. @throws ArchiveError bad-request with what is wrong */
export function parse<T extends Options>(args: string[], options: T) {
  try {
    return parseArgs({ args, options, allowPositionals: true, strict: true });
  } catch (error) {
    throw new ArchiveError('bad-request', `${(error as Error).message}`);
  }
}

/** Print an answer: JSON for programs, lines for people. */
export function answer(json: boolean | undefined, value: unknown, lines: () => string): void {
  process.stdout.write(json ? `${JSON.stringify(value)}\n` : `${lines()}\n`);
}
