import fc from 'fast-check';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import {
  ALIKE,
  distance,
  fromBigint,
  HASH_EDGE,
  likenessesOf,
  likenessIndex,
  likenessOf,
  toBigint,
  type Likeness,
} from '#core/likeness/phash';
import { random } from '../../demo/paint/random';

const word = fc.integer({ min: 0, max: 0xffffffff });
const likeness: fc.Arbitrary<Likeness> = fc.tuple(word, word);

/** A picture of soft shapes, different for every seed. */
async function picture(seed: number, width = 300, height = 200): Promise<Buffer> {
  const { between, int } = random(seed * 7919 + 13);
  const colour = (): string => `rgb(${int(0, 255)},${int(0, 255)},${int(0, 255)})`;
  const shapes = Array.from(
    { length: 14 },
    () =>
      `<ellipse cx="${between(0, width)}" cy="${between(0, height)}" rx="${between(15, 90)}" ry="${between(15, 90)}" fill="${colour()}" fill-opacity="0.8"/>`,
  ).join('');
  return sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect width="100%" height="100%" fill="${colour()}"/>${shapes}</svg>`,
    ),
  )
    .png()
    .toBuffer();
}
const grey = async (image: Buffer): Promise<Buffer> =>
  sharp(image)
    .greyscale()
    .resize(HASH_EDGE, HASH_EDGE, { fit: 'fill' })
    .toColourspace('b-w')
    .raw()
    .toBuffer();
const hash = async (image: Buffer): Promise<Likeness> => likenessOf(await grey(image))!;

describe('perceptual hashes', () => {
  it('measure distance as the bits that differ', () => {
    const slow = (a: Likeness, b: Likeness): number =>
      [0, 1].reduce(
        (sum, half) => sum + ((a[half]! ^ b[half]!) >>> 0).toString(2).replaceAll('0', '').length,
        0,
      );
    fc.assert(
      fc.property(likeness, likeness, (a, b) => {
        expect(distance(a, b)).toBe(slow(a, b));
        expect(distance(a, b)).toBe(distance(b, a));
        expect(distance(a, a)).toBe(0);
      }),
    );
  });

  it('pass through the database unchanged', () => {
    fc.assert(
      fc.property(likeness, (one) => {
        expect(fromBigint(toBigint(one))).toEqual([...one]);
        expect(BigInt(toBigint(one)) >= -(2n ** 63n) && BigInt(toBigint(one)) < 2n ** 63n).toBe(
          true,
        );
      }),
    );
  });

  it('are found as by trying each', () => {
    fc.assert(
      fc.property(
        fc.array(likeness, { maxLength: 60 }),
        fc.array(likeness, { minLength: 1, maxLength: 8 }),
        fc.integer({ min: 0, max: 40 }),
        (all, wished, most) => {
          const index = likenessIndex();
          all.forEach((one, id) => index.add(one, id));
          const slow = all
            .map((one, id) => ({ id, distance: Math.min(...wished.map((w) => distance(one, w))) }))
            .filter((one) => one.distance <= most)
            .sort((a, b) => a.distance - b.distance || a.id - b.id);
          expect(index.near(wished, most)).toEqual(slow);
        },
      ),
    );
  });

  it('know a picture that was scaled, pressed, brightened or turned, and tell others apart', async () => {
    const index = likenessIndex();
    const pictures = await Promise.all(Array.from({ length: 40 }, (_, seed) => picture(seed + 1)));
    for (const [id, one] of pictures.entries()) index.add(await hash(one), id);
    let found = 0;
    let wrong = 0;
    let tried = 0;
    for (const [id, one] of pictures.entries()) {
      const copies = [
        sharp(one).resize(120).jpeg({ quality: 40 }),
        sharp(one).modulate({ brightness: 1.15 }).jpeg({ quality: 80 }),
        sharp(one).rotate(90).jpeg(),
        sharp(one).rotate(180).webp({ quality: 60 }),
        sharp(one).rotate(270),
        sharp(one).flop().jpeg(),
        sharp(one).extract({ left: 3, top: 2, width: 294, height: 196 }).jpeg(),
      ];
      for (const copy of copies) {
        tried += 1;
        const near = index.near(likenessesOf(await grey(await copy.toBuffer())));
        if (near.some((other) => other.id === id)) found += 1;
        wrong += near.filter((other) => other.id !== id).length;
      }
    }
    expect(found / tried).toBeGreaterThan(0.97);
    expect(wrong / tried).toBeLessThan(0.01);
  }, 60_000);

  it('turn frequencies as turning the picture would', async () => {
    const one = await picture(99);
    const all = likenessesOf(await grey(one));
    expect(all).toHaveLength(8);
    for (const turn of [0, 90, 180, 270])
      for (const flop of [false, true]) {
        const turned = await sharp(one).rotate(turn).toBuffer();
        const likely = await hash(flop ? await sharp(turned).flop().toBuffer() : turned);
        expect(Math.min(...all.map((other) => distance(likely, other)))).toBeLessThanOrEqual(2);
      }
  });

  it('give nothing for a plain sheet: it would be like every other', () => {
    const plain = new Uint8Array(HASH_EDGE * HASH_EDGE).fill(200);
    expect(likenessOf(plain)).toBeNull();
    expect(likenessesOf(plain)).toEqual([]);
    expect(ALIKE).toBeLessThan(16);
  });
});
