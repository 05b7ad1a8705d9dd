/** A TIFF/EP entry: tag, type (1 BYTE, 2 ASCII, 3 SHORT, 4 LONG, 5 RATIONAL, 7 UNDEFINED, 10 SRATIONAL), values. */
type Entry = [tag: number, type: number, values: number[]];

const SIZE: Record<number, number> = { 1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 7: 1, 10: 8 };
const text = (value: string): number[] => [...Buffer.from(`${value}\0`)];

/** One image file directory; long values lie after it. `at` is its offset in the file. */
function directory(entries: Entry[], at: number): Buffer {
  const sorted = [...entries].sort((a, b) => a[0] - b[0]);
  const head = Buffer.alloc(2 + sorted.length * 12 + 4);
  head.writeUInt16LE(sorted.length, 0);
  const tail: Buffer[] = [];
  let after = at + head.length;
  sorted.forEach(([tag, type, values], index) => {
    const bytes = Buffer.alloc(Math.max(4, values.length * SIZE[type]!));
    values.forEach((value, each) => {
      if (type === 3) bytes.writeUInt16LE(value, each * 2);
      else if (type === 4) bytes.writeUInt32LE(value, each * 4);
      else if (type === 5 || type === 10) {
        bytes.writeInt32LE(Math.round(value * 10_000), each * 8);
        bytes.writeInt32LE(10_000, each * 8 + 4);
      } else bytes[each] = value;
    });
    const row = 2 + index * 12;
    head.writeUInt16LE(tag, row);
    head.writeUInt16LE(type, row + 2);
    head.writeUInt32LE(values.length, row + 4);
    if (values.length * SIZE[type]! <= 4) bytes.copy(head, row + 8, 0, 4);
    else {
      head.writeUInt32LE(after, row + 8);
      const even = bytes.length % 2 ? Buffer.concat([bytes, Buffer.alloc(1)]) : bytes;
      tail.push(even);
      after += even.length;
    }
  });
  return Buffer.concat([head, ...tail]);
}

/** Colour filter array, with what a reader needs to develop it (DNG 1.4). */
function rawEntries(width: number, height: number, offset: number): Entry[] {
  return [
    [254, 4, [0]],
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, [16]],
    [259, 3, [1]],
    [262, 3, [32803]],
    [273, 4, [offset]],
    [277, 3, [1]],
    [278, 4, [height]],
    [279, 4, [width * height * 2]],
    [33421, 3, [2, 2]],
    [33422, 1, [0, 1, 1, 2]],
    [50717, 4, [65_535]],
  ];
}

const camera = (orientation: number): Entry[] => [
  [271, 2, text('Marlow')],
  [272, 2, text('Heron 5R')],
  [274, 3, [orientation]],
  [306, 2, text('2026:09:12 19:42:07')],
  [50706, 1, [1, 4, 0, 0]],
  [50707, 1, [1, 1, 0, 0]],
  [50708, 2, text('Marlow Heron 5R')],
  [50721, 10, [1, 0, 0, 0, 1, 0, 0, 0, 1]],
  [50728, 5, [0.5, 1, 0.5]],
  [50778, 3, [21]],
];

/**
 * A camera raw file as DNG 1.4 lays it out: with a preview, the JPEG stands in the first directory and the
 * sensor's values in a sub-directory; without, the sensor's values stand in the first.
 */
export function dng(
  width: number,
  height: number,
  options: { preview?: Buffer; orientation?: number } = {},
): Buffer {
  const pixels = Buffer.alloc(width * height * 2);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      pixels.writeUInt16LE(
        Math.round((60_000 * x) / width) + ((y * 37) % 4000),
        (y * width + x) * 2,
      );
  const about = camera(options.orientation ?? 1);
  const header = Buffer.from([0x49, 0x49, 42, 0, 8, 0, 0, 0]);
  if (!options.preview) {
    const size = directory([...rawEntries(width, height, 0), ...about], 8).length;
    return Buffer.concat([
      header,
      directory([...rawEntries(width, height, 8 + size), ...about], 8),
      pixels,
    ]);
  }
  const { preview } = options;
  const first = (sub: number, strip: number): Entry[] => [
    [254, 4, [1]],
    [256, 4, [width]],
    [257, 4, [height]],
    [258, 3, [8, 8, 8]],
    [259, 3, [7]],
    [262, 3, [6]],
    [273, 4, [strip]],
    [277, 3, [3]],
    [278, 4, [height]],
    [279, 4, [preview.length]],
    [330, 4, [sub]],
    ...about,
  ];
  const sub = 8 + directory(first(0, 0), 8).length;
  const strip = sub + directory(rawEntries(width, height, 0), sub).length;
  const raw = strip + preview.length + (preview.length % 2);
  return Buffer.concat([
    header,
    directory(first(sub, strip), 8),
    directory(rawEntries(width, height, raw), sub),
    preview,
    Buffer.alloc(preview.length % 2),
    pixels,
  ]);
}
