import { execFile } from 'node:child_process';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import { ArchiveError, sentenceOf } from '#core/errors';
import type { FileTags, TagChanges } from '#core/records/mapping';
import { withToolPath } from '../files/open';
import { APPLICATION } from '../house/application';

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

let tool: ExifTool | null = null;
let tasks = 0;

function exiftool(): ExifTool {
  if (tool) return tool;
  tool = new ExifTool({
    maxProcs: 2,
    taskTimeoutMillis: TASK_TIMEOUT_MS,
    maxTasksPerProcess: TASKS_EACH,
    useMWG: false,
    geolocation: false,
    ignoreMinorErrors: true,
    taskRetries: 1,
  });
  tool.on('childStart', ({ pid }) => {
    // Where limits cannot be set the process goes on without: time and count still bound it.
    execFile('prlimit', ['--pid', String(pid), `--as=${MOST_MEMORY}`], () => undefined);
  });
  return tool;
}

/** Bytes a process holds; 0 where it is gone. */
async function residentOf(pid: number): Promise<number> {
  const status = await readFile(`/proc/${pid}/status`, 'utf8').catch(() => '');
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) * 1024;
}

/** Hostile files make ExifTool grow and it gives nothing back: replace what has grown. */
async function keepSmall(): Promise<void> {
  tasks += 1;
  if (tasks % LOOK_AT_EACH !== 0 || !tool) return;
  const sizes = await Promise.all(tool.pids.map(residentOf));
  if (Math.max(0, ...sizes) > GROWN) await tool.closeChildProcesses(true);
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
  await tool?.end();
  tool = null;
}

/**
 * All tags of a file, `Group:Name` → text, list or structure.
 * @param fast do not look behind the picture data, where some formats keep nothing
 * A file that cannot be read as what it claims to be gives the tags of its name and size alone.
 */
export async function readTags(path: string, fast: boolean): Promise<FileTags> {
  const readArgs = fast ? [...READ_ARGS, '-fast'] : READ_ARGS;
  try {
    return (await withToolPath(path, (plain) =>
      exiftool().readRaw(plain, { readArgs, useMWG: false }),
    )) as FileTags;
  } catch (error) {
    throw new ArchiveError('file-unreadable', `Its metadata cannot be read: ${sentenceOf(error)}`, {
      path,
    });
  } finally {
    await keepSmall().catch(() => undefined);
  }
}

/** The name of the lens, as ExifTool decodes it from its maker's numbers; empty where it knows none. */
export async function readLens(path: string): Promise<string> {
  const readArgs = ['-json', '-Composite:LensID'];
  const tags = await withToolPath(path, (plain) =>
    exiftool().readRaw(plain, { readArgs, useMWG: false }),
  );
  return String((tags as Record<string, unknown>)['LensID'] ?? '');
}

/**
 * Write tags into a copy of a file; the file itself stays untouched.
 * @param source the file to begin from; null makes a new XMP sidecar
 * @throws ArchiveError tool-failed with ExifTool's words
 */
export async function writeTagsTo(
  source: string | null,
  target: string,
  tags: TagChanges,
): Promise<void> {
  try {
    const write = (from: string): Promise<unknown> =>
      exiftool().write(from, { ...tags } as never, {
        writeArgs: from === target ? ['-overwrite_original'] : ['-o', target],
        ignoreMinorErrors: true,
      });
    // A file of ours that is begun already is written in place.
    await (source === null || source === target ? write(target) : withToolPath(source, write));
  } catch (error) {
    throw new ArchiveError('tool-failed', `The record cannot be written: ${sentenceOf(error)}`, {
      target,
    });
  }
}

/** Write an embedded binary value into a file. @returns whether there was one */
export async function extractBinary(tag: string, path: string, target: string): Promise<boolean> {
  return exiftool()
    .extractBinaryTag(tag, path, target)
    .then(
      () => true,
      // ExifTool fails where the tag is absent: that is an answer.
      () => false,
    );
}
