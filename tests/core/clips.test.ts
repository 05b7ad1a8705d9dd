import { describe, expect, it } from 'vitest';
import { bandsOf, likeClips, type ClipLook } from '#core/likeness/clips';
import type { Likeness } from '#core/likeness/phash';
import { random } from '../../demo/paint/random';

/** Clips by made-up hashes: a frame each second. */
const { next } = random(7);
const hash = (): Likeness => [Math.floor(next() * 2 ** 32), Math.floor(next() * 2 ** 32)];
const clip = (frames: Likeness[], from = 0): ClipLook => ({
  times: frames.map((_, at) => from + at),
  frames,
});
/** As another encoder leaves it: some bits differ. */
const worn = ([high, low]: Likeness): Likeness => [(high ^ 0b101) >>> 0, (low ^ 0b1001) >>> 0];
const film = Array.from({ length: 20 }, hash);

describe('clips', () => {
  it('are alike however they were coded, and tell how much later they begin', () => {
    expect(likeClips(clip(film), clip(film.map(worn)))).toMatchObject({ matched: 20 });
    const cut = likeClips(clip(film), clip(film.slice(5, 15).map(worn), 0.2));
    expect(cut!.matched).toBe(10);
    expect(Math.abs(cut!.offset + 4.8)).toBeLessThan(1);
  });

  it('that share only a title are others, and so are those in another order', () => {
    const other = [...film.slice(0, 3), ...Array.from({ length: 17 }, hash)];
    expect(likeClips(clip(film), clip(other))).toBeNull();
    expect(likeClips(clip(film), clip([...film].reverse()))).toBeNull();
    expect(likeClips(clip(film), clip(Array.from({ length: 20 }, hash)))).toBeNull();
  });

  it('of a frame or two need both', () => {
    const two = film.slice(0, 2);
    expect(likeClips(clip(two), clip(two))).not.toBeNull();
    expect(likeClips(clip(two), clip([two[0]!, hash()]))).toBeNull();
    expect(likeClips(clip([]), clip(two))).toBeNull();
  });

  it('are looked for by quarters of their hashes', () => {
    const bands = bandsOf(clip([[0x0001_0002, 0x0003_0004]]));
    expect(bands).toEqual([0x0_0001, 0x1_0002, 0x2_0003, 0x3_0004]);
    const shared = new Set(bandsOf(clip(film)));
    expect(bandsOf(clip(film.map(worn))).filter((band) => shared.has(band))).toHaveLength(40);
  });
});
