import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { liesBelow, mainOf, suggestBundles } from '#core/intake/bundles';

const LAYOUT = [
  'Book/Chapter 2/Chapter 2.html',
  'Book/Chapter 2/Links/opening.jpg',
  'Book/Chapter 2/Fonts/News.woff2',
];
const SITE = [
  'web/story/index.html',
  'web/story/style.css',
  'web/story/img/a.jpg',
  'web/story/sub/index.html',
];
const LOOSE = ['DCIM/100/a.jpg', 'DCIM/100/b.pdf', 'notes.txt'];

describe('folders that are one item', () => {
  it('are suggested by their document beside its links, or their index page; the outermost counts', () => {
    expect(suggestBundles([...LAYOUT, ...SITE, ...LOOSE])).toEqual([
      { folder: 'Book/Chapter 2', main: 'Book/Chapter 2/Chapter 2.html', reason: 'layout' },
      { folder: 'web/story', main: 'web/story/index.html', reason: 'web site' },
    ]);
    expect(suggestBundles(LOOSE)).toEqual([]);
    expect(suggestBundles([])).toEqual([]);
  });

  it('have one file that stands for them, whatever is marked', () => {
    expect(mainOf('DCIM/100', LOOSE)).toBe('DCIM/100/b.pdf');
    expect(mainOf('DCIM', LOOSE)).toBe('DCIM/100/a.jpg');
    expect(mainOf('nothing', LOOSE)).toBeNull();
    // The document one works in goes before the forms it is given out in.
    expect(mainOf('L', ['L/a.pdf', 'L/a.layout', 'L/a.jpg'])).toBe('L/a.layout');
  });

  it('never lie within each other, and hold their main file', () => {
    const path = fc
      .array(fc.constantFrom('a', 'Links', 'index.html', 'doc.pdf', 'x.jpg'), {
        minLength: 1,
        maxLength: 4,
      })
      .map((parts) => parts.join('/'));
    fc.assert(
      fc.property(fc.uniqueArray(path, { maxLength: 12 }), (paths) => {
        const found = suggestBundles(paths);
        for (const one of found) {
          expect(paths).toContain(one.main);
          expect(liesBelow(one.main, one.folder)).toBe(true);
          for (const other of found)
            if (other !== one) expect(liesBelow(other.folder, one.folder)).toBe(false);
        }
      }),
    );
  });
});
