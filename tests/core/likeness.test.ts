import fc from 'fast-check';
import sharp, { type Sharp } from 'sharp';
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
import { likenessFinder, lookOf, seekerOf } from '#core/likeness/finder';
import { agreement, signatureOf, turnedSignatures } from '#core/likeness/overlap';
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

  it('know cropped and brightened copies by laying pictures over each other, of each kind', async () => {
    const pictures = await Promise.all(Array.from({ length: 60 }, (_, seed) => picture(seed + 1)));
    const finder = likenessFinder();
    for (const [id, one] of pictures.entries()) finder.add(lookOf(await grey(one))!, id);
    const cut = (left: number, top: number, width: number, height: number) => (one: Buffer) =>
      sharp(one).extract({ left, top, width, height });
    const kinds: Record<string, (one: Buffer) => Sharp> = {
      'four in a hundred all around': cut(6, 4, 288, 192),
      'four in a hundred at a corner': cut(12, 8, 288, 192),
      'eight in a hundred all around': cut(12, 8, 276, 184),
      'one side only': cut(24, 0, 276, 200),
      'a third brighter': (one) => sharp(one).linear(1.35, 0),
      'burnt out': (one) => sharp(one).linear(1.6, 10),
      'cropped and brighter': (one) => cut(10, 6, 286, 190)(one).linear(1.25, 0),
      'cropped and mirrored': (one) => cut(6, 9, 285, 188)(one).flop(),
      'cropped and turned': (one) => cut(6, 9, 285, 188)(one).rotate(90),
    };
    let wrong = 0;
    for (const [kind, copyOf] of Object.entries(kinds)) {
      let found = 0;
      for (const [id, one] of pictures.entries()) {
        const copy = await copyOf(one).jpeg({ quality: 75 }).toBuffer();
        const near = finder.near(seekerOf(await grey(copy)));
        if (near.some((other) => other.id === id)) found += 1;
        wrong += near.filter((other) => other.id !== id).length;
      }
      // Where much is burnt out the order of tones is lost with it.
      const least = kind === 'burnt out' ? 0.7 : 0.95;
      expect([kind, found / pictures.length >= least]).toEqual([kind, true]);
    }
    const pairs = Object.keys(kinds).length * pictures.length * (pictures.length - 1);
    expect(wrong / pairs).toBeLessThan(0.001);
  }, 120_000);

  it('turn signatures as turning the picture would, in the order of the hashes', async () => {
    const one = await picture(5, 200, 200);
    const own = turnedSignatures(signatureOf(await grey(one)));
    const turns = [
      one,
      await sharp(one).flip().toBuffer(),
      await sharp(one).flop().toBuffer(),
      await sharp(one).rotate(180).toBuffer(),
    ];
    for (const [position, turned] of turns.entries())
      expect(agreement(signatureOf(await grey(turned)), own[position]!)).toBeGreaterThan(0.99);
    const hashes = likenessesOf(await grey(one));
    for (const turn of [90, 270]) {
      const turned = await grey(await sharp(one).rotate(turn).toBuffer());
      const nearest = hashes.map((each) => distance(each, likenessOf(turned)!));
      const position = nearest.indexOf(Math.min(...nearest));
      expect(agreement(signatureOf(turned), own[position]!)).toBeGreaterThan(0.99);
    }
  });

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
