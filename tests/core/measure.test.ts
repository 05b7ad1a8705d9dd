import { describe, expect, it } from 'vitest';
import { exposure, greyOf, histogramOf, sharpness, type Grey } from '#core/pixels/measure';
import { random } from '../../demo/paint/random';

/** A pattern of blocks, as sharp as pixels are. */
function made(contrast: number, middle = 128): Grey {
  const { int } = random(3);
  const blocks = Array.from({ length: 40 * 40 }, () => middle + (int(0, 1) * 2 - 1) * contrast);
  const [width, height] = [320, 320];
  const data = new Uint8Array(width * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1) data[y * width + x] = blocks[(y >> 3) * 40 + (x >> 3)]!;
  return { data, width, height };
}
/** Mean of a square around each pixel. */
function blurred({ data, width, height }: Grey, radius: number, from = 0): Grey {
  const out = data.slice();
  for (let y = from; y < height; y += 1)
    for (let x = 0; x < width; x += 1) {
      let [sum, count] = [0, 0];
      for (let dy = -radius; dy <= radius; dy += 1)
        for (let dx = -radius; dx <= radius; dx += 1)
          if (y + dy >= 0 && y + dy < height && x + dx >= 0 && x + dx < width) {
            sum += data[(y + dy) * width + x + dx]!;
            count += 1;
          }
      out[y * width + x] = sum / count;
    }
  return { data: out, width, height };
}

describe('sharpness', () => {
  it('falls with every known blur', () => {
    const sharp = made(80);
    const found = [0, 1, 2, 4].map((radius) => sharpness(blurred(sharp, radius)));
    expect(found[0]).toBeGreaterThan(30);
    for (let at = 1; at < found.length; at += 1)
      expect(found[at]!).toBeLessThan(found[at - 1]! * 0.9);
  });
  it('hardly asks for contrast or brightness', () => {
    const [strong, weak, dark] = [made(80), made(30), made(40, 60)].map((one) =>
      sharpness(blurred(one, 1)),
    ) as [number, number, number];
    expect(Math.abs(strong - weak)).toBeLessThanOrEqual(2);
    expect(Math.abs(strong - dark)).toBeLessThanOrEqual(2);
  });
  it('is that of what is sharp, before a blurred ground; nothing is known of a plain one', () => {
    const whole = sharpness(made(80));
    expect(sharpness(blurred(made(80), 4, 120))).toBeGreaterThan(whole * 0.9);
    expect(sharpness({ data: new Uint8Array(320 * 320).fill(90), width: 320, height: 320 })).toBe(
      0,
    );
  });
});

describe('exposure', () => {
  it('tells the mean and what is lost in black and white', () => {
    const data = new Uint8Array(100).fill(128);
    data.fill(0, 0, 10).fill(255, 90);
    const found = exposure({ data, width: 10, height: 10 });
    expect(found).toMatchObject({ black: 0.1, white: 0.1 });
    expect(found.mean).toBeCloseTo(0.5, 1);
  });
  it('counts each channel', () => {
    const { red, green, blue } = histogramOf(Uint8Array.from([1, 2, 3, 1, 5, 3]), 3);
    expect([red[1], green[2], green[5], blue[3]]).toEqual([2, 1, 1, 2]);
    expect([
      ...greyOf({
        data: Uint8Array.from([255, 255, 255, 9, 0, 0, 0, 9]),
        width: 2,
        height: 1,
        channels: 4,
      }).data,
    ]).toEqual([255, 0]);
  });
});
