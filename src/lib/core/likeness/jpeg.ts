/**
 * The picture data of a JPEG without its metadata (ISO/IEC 10918-1, Annex B): every marker segment but
 * APP0–APP15 (colour profile and colour transform excepted) and COM, and the entropy-coded data up to the end of image. Two files with the same essence
 * show the same pixels whatever is written in their headers.
 */
export type ByteRange = readonly [start: number, end: number];

const SOI = 0xd8;
const EOI = 0xd9;
const SOS = 0xda;
const APP0 = 0xe0;
const APP15 = 0xef;
const COM = 0xfe;
/** APP14 tells decoders of the colour transform: it is part of the picture. */
const APP14 = 0xee;
const APP2 = 0xe2;
const ICC_SIGNATURE = 'ICC_PROFILE\0';

/** The colour profile (ICC.1, annex B.4) decides what the numbers look like: it is essence too. */
function isProfile(bytes: Uint8Array, at: number): boolean {
  return [...ICC_SIGNATURE].every(
    (letter, index) => bytes[at + 4 + index] === letter.charCodeAt(0),
  );
}

function isMetadata(bytes: Uint8Array, at: number): boolean {
  const marker = bytes[at + 1]!;
  if (marker === APP14 || (marker === APP2 && isProfile(bytes, at))) return false;
  return (marker >= APP0 && marker <= APP15) || marker === COM;
}

/** Index just past the entropy-coded data that starts at `at`: the position of the next real marker. */
function endOfScan(bytes: Uint8Array, at: number): number {
  let index = at;
  for (;;) {
    index = bytes.indexOf(0xff, index);
    if (index < 0 || index + 1 >= bytes.length) return bytes.length;
    const next = bytes[index + 1]!;
    if (next !== 0 && !(next >= 0xd0 && next <= 0xd7) && next !== 0xff) return index;
    index += next === 0xff ? 1 : 2;
  }
}

/**
 * Byte ranges of the essence, in order; null where the bytes are no whole JPEG.
 * What follows the end of image (previews, depth maps of phones) is not essence.
 */
export function jpegEssence(bytes: Uint8Array): ByteRange[] | null {
  if (bytes[0] !== 0xff || bytes[1] !== SOI) return null;
  const ranges: ByteRange[] = [];
  let at = 2;
  while (at + 3 < bytes.length) {
    if (bytes[at] !== 0xff) return null;
    const marker = bytes[at + 1]!;
    if (marker === 0xff) {
      at += 1;
      continue;
    }
    if (marker === EOI) return ranges.length ? [...ranges, [at, at + 2]] : null;
    const end = at + 2 + ((bytes[at + 2]! << 8) | bytes[at + 3]!);
    if (end > bytes.length) return null;
    if (!isMetadata(bytes, at)) ranges.push([at, end]);
    at = end;
    if (marker === SOS) {
      const scanEnd = endOfScan(bytes, at);
      ranges.push([at, scanEnd]);
      at = scanEnd;
    }
  }
  return at + 2 <= bytes.length && bytes[at] === 0xff && bytes[at + 1] === EOI
    ? [...ranges, [at, at + 2]]
    : null;
}
