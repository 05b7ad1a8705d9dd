import { describe, expect, it } from 'vitest';
import { bundleAround, ownersOfSidecars } from '#core/holdings/belonging';
import { stemOf } from '#core/kinds/kinds';

const owner = (path: string) => ({ itemId: `item of ${path}`, path });
const ownersOf = (originals: string[], sidecars: string[], taken: string[] = []) =>
  Object.fromEntries(
    [
      ...ownersOfSidecars(
        originals.map(owner),
        new Set(taken.map((path) => `item of ${path}`)),
        sidecars,
      ),
    ].map(([path, itemId]) => [path, itemId.replace('item of ', '')]),
  );

describe('sidecars', () => {
  it('belong to the file whose whole name they carry, else to the first of their stem', () => {
    expect(ownersOf(['a.jpg', 'a.dng'], ['a.xmp'])).toEqual({ 'a.xmp': 'a.dng' });
    expect(ownersOf(['a.jpg', 'a.dng'], ['a.jpg.xmp', 'a.dng.xmp'])).toEqual({
      'a.jpg.xmp': 'a.jpg',
      'a.dng.xmp': 'a.dng',
    });
    expect(ownersOf(['x/a.jpg', 'y/a.jpg'], ['y/a.xmp'])).toEqual({ 'y/a.xmp': 'y/a.jpg' });
    expect(ownersOf(['a.jpg'], ['b.xmp', 'deep/a.xmp'])).toEqual({});
    expect(ownersOf(['a.jpg'], ['a.XMP'])).toEqual({ 'a.XMP': 'a.jpg' });
  });

  it('an item has one; the whole name goes before the stem', () => {
    expect(ownersOf(['a.jpg'], ['a.xmp', 'a.jpg.xmp'])).toEqual({ 'a.jpg.xmp': 'a.jpg' });
    expect(ownersOf(['a.jpg'], ['a.xmp'], ['a.jpg'])).toEqual({});
  });

  it('take no time over many', () => {
    const many = Array.from({ length: 100_000 }, (_, at) => `day ${at % 300}/p${at}.jpg`);
    const owners = ownersOfSidecars(
      many.map(owner),
      new Set(),
      many.slice(0, 5000).map((path) => `${path}.xmp`),
    );
    expect(owners.size).toBe(5000);
  });
});

describe('bundles', () => {
  it('hold what lies below their folder, the innermost first', () => {
    const bundles = [
      { itemId: 'outer', folder: 'poster' },
      { itemId: 'inner', folder: 'poster/web' },
    ];
    expect(bundleAround(bundles, 'poster/Links/a.jpg')).toBe('outer');
    expect(bundleAround(bundles, 'poster/web/a.png')).toBe('inner');
    expect(bundleAround(bundles, 'posters/a.png')).toBeUndefined();
    expect(bundleAround([{ itemId: 'all', folder: '' }], 'a.png')).toBe('all');
  });
});

describe('stems', () => {
  it('lack the extension and nothing else', () => {
    expect(['a.jpg', 'x.y/a', 'x.y/a.b.jpg', '.hidden', 'dir/.hidden', 'a.'].map(stemOf)).toEqual([
      'a',
      'x.y/a',
      'x.y/a.b',
      '.hidden',
      'dir/.hidden',
      'a.',
    ]);
  });
});
