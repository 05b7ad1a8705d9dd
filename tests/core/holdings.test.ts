import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  comparePlace,
  matchByContent,
  worthReading,
  type KnownFile,
  type SeenFile,
} from '#core/holdings/compare';

/** A disk of files: content decides size; every file has an inode of its own. */
interface OnDisk {
  path: string;
  inode: string;
  content: string;
  modified: string;
}
const sizeOf = (content: string): number => content.length * 10;
const seenOf = ({ path, inode, content, modified }: OnDisk): SeenFile => ({
  path,
  inode,
  modified,
  size: sizeOf(content),
});
const knownOf = (file: OnDisk, isMissing = false): KnownFile => ({
  id: file.inode,
  ...seenOf(file),
  content: file.content,
  isMissing,
});
const disk = (paths: string[], from = 0): OnDisk[] =>
  paths.map((path, at) => ({
    path,
    inode: String(from + at + 1),
    content: `c${from + at}`.padEnd(2 + ((from + at) % 5), 'x'),
    modified: String(1000 + from + at),
  }));
const paths = fc.uniqueArray(
  fc
    .tuple(fc.constantFrom('', 'a/', 'b/', 'a/b/'), fc.integer({ min: 1, max: 40 }))
    .map(([folder, number]) => `${folder}${number}.jpg`),
  { maxLength: 20 },
);

describe('a place compared with its disk', () => {
  it('that nobody touched has nothing to tell', () => {
    fc.assert(
      fc.property(paths, (list) => {
        const files = disk(list);
        expect(
          comparePlace(
            files.map((file) => knownOf(file)),
            files.map(seenOf),
          ),
        ).toEqual({
          moved: [],
          touched: [],
          back: [],
          gone: [],
          unknown: [],
        });
      }),
    );
  });

  it('tells every known and every seen file at most once', () => {
    fc.assert(
      fc.property(
        paths,
        paths,
        fc.array(fc.nat(60), { maxLength: 20 }),
        (before, after, inodes) => {
          const known = disk(before).map((file) => knownOf(file));
          const seen = disk(after, 10).map((file, at) =>
            seenOf({ ...file, inode: String(inodes[at] ?? file.inode) }),
          );
          const found = comparePlace(known, seen);
          const told = [
            ...found.moved.map((one) => one.known.id),
            ...found.touched.map((one) => one.known.id),
            ...found.back.map((one) => one.known.id),
            ...found.gone.map(({ id }) => id),
          ];
          expect(new Set(told).size).toBe(told.length);
          const places = [
            ...found.moved.map((one) => one.seen.path),
            ...found.touched.map((one) => one.seen.path),
            ...found.back.map((one) => one.seen.path),
            ...found.unknown.map(({ path }) => path),
          ];
          expect(new Set(places).size).toBe(places.length);
          // Together with those that are simply the same, nobody is forgotten.
          const same = known.filter(
            (one) =>
              !told.includes(one.id) &&
              seen.some((file) => file.path === one.path && file.inode === one.inode),
          );
          expect(told.length + same.length).toBe(known.length);
          expect(places.length + same.length).toBe(seen.length);
        },
      ),
    );
  });

  it('follows renames and moves of any number of files, also when names trade places', () => {
    fc.assert(
      fc.property(paths, fc.func(fc.nat()), (list, order) => {
        const files = disk(list);
        const shuffled = [...list].sort((a, b) => order(a) - order(b) || (a < b ? -1 : 1));
        const after = files.map((file, at) => ({ ...file, path: shuffled[at]! }));
        const found = comparePlace(
          files.map((file) => knownOf(file)),
          after.map(seenOf),
        );
        expect(found).toMatchObject({ touched: [], gone: [], unknown: [], back: [] });
        expect(found.moved.map(({ known, seen }) => [known.id, seen.path]).sort()).toEqual(
          files
            .map((file, at) => [file.inode, shuffled[at]!] as const)
            .filter(([, path], at) => path !== files[at]!.path)
            .map((pair) => [...pair])
            .sort(),
        );
      }),
    );
  });

  it('marks what was deleted, finds what came back, tells what is new', () => {
    const [one, two, three] = disk(['1.jpg', '2.jpg', '3.jpg']) as [OnDisk, OnDisk, OnDisk];
    const found = comparePlace([knownOf(one), knownOf(two, true)], [two, three].map(seenOf));
    expect(found.gone.map(({ path }) => path)).toEqual(['1.jpg']);
    expect(found.back.map(({ known }) => known.path)).toEqual(['2.jpg']);
    expect(found.unknown.map(({ path }) => path)).toEqual(['3.jpg']);
  });

  it('keeps a record with its path when another program saved the file anew', () => {
    const [one] = disk(['1.jpg']) as [OnDisk];
    const saved = { ...one, inode: '99', modified: '5000', content: 'anotherone' };
    const found = comparePlace([knownOf(one)], [seenOf(saved)]);
    expect(found.touched).toHaveLength(1);
    expect([found.gone, found.unknown]).toEqual([[], []]);
  });

  it('does not trust an inode that was given to another file', () => {
    const [one] = disk(['1.jpg']) as [OnDisk];
    const found = comparePlace(
      [knownOf(one)],
      [seenOf({ ...one, path: 'new.jpg', content: 'quite another', modified: '7' })],
    );
    expect(found.moved).toEqual([]);
    expect([found.gone.length, found.unknown.length]).toEqual([1, 1]);
  });
});

describe('content', () => {
  it('is read only where the size could fit', () => {
    const [one, two] = disk(['1.jpg', '2.jpg']) as [OnDisk, OnDisk];
    const other = { ...seenOf(two), path: 'x.jpg', size: 12_345 };
    const same = { ...seenOf(one), path: 'y.jpg' };
    expect(worthReading([knownOf(one)], [other, same])).toEqual([same]);
  });

  it('leads back to each file once, twins in their order', () => {
    const [one, two] = disk(['1.jpg', '2.jpg']) as [OnDisk, OnDisk];
    const twin = { ...two, content: one.content };
    const seen = ['a.jpg', 'b.jpg', 'c.jpg'].map((path) => ({
      seen: { ...seenOf(one), path },
      content: one.content,
    }));
    expect(
      matchByContent([knownOf(one), knownOf(twin)], seen).map((pair) => [
        pair.known.path,
        pair.seen.path,
      ]),
    ).toEqual([
      ['1.jpg', 'a.jpg'],
      ['2.jpg', 'b.jpg'],
    ]);
    expect(matchByContent([knownOf(one)], [])).toEqual([]);
  });
});
