import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { ArchiveError } from '#core/errors';
import {
  copyVerified,
  diskError,
  factsOf,
  headOf,
  makeFolder,
  moveWithoutReplacing,
  namesIn,
  removeFile,
  temporaryName,
  walk,
} from '#server/files/disk';
import { Disks, markOf } from '#server/files/disks';
import { moveFile, type MoveStep } from '#server/files/door';
import { hashFile } from '#server/files/hash';
import { isInside } from '#core/holdings/grounds';
import { bytesOfPath, checkRelative, realInside, textOfPath } from '#server/files/paths';
import { runTool } from '#server/tools/run';

const folder = mkdtempSync(join(tmpdir(), 'mindful-disk-'));
let room = '';
let count = 0;
beforeEach(() => {
  count += 1;
  room = join(folder, String(count));
  mkdirSync(room);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const put = (name: string, text: string | Buffer = name): string => {
  const path = join(room, name);
  mkdirSync(join(path, '..'), { recursive: true });
  writeFileSync(path, text);
  return path;
};

describe('copying', () => {
  it('gives the same bytes and times, and the hash of both', async () => {
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ maxLength: 5000 }), async (bytes) => {
        const from = put('from.bin', Buffer.from(bytes));
        utimesSync(from, 1_700_000_000, 1_600_000_000.5);
        const to = join(room, 'to.bin');
        const hash = await copyVerified(from, to);
        expect(readFileSync(to).equals(readFileSync(from))).toBe(true);
        expect(hash).toMatch(/^[0-9a-f]{32}$/);
        expect(await hashFile(to)).toBe(hash);
        expect(statSync(to).mtimeMs).toBe(1_600_000_000_500);
      }),
      { numRuns: 25 },
    );
  });

  it('hashes pieces larger than its buffer as one (xxh3-128 of known bytes)', async () => {
    expect(await hashFile(put('empty', ''))).toBe('99aa06d3014798d86001c324468d497f');
    const big = put('big', Buffer.alloc((3 << 20) + 17, 'kite'));
    const copy = join(room, 'copy');
    expect(await copyVerified(big, copy)).toBe(await hashFile(copy));
    truncateSync(copy, (3 << 20) + 16);
    expect(await hashFile(copy)).not.toBe(await hashFile(big));
  });

  it('overwrites the remainder of an earlier try, longer or shorter', async () => {
    const from = put('from', 'short');
    const to = put('to', 'a remainder that is much longer');
    await copyVerified(from, to);
    expect(readFileSync(to, 'utf8')).toBe('short');
  });

  it('says what it lacks', async () => {
    await expect(copyVerified(join(room, 'no'), join(room, 'x'))).rejects.toMatchObject({
      code: 'not-found',
    });
    await expect(copyVerified(put('a'), join(room, 'no/where'))).rejects.toBeInstanceOf(
      ArchiveError,
    );
    expect(existsSync(join(room, 'x'))).toBe(false);
  });
});

describe('moving without replacing', () => {
  it('never takes a name that is another file’s', async () => {
    const from = put('from');
    const to = put('to');
    await expect(moveWithoutReplacing(from, to)).rejects.toMatchObject({ code: 'conflict' });
    expect([readFileSync(from, 'utf8'), readFileSync(to, 'utf8')]).toEqual(['from', 'to']);
  });

  it('finishes what a kill left between its two steps, and may be repeated', async () => {
    const from = put('from');
    const to = join(room, 'to');
    linkSync(from, to);
    await moveWithoutReplacing(from, to);
    expect([existsSync(from), readFileSync(to, 'utf8')]).toEqual([false, 'from']);
    await moveWithoutReplacing(from, to);
    expect(readFileSync(to, 'utf8')).toBe('from');
  });

  it('keeps a file that is moved onto itself', async () => {
    const path = put('same');
    await moveWithoutReplacing(path, path);
    expect(readFileSync(path, 'utf8')).toBe('same');
  });
});

describe('walking', () => {
  it('finds every file once, sorted, without links and clutter', async () => {
    for (const name of ['b.jpg', 'a/2.jpg', 'a/1.jpg', 'a/deep/er/x.raw', '.hidden.jpg']) put(name);
    for (const name of ['.DS_Store', 'Thumbs.db', '._b.jpg', temporaryName('1')]) put(name);
    symlinkSync(join(room, 'b.jpg'), join(room, 'link.jpg'));
    symlinkSync('/etc', join(room, 'etc'));
    symlinkSync(room, join(room, 'a/loop'));
    const found = await walk(room);
    expect(found.map(({ path }) => path)).toEqual([
      '.hidden.jpg',
      'a/1.jpg',
      'a/2.jpg',
      'a/deep/er/x.raw',
      'b.jpg',
    ]);
    expect(found.at(-1)!.size).toBe(5);
  });

  it('brings back names of any bytes', async () => {
    const names = [
      Buffer.from('caf\xe9.jpg', 'latin1'),
      Buffer.from('new\nline'),
      Buffer.from('-rf'),
    ];
    for (const name of names) writeFileSync(Buffer.concat([Buffer.from(`${room}/`), name]), 'x');
    const found = await walk(room);
    expect(found.map(({ path }) => bytesOfPath(path).toString('latin1')).sort()).toEqual(
      names.map((name) => name.toString('latin1')).sort(),
    );
  });

  it('speaks of a folder that is not there', async () => {
    await expect(walk(join(room, 'no'))).rejects.toMatchObject({ code: 'not-found' });
    expect(await namesIn(join(room, 'no'))).toEqual([]);
    expect(await factsOf(join(room, 'no'))).toBeNull();
    expect(await factsOf(join(room, 'n'.repeat(300)))).toBeNull();
    await removeFile(join(room, 'no'));
  });
});

describe('two ways to say one name', () => {
  it('never take the file away, as on disks that ignore case', async () => {
    mkdirSync(join(room, 'real folder'));
    symlinkSync(join(room, 'real folder'), join(room, 'same folder'));
    const file = join(room, 'real folder', 'only.jpg');
    writeFileSync(file, 'the only one');
    await moveWithoutReplacing(file, join(room, 'same folder', 'only.jpg'));
    expect(readFileSync(file, 'utf8')).toBe('the only one');
    // A second name of the same file is one that a kill left: that is finished.
    linkSync(file, join(room, 'real folder', 'second.jpg'));
    await moveWithoutReplacing(file, join(room, 'real folder', 'second.jpg'));
    expect(readdirSync(join(room, 'real folder'))).toEqual(['second.jpg']);
  });
});

describe('paths', () => {
  it('text stands for bytes and back, whatever they are', () => {
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 1, maxLength: 300 }), (bytes) => {
        expect(bytesOfPath(textOfPath(Buffer.from(bytes))).equals(Buffer.from(bytes))).toBe(true);
      }),
    );
  });

  it('hold inside their folder', async () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom('..', '.', 'a', 'b', '', '...'), { maxLength: 6 }),
        (parts) => {
          const path = parts.join('/');
          try {
            const kept = checkRelative(path);
            expect(isInside(join('/place', kept), '/place')).toBe(true);
          } catch (error) {
            expect((error as ArchiveError).code).toBe('outside-place');
          }
        },
      ),
    );
    expect(isInside('/place2/a', '/place')).toBe(false);
    expect(isInside('/place', '/place')).toBe(true);
    symlinkSync('/etc', join(room, 'out'));
    await expect(realInside(join(room, 'out/passwd'), room)).rejects.toMatchObject({
      code: 'outside-place',
    });
    put('in/file');
    await realInside(join(room, 'in/file'), room);
  });
});

describe('what the system refuses', () => {
  it.each([
    ['ENOSPC', 'disk-full'],
    ['EDQUOT', 'disk-full'],
    ['ENOENT', 'not-found'],
    ['EACCES', 'file-unreadable'],
    ['EROFS', 'file-unreadable'],
    ['EIO', 'file-unreadable'],
    ['ENAMETOOLONG', 'name-refused'],
    ['EMFILE', 'unexpected'],
  ])('%s is told as %s, with the path', (code, ours) => {
    const told = diskError(Object.assign(new Error(code), { code }), '/place/a.jpg');
    expect(told.code).toBe(ours);
    expect(told.message).toContain('/place/a.jpg');
  });

  it('keeps a typed error as it is', () => {
    const error = new ArchiveError('conflict', 'as it is');
    expect(diskError(error, '/x')).toBe(error);
  });

  // A mount of its own needs root; the machine of CI has it.
  it.runIf(process.getuid?.() === 0)('a full disk fails the copy alone, in words', async () => {
    const small = join(room, 'small');
    mkdirSync(small);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', small]);
    try {
      const big = put('big', Buffer.alloc(3 << 20, 7));
      await expect(copyVerified(big, join(small, 'big'))).rejects.toMatchObject({
        code: 'disk-full',
        message: expect.stringContaining('The disk is full') as string,
      });
      await removeFile(join(small, 'big'));
      await copyVerified(put('little'), join(small, 'little'));
      expect(readdirSync(small)).toEqual(['little']);
    } finally {
      execFileSync('umount', [small]);
    }
  });

  it.runIf(process.getuid?.() === 0)(
    'a move to another disk cut off at any moment is finished, and nothing of ours stays',
    async () => {
      const far = join(room, 'far');
      mkdirSync(far);
      execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=1m', 'tmpfs', far]);
      try {
        const disks = new Disks(
          await Promise.all(
            [room, far].map(async (root) => ({ root, place: root, mark: await markOf(root) })),
          ),
        );
        const step = async (at: number, isFirst: boolean): Promise<MoveStep> => {
          const path = put(`${at}.jpg`, `picture ${at}`);
          return {
            ...{ operationId: 'op', position: at, fileId: 'file', isFirst },
            contentHash: await hashFile(path),
            inode: String(statSync(path, { bigint: true }).ino),
            from: { placeId: 'near', root: room, folder: '', name: `${at}.jpg` },
            to: { placeId: 'far', root: far, folder: '', name: `${at}.jpg` },
          };
        };
        const own = (at: number): string => join(far, temporaryName(`op-${at}`));
        const target = (at: number): string => join(far, `${at}.jpg`);
        // Cut off while it was copied, when the copy had both names, and before the first one was taken away.
        const cuts = [
          () => undefined,
          (at: number) => writeFileSync(own(at), 'pict'),
          (at: number) => {
            writeFileSync(own(at), `picture ${at}`);
            linkSync(own(at), target(at));
          },
          (at: number) => writeFileSync(target(at), `picture ${at}`),
        ];
        for (const [at, cut] of cuts.entries()) {
          const due = await step(at, at === 0);
          cut(at);
          await moveFile(due, disks);
          expect([at, existsSync(join(room, `${at}.jpg`))]).toEqual([at, false]);
          expect(readFileSync(target(at), 'utf8')).toBe(`picture ${at}`);
        }
        expect(readdirSync(far).sort()).toEqual(['0.jpg', '1.jpg', '2.jpg', '3.jpg']);
      } finally {
        execFileSync('umount', [far]);
      }
    },
  );

  it('makes folders, and says where a file stands in the way', async () => {
    await makeFolder(join(room, 'a/b/c'));
    expect(statSync(join(room, 'a/b/c')).isDirectory()).toBe(true);
    put('file');
    await expect(makeFolder(join(room, 'file/x'))).rejects.toBeInstanceOf(ArchiveError);
  });

  it('reads the head of short, long and missing files', async () => {
    expect((await headOf(put('short', 'ab'))).toString()).toBe('ab');
    const long = put('long', 'x'.repeat(9000));
    appendFileSync(long, 'end');
    expect((await headOf(long)).length).toBe(4096);
    await expect(headOf(join(room, 'no'))).rejects.toMatchObject({ code: 'not-found' });
  });
});

describe('outside tools', () => {
  it('are given words, never a shell', async () => {
    const nasty = `; touch ${join(room, 'pwned')} $(touch ${join(room, 'pwned')}) \`id\``;
    expect((await runTool('printf', ['%s', nasty], { seconds: 5 })).toString()).toBe(nasty);
    expect(existsSync(join(room, 'pwned'))).toBe(false);
  });

  it('are stopped when they take too long or too much', async () => {
    await expect(runTool('sleep', ['30'], { seconds: 1 })).rejects.toMatchObject({
      code: 'tool-failed',
      message: expect.stringContaining('longer than 1 s') as string,
    });
    await expect(
      runTool(process.execPath, ['-e', 'Buffer.alloc(4e9).fill(1)'], { seconds: 20 }),
    ).rejects.toMatchObject({ code: 'tool-failed' });
    await expect(
      runTool('head', ['-c', '2000', '/dev/zero'], { seconds: 5, output: 1000 }),
    ).rejects.toMatchObject({ code: 'tool-failed' });
  });

  it('that are missing or complain are told apart', async () => {
    await expect(runTool('no-such-tool', [], { seconds: 5 })).rejects.toMatchObject({
      code: 'tool-missing',
    });
    const script = put('complains', '#!/bin/sh\necho first >&2\necho the last word >&2\nexit 3\n');
    chmodSync(script, 0o755);
    await expect(runTool(script, [], { seconds: 5 })).rejects.toMatchObject({
      code: 'tool-failed',
      message: expect.stringContaining('the last word') as string,
    });
  });
});
