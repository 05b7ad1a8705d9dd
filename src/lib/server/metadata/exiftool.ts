import { mkdir, symlink, unlink } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ExifTool } from 'exiftool-vendored';
import { ArchiveError, sentenceOf } from '#core/errors';
import { extensionOf } from '#core/kinds/kinds';
import type { FileTags, TagChanges } from '#core/records/mapping';
import { bytesOfPath, isPlainPath } from '../files/paths';
import { newId } from '../house/ids';

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
  '-fast',
];
const TASK_TIMEOUT_MS = 60_000;

let tool: ExifTool | null = null;

function exiftool(): ExifTool {
  tool ??= new ExifTool({
    maxProcs: 2,
    taskTimeoutMillis: TASK_TIMEOUT_MS,
    maxTasksPerProcess: 2000,
    useMWG: false,
    geolocation: false,
    ignoreMinorErrors: true,
    taskRetries: 1,
  });
  return tool;
}

/** End the ExifTool processes, if any run. */
export async function endExiftool(): Promise<void> {
  await tool?.end();
  tool = null;
}

/** Run with a path that outside tools can be given: odd names are reached through a link of ours. */
export async function withPlainPath<T>(
  path: string,
  run: (plain: string) => Promise<T>,
): Promise<T> {
  if (isPlainPath(path)) return run(path);
  const folder = join(tmpdir(), 'mindful-names');
  await mkdir(folder, { recursive: true });
  const extension = extensionOf(path).replace(/[^a-z0-9]/g, '');
  const alias = join(folder, extension ? `${newId()}.${extension}` : newId());
  await symlink(bytesOfPath(path), alias);
  try {
    return await run(alias);
  } finally {
    await unlink(alias).catch(() => undefined);
  }
}

/**
 * All tags of a file, `Group:Name` → text, list or structure.
 * A file that cannot be read as what it claims to be gives the tags of its name and size alone.
 */
export async function readTags(path: string): Promise<FileTags> {
  try {
    return (await withPlainPath(path, (plain) =>
      exiftool().readRaw(plain, { readArgs: READ_ARGS, useMWG: false }),
    )) as FileTags;
  } catch (error) {
    throw new ArchiveError('file-unreadable', `Its metadata cannot be read: ${sentenceOf(error)}`, {
      path,
    });
  }
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
    await (source === null ? write(target) : withPlainPath(source, write));
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
