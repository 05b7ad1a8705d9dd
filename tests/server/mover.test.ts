import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { moveMany } from '#server/files/mover';

const folder = mkdtempSync(join(tmpdir(), 'mindful-mover-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const at = (name: string): string => join(folder, name);
const put = (name: string): string => {
  writeFileSync(at(name), name);
  return at(name);
};

describe('many moves at once', () => {
  it('give each file its new name, and only one', async () => {
    const from = Array.from({ length: 300 }, (_, no) => put(`a-${no}`));
    mkdirSync(at('there'));
    const to = from.map((_, no) => at(`there/b-${no}`));
    expect(await moveMany({ from, to, groups: from.map((_, no) => no) })).toEqual([]);
    expect(from.some(existsSync)).toBe(false);
    expect(to.map((path) => readFileSync(path, 'utf8'))).toEqual(from.map((_, no) => `a-${no}`));
  });

  it('never replace one, and leave all that belongs to what stays', async () => {
    const from = [put('one'), put('one.xmp'), put('two'), put('two.xmp'), at('none'), put('last')];
    const to = [at('1'), at('1.xmp'), put('taken'), at('2.xmp'), at('3'), at('4')];
    expect(await moveMany({ from, to, groups: [0, 0, 1, 1, 2, 3] })).toEqual([2, 3, 4]);
    expect(readFileSync(at('taken'), 'utf8')).toBe('taken');
    expect([...from, ...to].filter(existsSync)).toEqual([
      ...[at('two'), at('two.xmp'), at('1'), at('1.xmp'), at('taken'), at('4')],
    ]);
  });

  it('are answered one lot after the other, nothing at once', async () => {
    expect(await moveMany({ from: [], to: [], groups: [] })).toEqual([]);
    const lots = ['x', 'y', 'z'].map((name) =>
      moveMany({ from: [put(name)], to: [at(`${name}2`)], groups: [0] }),
    );
    expect(await Promise.all(lots)).toEqual([[], [], []]);
  });
});
