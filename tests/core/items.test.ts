import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { pickItems } from '#core/likeness/items';

const box = (type: string, ...parts: Uint8Array[]): Buffer => {
  const body = Buffer.concat(parts);
  const head = Buffer.alloc(8);
  head.writeUInt32BE(body.length + 8);
  head.write(type, 4, 'latin1');
  return Buffer.concat([head, body]);
};
const bytes = (...values: number[]): Buffer => Buffer.from(values);
const infe = (id: number, type: string): Buffer =>
  box('infe', bytes(2, 0, 0, 0, 0, id, 0, 0), Buffer.from(type), bytes(0));

/** A file of one picture and what describes it, whose data lie after so many bytes of something else. */
function file({ picture = 'PICTURE', exif = 'TOLD', ahead = 0, links = 'cdsc' } = {}): Buffer {
  const build = (offset: number): Buffer[] => {
    const iloc = (...items: [number, number, number][]): Buffer =>
      box(
        'iloc',
        bytes(0, 0, 0, 0, 0x44, 0, 0, items.length),
        ...items.map(([id, at, length]) => {
          const own = Buffer.alloc(14);
          own.writeUInt16BE(id);
          own.writeUInt16BE(1, 4);
          own.writeUInt32BE(at, 6);
          own.writeUInt32BE(length, 10);
          return own;
        }),
      );
    const meta = box(
      'meta',
      bytes(0, 0, 0, 0),
      box('pitm', bytes(0, 0, 0, 0, 0, 1)),
      box('iinf', bytes(0, 0, 0, 0, 0, 2), infe(1, 'hvc1'), infe(2, 'Exif')),
      box('iref', bytes(0, 0, 0, 0), box(links, bytes(0, 2, 0, 1, 0, 1))),
      box('iprp', box('ipco', bytes(1, 2, 3))),
      iloc([1, offset, picture.length], [2, offset + picture.length, exif.length]),
    );
    return [box('ftyp', Buffer.from('heic')), meta, box('free', Buffer.alloc(ahead))];
  };
  const head = Buffer.concat(build(0)).length + 8;
  return Buffer.concat([...build(head), box('mdat', Buffer.from(picture + exif))]);
}
async function picked(content: Buffer): Promise<string | null> {
  const parts: Buffer[] = [];
  const read = (at: number, length: number): Promise<Uint8Array> =>
    Promise.resolve(content.subarray(at, at + length));
  const isWhole = await pickItems({ size: content.length, read }, (part) =>
    parts.push(Buffer.from(part)),
  );
  return isWhole ? Buffer.concat(parts).toString('latin1') : null;
}

describe('pictures of items', () => {
  it('are the same whatever describes them and wherever they lie', async () => {
    const plain = await picked(file());
    expect(plain).toContain('PICTURE');
    expect(plain).not.toContain('TOLD');
    expect(await picked(file({ exif: 'TOLD OTHERWISE', ahead: 500 }))).toBe(plain);
  });
  it('are others where their data or what they hang together with is', async () => {
    const plain = await picked(file());
    expect(await picked(file({ picture: 'PICTURF' }))).not.toBe(plain);
    expect(await picked(file({ links: 'thmb' }))).not.toBe(plain);
  });
  it('are not told where the file is cut, or moves', async () => {
    const whole = file();
    for (let cut = 0; cut < whole.length; cut += 7)
      expect([cut, await picked(whole.subarray(0, cut))]).toEqual([cut, null]);
    expect(await picked(Buffer.concat([whole, box('moov', bytes(1))]))).toBeNull();
  });
  it('never break what reads them', async () => {
    const whole = file();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 6 }),
        async (changes) => {
          const broken = Buffer.from(whole);
          for (const [at, value] of changes) broken[at] = value;
          await picked(broken);
        },
      ),
      { numRuns: 1000 },
    );
  });
});
