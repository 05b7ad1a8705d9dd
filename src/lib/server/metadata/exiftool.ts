import { execFile } from 'node:child_process';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import { ArchiveError, sentenceOf } from '#core/errors';
import type { FileTags } from '#core/records/mapping';
import { lensName } from '#core/records/technical';
import type { TagChanges } from '#core/records/writing';
import { withoutPaths } from '#core/text/paths';
import { headOf, removeFile } from '../files/disk';
import { withToolPath } from '../files/open';
import { splitPath } from '../files/paths';
import { APPLICATION } from '../house/application';
import { acrossPauses } from '../house/pauses';
import { settleWords } from './animated';

/** ExifTool in stay-open mode; one process for each core. */
const READ_ARGS = [
  '-json',
  '-G1',
  '-n',
  '-struct',
  '-api',
  'structformat=JSONQ',
  '-api',
  'largefilesupport=1',
];
const TASK_TIMEOUT_MS = 60_000;
/** Bytes of address space of one process; one that a file makes want more ends, and a new one goes on. */
const MOST_MEMORY = 512 << 20;
/** A process that has grown beyond this is replaced once its task is done; a fresh one takes 40 MB. */
const GROWN = 110 << 20;
const TASKS_EACH = 500;
const LOOK_AT_EACH = 8;

/**
 * Processes side by side: some for whoever reads and writes, and one for files that take long (documents, films, very large
 * ones), so that nobody else waits behind them.
 */
export type Lane = 'common' | 'slow';
const PROCESSES: Record<Lane, number> = { common: 2, slow: 1 };

interface Pool {
  tool: ExifTool;
  /** Tasks begun, and those under way. */
  begun: number;
  open: number;
  /** It has grown: who has a task goes on with it, whoever comes gets a new one. */
  isRetired: boolean;
}
const pools = new Map<Lane, Pool>();

function poolOf(lane: Lane): Pool {
  const kept = pools.get(lane);
  if (kept) return kept;
  const tool = new ExifTool({
    maxProcs: PROCESSES[lane],
    taskTimeoutMillis: TASK_TIMEOUT_MS,
    maxTasksPerProcess: TASKS_EACH,
    useMWG: false,
    geolocation: false,
    ignoreMinorErrors: true,
    // Whoever tries again looks first what the one that ended left behind.
    taskRetries: 0,
  });
  tool.on('childStart', ({ pid }) => {
    // Where limits cannot be set the process goes on without: time and count still bound it.
    execFile('prlimit', ['--pid', String(pid), `--as=${MOST_MEMORY}`], () => undefined);
  });
  const pool = { tool, begun: 0, open: 0, isRetired: false };
  pools.set(lane, pool);
  return pool;
}

/** Bytes a process holds; 0 where it is gone. */
async function residentOf(pid: number): Promise<number> {
  const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '');
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) * 1024;
}

/** Hostile files make ExifTool grow and it gives nothing back: what has grown is let go once nobody needs it. */
async function keepSmall(lane: Lane, pool: Pool): Promise<void> {
  if (!pool.isRetired && pool.begun % LOOK_AT_EACH === 0) {
    const sizes = await Promise.all(pool.tool.pids.map(residentOf));
    pool.isRetired = Math.max(0, ...sizes) > GROWN;
    if (pool.isRetired && pools.get(lane) === pool) pools.delete(lane);
  }
  if (pool.isRetired && pool.open === 0) await pool.tool.end();
}

/** What ExifTool says of a file, once its process did not end for another reason. */
async function withTool<T>(lane: Lane, run: (tool: ExifTool) => Promise<T>): Promise<T> {
  const pool = poolOf(lane);
  pool.begun += 1;
  pool.open += 1;
  try {
    return await run(pool.tool);
  } finally {
    pool.open -= 1;
    await keepSmall(lane, pool).catch(() => undefined);
  }
}

const isLate = (error: unknown): boolean => /waited \d+ ?ms|timeout/i.test(sentenceOf(error));
const hasEnded = (error: unknown): boolean =>
  /Process terminated|unexpectedly closed|has ended|EPIPE|ERR_STREAM/.test(sentenceOf(error));

/** A process may end because of what it did before; whoever refuses a file says the same again. */
const twice = <T>(run: () => Promise<T>): Promise<T> =>
  acrossPauses(
    () =>
      run().catch((error: unknown) => (hasEnded(error) ? run() : Promise.reject(error as Error))),
    isLate,
  );

/** What went wrong, without names of ours and without paths. */
function wordsOf(error: unknown): string {
  if (isLate(error)) return `it took longer than ${TASK_TIMEOUT_MS / 1000} s.`;
  if (hasEnded(error)) return 'it wants more memory than one file may have.';
  return withoutPaths(sentenceOf(error));
}

/** Where ours lies: only processes that run it are ours. */
const OURS = join(APPLICATION, 'node_modules', 'exiftool-vendored.pl');

/** A worker that was killed leaves its ExifTool behind, waiting for ever for a word: end what nobody owns. */
export async function endOrphans(): Promise<void> {
  const pids = (await readdir('/proc').catch(() => [])).filter((name) => /^\d+$/.test(name));
  for (const pid of pids) {
    const command = await readFile(`/proc/${pid}/cmdline`, 'utf8').catch(() => '');
    if (!command.includes(OURS) || !command.includes('-stay_open')) continue;
    const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '');
    if (/^PPid:\s+1$/m.test(status)) process.kill(Number(pid), 'SIGTERM');
  }
}

/** End the ExifTool processes, if any run. */
export async function endExiftool(): Promise<void> {
  const all = [...pools.values()];
  pools.clear();
  await Promise.all(all.map(({ tool }) => tool.end()));
}

/**
 * All tags of a file, `Group:Name` → text, list or structure.
 * @param fast do not look behind the picture data, where some formats keep nothing
 * A file that cannot be read as what it claims to be gives the tags of its name and size alone.
 */
export async function readTags(
  path: string,
  fast: boolean,
  lane: Lane = 'common',
): Promise<FileTags> {
  const readArgs = fast ? [...READ_ARGS, '-fast'] : READ_ARGS;
  try {
    return (await twice(() =>
      withToolPath(path, (plain) =>
        withTool(lane, (tool) => tool.readRaw(plain, { readArgs, useMWG: false })),
      ),
    )) as FileTags;
  } catch (error) {
    throw new ArchiveError('file-unreadable', `Its metadata cannot be read: ${wordsOf(error)}`, {
      path,
    });
  }
}

/** Where the name of a lens is told, best first. */
const LENS_TAGS = [
  'LensID',
  'LensModel',
  'LensType',
  'LensSpec',
  'Lens',
  'LensInfo',
  'DNGLensInfo',
];

/** The name of the lens, as ExifTool decodes it from its maker's numbers or finds it in older homes; empty where it knows none. */
export async function readLens(path: string): Promise<string> {
  const readArgs = ['-json', '-G1', '-Composite:LensID', ...LENS_TAGS.map((tag) => `-${tag}`)];
  const found = (await withToolPath(path, (plain) =>
    withTool('common', (tool) => tool.readRaw(plain, { readArgs, useMWG: false })),
  )) as FileTags;
  // What ExifTool puts together of a range alone names no lens.
  const tags = Object.entries(found).filter(([key]) => key !== 'Composite:Lens');
  const named = LENS_TAGS.flatMap((name) =>
    tags.filter(([key]) => key.endsWith(`:${name}`)).map(([, value]) => lensName(String(value))),
  );
  // “G” is what a maker calls a mount.
  return named.find((lens) => lens.length > 3) ?? '';
}

const isPng = (head: Buffer): boolean => head.toString('latin1', 1, 4) === 'PNG';

/** What ExifTool leaves of a file that it was writing when it ended. */
const leftOf = (target: string): string[] => [target, `${target}_exiftool_tmp`];

/**
 * Write tags into a copy of a file; the file itself stays untouched.
 * @param source the file to begin from; null makes a new XMP sidecar
 * @param target a name of ours: what lies there is overwritten
 * @throws ArchiveError tool-failed with ExifTool's words; disk-full
 */
export async function writeTagsTo(
  source: string | null,
  target: string,
  tags: TagChanges,
  lane: Lane = 'common',
): Promise<void> {
  const clean = (): Promise<unknown> => Promise.all(leftOf(target).map(removeFile));
  const write = (from: string): Promise<unknown> =>
    withTool(lane, (tool) =>
      tool.write(from, { ...tags } as never, {
        writeArgs: from === target ? ['-overwrite_original'] : ['-o', target],
        ignoreMinorErrors: true,
      }),
    );
  try {
    await twice(async () => {
      await clean();
      await (source === null ? write(target) : withToolPath(source, write));
    });
    if (isPng(await headOf(target))) await settleWords(target);
  } catch (error) {
    await clean();
    const words = wordsOf(error).replaceAll(
      splitPath(target).name,
      source === null ? 'its sidecar' : splitPath(source).name,
    );
    if (/No space left|quota exceeded/i.test(words))
      throw new ArchiveError('disk-full', 'The disk is full: the record finds no room.');
    throw new ArchiveError('tool-failed', `The record cannot be written: ${words}`);
  }
}

/** Write an embedded binary value into a file. @returns whether there was one */
export async function extractBinary(tag: string, path: string, target: string): Promise<boolean> {
  return withTool('common', (tool) => tool.extractBinaryTag(tag, path, target)).then(
    () => true,
    // ExifTool fails where the tag is absent: that is an answer.
    () => false,
  );
}
