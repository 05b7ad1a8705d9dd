import { describe, expect, it } from 'vitest';
import { pairSidecars } from '#core/intake/sidecars';

const paired = (...paths: string[]) => {
  const { sidecarOf, lone } = pairSidecars(paths);
  return [Object.fromEntries(sidecarOf), lone];
};

describe('sidecars of a source', () => {
  it('describe the file whose whole name they carry', () => {
    expect(paired('a.jpg', 'a.jpg.xmp', 'a.png')).toEqual([{ 'a.jpg': 'a.jpg.xmp' }, []]);
  });

  it('of a bare name describe the one raw, or the only file of that name', () => {
    expect(paired('a.jpg', 'a.dng', 'a.tif', 'a.png', 'a.xmp')).toEqual([{ 'a.dng': 'a.xmp' }, []]);
    expect(paired('a.jpg', 'a.xmp')).toEqual([{ 'a.jpg': 'a.xmp' }, []]);
    expect(paired('a.jpg', 'a.png', 'a.xmp')).toEqual([{}, ['a.xmp']]);
    expect(paired('a.nef', 'a.dng', 'a.xmp')).toEqual([{}, ['a.xmp']]);
    expect(paired('IMG_1.CR2', 'img_1.XMP')).toEqual([{ 'IMG_1.CR2': 'img_1.XMP' }, []]);
  });

  it('describe one file, and a file has one; the rest are lone', () => {
    expect(paired('a.dng', 'a.xmp', 'a.dng.xmp')).toEqual([{ 'a.dng': 'a.dng.xmp' }, ['a.xmp']]);
    expect(paired('b.xmp', 'deep/a.xmp', 'a.dng')).toEqual([{}, ['b.xmp', 'deep/a.xmp']]);
  });

  it('of 100,000 files are told in a moment', () => {
    const many = Array.from({ length: 50_000 }, (_, at) => [`d/${at}.dng`, `d/${at}.xmp`]).flat();
    expect(pairSidecars(many).sidecarOf.size).toBe(50_000);
  });
});
