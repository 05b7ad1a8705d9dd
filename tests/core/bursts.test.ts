import { describe, expect, it } from 'vitest';
import { foldBursts, type Frame } from '#core/bursts/fold';
import { foldingOf, toggled, withFolding } from '#core/bursts/folding';
import { formatQuery, parseQuery } from '#core/query/grammar';

const frame = (id: string, over: Partial<Frame> = {}): Frame => ({
  ...{ id, camera: 'A', at: 0, likeness: [0, 0], sharpness: 50, lost: 0, rating: 0 },
  ...{ name: `${id}.jpg`, width: 6000, height: 4000 },
  ...over,
});
const ids = (frames: Frame[]): string[][] => foldBursts(frames).map((burst) => burst.frames);

describe('bursts', () => {
  it('are frames of one camera that follow closely and look alike, in whatever order they come', () => {
    expect(
      ids([
        frame('3', { at: 2400 }),
        frame('1'),
        frame('2', { at: 900, likeness: [0b1111, 0] }),
        frame('other camera', { camera: 'B', at: 100 }),
        frame('other picture', { at: 3000, likeness: [-1, -1] }),
        frame('much later', { at: 900_000 }),
        frame('undated', { at: NaN }),
        frame('too plain', { at: 2500, likeness: null }),
      ]),
    ).toEqual([['1', '2', '3']]);
  });

  it('are no copies: versions of a picture say the same time, count no further, or have another size', () => {
    const copies = [
      frame('kite.jpg'),
      frame('kite-grey.jpg'),
      frame('kite (2).jpg'),
      frame('kite-half.jpg', { width: 3000, height: 2000, at: 1 }),
      frame('kite-crop.jpg', { width: 5000, at: 2 }),
      frame('turned', { width: 4000, height: 6000, at: 3 }),
      frame('unknown', { camera: '', at: 4 }),
      frame('unknown too', { camera: '', at: 5 }),
    ];
    expect(ids(copies)).toEqual([]);
    // They stand in the way of no frame.
    expect(ids([...copies.slice(0, 3), frame('next', { at: 900 })])).toEqual([
      ['kite.jpg', 'next'],
    ]);
    const counted = (name: string): Frame => frame(name, { name });
    expect(ids([counted('K_0002.jpg'), counted('K_0001.jpg'), counted('K_0003.jpg')])).toEqual([
      ['K_0001.jpg', 'K_0002.jpg', 'K_0003.jpg'],
    ]);
  });

  it('move on with what moves: each is compared with the one before', () => {
    const moving = Array.from({ length: 6 }, (_, at) =>
      frame(String(at), { at: at * 500, likeness: [(2 ** Math.min(30, at * 6) - 1) | 0, 0] }),
    );
    expect(ids(moving)).toEqual([moving.map(({ id }) => id)]);
  });

  it('take the same picture within a minute, and no other', () => {
    expect(ids([frame('1'), frame('2', { at: 50_000, likeness: [0b11, 0] })])).toHaveLength(1);
    expect(ids([frame('1'), frame('2', { at: 50_000, likeness: [0xffff, 0] })])).toHaveLength(0);
  });

  it('propose the sharpest, but not where light is lost, and nobody before who was chosen; and say why', () => {
    const [sharp] = foldBursts([frame('soft'), frame('sharp', { at: 1, sharpness: 80 })]);
    expect(sharp).toMatchObject({ lead: 'sharp', reason: 'the sharpest of 2: 80, the next 50' });
    const [burnt] = foldBursts([
      frame('kept'),
      frame('burnt', { at: 1, sharpness: 60, lost: 0.3 }),
    ]);
    expect(burnt).toMatchObject({
      lead: 'kept',
      reason: 'loses less light than a sharper one of 2',
    });
    const [chosen] = foldBursts([
      frame('chosen', { rating: 2 }),
      frame('sharper', { at: 1, sharpness: 99 }),
    ]);
    expect(chosen).toMatchObject({ lead: 'chosen', reason: 'has the most pips of 2' });
  });
});

describe('folding', () => {
  const read = (text: string) => parseQuery(text);
  it('is a condition of the query; bursts are unfolded in place and folded again', () => {
    const plain = read('kind photo');
    expect(foldingOf(plain)).toBeNull();
    const folded = withFolding(plain, []);
    expect(foldingOf(folded)).toEqual([]);
    const burst = '0190c5a0-0000-7000-8000-000000000001';
    const open = toggled(folded, burst);
    expect(foldingOf(read(formatQuery(open)))).toEqual([burst]);
    expect(foldingOf(toggled(open, '0190c5a0-0000-7000-8000-000000000002'))).toHaveLength(2);
    expect(formatQuery(toggled(open, burst))).toBe(formatQuery(folded));
    expect(formatQuery(withFolding(open, null))).toBe(formatQuery(plain));
  });
  it('leaves groups of others alone', () => {
    const other = read('any (has lead; rated 3)');
    expect(foldingOf(other)).toBeNull();
    expect(withFolding(other, null).where).toEqual(other.where);
  });
});
