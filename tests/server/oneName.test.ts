import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it, vi } from 'vitest';

/** What a disk says on which a file has one name only: exFAT, many network disks. */
vi.mock('node:fs/promises', async (original) => ({
  ...(await original<typeof import('node:fs/promises')>()),
  link: () => Promise.reject(Object.assign(new Error('not permitted'), { code: 'EPERM' })),
}));
const { moveWithoutReplacing } = await import('#server/files/disk');

const folder = mkdtempSync(join(tmpdir(), 'mindful-one-name-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const put = (name: string): string => {
  writeFileSync(join(folder, name), name);
  return join(folder, name);
};
const at = (name: string): string => join(folder, name);

describe('where a file has one name only', () => {
  it('it is renamed', async () => {
    await moveWithoutReplacing(put('a.jpg'), at('b.jpg'), true);
    expect([existsSync(at('a.jpg')), readFileSync(at('b.jpg'), 'utf8')]).toEqual([false, 'a.jpg']);
  });

  it('no other is ever replaced', async () => {
    await expect(moveWithoutReplacing(put('c.jpg'), put('d.jpg'), true)).rejects.toMatchObject({
      code: 'conflict',
    });
    expect([readFileSync(at('c.jpg'), 'utf8'), readFileSync(at('d.jpg'), 'utf8')]).toEqual([
      ...['c.jpg', 'd.jpg'],
    ]);
  });

  it('what is gone is not there, and nothing stands where it should', async () => {
    await expect(moveWithoutReplacing(at('none'), at('new'), true)).rejects.toMatchObject({
      code: 'not-found',
    });
    await expect(moveWithoutReplacing(at('none'), put('e.jpg'))).rejects.toMatchObject({
      code: 'conflict',
    });
    expect(readFileSync(at('e.jpg'), 'utf8')).toBe('e.jpg');
  });

  it('the same file under two ways to say its name stays', async () => {
    const path = put('f.jpg');
    await moveWithoutReplacing(path, path);
    expect(readFileSync(path, 'utf8')).toBe('f.jpg');
  });
});
