import { describe, expect, it } from 'vitest';
import { boxPicker } from '#core/likeness/boxes';
import type { EssencePicker } from '#core/likeness/jpeg';
import { pdfPicker } from '#core/likeness/pdf';
import { pickTiff } from '#core/likeness/tiff';

const ascii = (text: string): Uint8Array => new TextEncoder().encode(text);
const joined = (...parts: Uint8Array[]): Uint8Array =>
  new Uint8Array(parts.flatMap((part) => [...part]));

/** What a picker takes of bytes that come in pieces of some length; null where it says they are not whole. */
function picked(
  pickerOf: (take: (bytes: Uint8Array) => void) => EssencePicker,
  bytes: Uint8Array,
  piece = bytes.length,
): string | null {
  let taken = '';
  const picker = pickerOf((some) => (taken += String.fromCharCode(...some)));
  // One buffer is lent again and again.
  const lent = new Uint8Array(Math.max(1, piece));
  for (let at = 0; at < bytes.length; at += piece) {
    const part = bytes.subarray(at, at + piece);
    lent.set(part);
    picker.push(lent.subarray(0, part.length));
  }
  return picker.end() ? taken : null;
}

describe('the pages of a PDF', () => {
  const pages = '%PDF-1.4 pages\r\n%%EOF';
  const update = '%BeginExifToolUpdate\n1 0 obj\n%EndExifToolUpdate 12\n%%EOF\n';

  it.each([1, 3, 19, 64, 500])(
    'are the same before and after an update, in pieces of %i',
    (piece) => {
      for (const end of ['', '\n', '\r\n \n'])
        for (const more of ['', update])
          expect(picked(pdfPicker, ascii(pages + end + more), piece)).toBe(pages);
    },
  );
  it('differ where a page does, and are none of what is no PDF', () => {
    expect(picked(pdfPicker, ascii(`${pages}more`))).not.toBe(pages);
    expect(picked(pdfPicker, ascii('plain text'))).toBeNull();
  });
});

function box(
  type: string,
  content: Uint8Array,
  size: 'short' | 'long' | 'open' = 'short',
): Uint8Array {
  const head = new Uint8Array(size === 'long' ? 16 : 8);
  const view = new DataView(head.buffer);
  const length = head.length + content.length;
  view.setUint32(0, size === 'short' ? length : size === 'long' ? 1 : 0);
  head.set(ascii(type), 4);
  if (size === 'long') view.setBigUint64(8, BigInt(length));
  return joined(head, content);
}

describe('the media data of a film', () => {
  const film = joined(
    box('ftyp', ascii('isom')),
    box('moov', ascii('tables and words')),
    box('mdat', ascii('frames')),
    box('free', ascii('')),
    box('mdat', ascii(' more'), 'long'),
  );
  it.each([1, 5, 16, 1000])('are what lies in its boxes of them, in pieces of %i', (piece) => {
    expect(picked(boxPicker, film, piece)).toBe('frames more');
    const other = joined(box('ftyp', ascii('qt')), box('mdat', ascii('frames'), 'open'));
    expect(picked(boxPicker, other, piece)).toBe('frames');
  });
  it('are told of no film that is cut off, or none', () => {
    expect(picked(boxPicker, film.subarray(0, film.length - 2))).toBeNull();
    expect(picked(boxPicker, box('moov', ascii('x')))).toBeNull();
    expect(picked(boxPicker, ascii('this is no film at all'))).toBeNull();
  });
});

/** A TIFF of one strip; a tag's value stands in its entry. */
function tiff(tags: [number, number, number, number][], data = 'pixels', next = 0): Uint8Array {
  const bytes = new Uint8Array(8 + 2 + tags.length * 12 + 4);
  const view = new DataView(bytes.buffer);
  bytes.set(ascii('II'));
  view.setUint16(2, 42, true);
  view.setUint32(4, 8, true);
  view.setUint16(8, tags.length, true);
  tags.forEach(([tag, type, count, value], index) => {
    const at = 10 + index * 12;
    view.setUint16(at, tag, true);
    view.setUint16(at + 2, type, true);
    view.setUint32(at + 4, count, true);
    view.setUint32(at + 8, value, true);
  });
  view.setUint32(10 + tags.length * 12, next, true);
  return joined(bytes, ascii(data));
}
async function pickedTiff(bytes: Uint8Array): Promise<string | null> {
  let taken = '';
  const read = (at: number, length: number): Promise<Uint8Array> =>
    Promise.resolve(Buffer.from(bytes.subarray(at, at + length)));
  const isWhole = await pickTiff({ size: bytes.length, read }, (some) => {
    taken += `${[...some].join(',')};`;
  });
  return isWhole ? taken : null;
}

describe('the pictures of a TIFF', () => {
  const LONG = 4;
  const where = (tags: number): number => 8 + 2 + tags * 12 + 4;
  const of = (...more: [number, number, number, number][]) => {
    const count = more.length + 3;
    const strip: [number, number, number, number][] = [
      [256, LONG, 1, 3],
      [273, LONG, 1, where(count)],
      [279, LONG, 1, 6],
    ];
    return tiff([...strip, ...more]);
  };

  it('are the same wherever they lie and whatever describes them', async () => {
    const plain = await pickedTiff(of());
    expect(plain).toContain('112,105,120,101,108,115');
    // Orientation describes; how samples are to be read does not.
    expect(await pickedTiff(of([274, 3, 1, 6]))).toBe(plain);
    expect(await pickedTiff(of([262, 3, 1, 1]))).not.toBe(plain);
  });

  it('are told of none that goes round, is cut off, or names more than there is', async () => {
    const strip = of();
    const round = new Uint8Array(strip);
    new DataView(round.buffer).setUint32(10 + 36, 8, true);
    expect(await pickedTiff(round)).toBeNull();
    expect(await pickedTiff(strip.subarray(0, strip.length - 1))).toBeNull();
    expect(await pickedTiff(tiff([[273, LONG, 0xffffffff, 8]]))).toBeNull();
    expect(await pickedTiff(tiff([[256, LONG, 1, 3]]))).toBeNull();
    expect(await pickedTiff(ascii('II*'))).toBeNull();
    expect(await pickedTiff(ascii('no picture at all'))).toBeNull();
  });
});
