import { createHash } from 'node:crypto';
import sharp, { type Sharp } from 'sharp';
import { describe, expect, it } from 'vitest';
import { pngPicker, webpPicker } from '#core/likeness/chunks';

type Picker = typeof pngPicker;
const essence = (bytes: Uint8Array, picker: Picker, piece = bytes.length): string | null => {
  const hash = createHash('sha256');
  const pick = picker((part) => void hash.update(part));
  for (let at = 0; at < bytes.length; at += piece) pick.push(bytes.subarray(at, at + piece));
  return pick.end() ? hash.digest('hex') : null;
};

const picture = (seed: number) =>
  sharp(Buffer.from(Array.from({ length: 40 * 30 * 4 }, (_, at) => (at * seed) % 256)), {
    raw: { width: 40, height: 30, channels: 4 },
  });
const told = (made: Sharp): Sharp => made.withExif({ IFD0: { Copyright: 'Ü', Artist: 'Zoë' } });

describe.each([
  ['PNG', pngPicker, (made: Sharp) => made.png().toBuffer()],
  ['WebP', webpPicker, (made: Sharp) => made.webp().toBuffer()],
  ['lossless WebP', webpPicker, (made: Sharp) => made.webp({ lossless: true }).toBuffer()],
] as const)('the essence of %s', (_name, picker, write) => {
  it('is the same whatever is written beside the picture, and another for another picture', async () => {
    const plain = await write(picture(7));
    const with_ = await write(told(picture(7)));
    expect(with_.equals(plain)).toBe(false);
    expect(essence(plain, picker)).toMatch(/^[0-9a-f]{64}$/);
    expect(essence(with_, picker)).toBe(essence(plain, picker));
    expect(essence(await write(picture(9)), picker)).not.toBe(essence(plain, picker));
  });

  it('comes out of pieces of any size', async () => {
    const bytes = await write(told(picture(5)));
    for (const piece of [1, 2, 3, 7, 12, 13, 64])
      expect([piece, essence(bytes, picker, piece)]).toEqual([piece, essence(bytes, picker)]);
  });

  it('is none where the file is cut off or something else', async () => {
    const bytes = await write(picture(5));
    for (const cut of [0, 4, 11, 20, bytes.length - 5])
      expect([cut, essence(bytes.subarray(0, cut), picker)]).toEqual([cut, null]);
    expect(essence(Buffer.from('not a picture at all, only words'), picker)).toBeNull();
  });
});
