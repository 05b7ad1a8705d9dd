/**
 * The picture data of a JPEG without its metadata (ISO/IEC 10918-1, Annex B): every marker segment but
 * APP0–APP15 (colour profile and colour transform excepted) and COM, and the entropy-coded data up to the end
 * of image. Two files with the same essence show the same pixels whatever is written in their headers.
 */
const SOI = 0xd8;
const EOI = 0xd9;
const SOS = 0xda;
const APP0 = 0xe0;
const APP2 = 0xe2;
/** APP14 tells decoders of the colour transform: it is part of the picture. */
const APP14 = 0xee;
const APP15 = 0xef;
const COM = 0xfe;
/** The colour profile (ICC.1, annex B.4) decides what the numbers look like: it is essence too. */
const ICC_SIGNATURE = [...'ICC_PROFILE\0'].map((letter) => letter.charCodeAt(0));
/** FF, marker and length. */
const HEAD = 4;

const isScanByte = (next: number): boolean => next === 0 || (next >= 0xd0 && next <= 0xd7);

function isEssence(head: number[]): boolean {
  const marker = head[1]!;
  if (marker === APP14) return true;
  if (marker === APP2) return ICC_SIGNATURE.every((code, at) => head[HEAD + at] === code);
  return marker !== COM && (marker < APP0 || marker > APP15);
}

/** Picks the essence out of a JPEG that comes in pieces; holds no more of it than one segment's head. */
export interface EssencePicker {
  /** The next bytes of the file; the view may be used again afterwards. */
  push: (bytes: Uint8Array) => void;
  /** Whether that was a whole JPEG; what follows its end (previews, depth maps of phones) does not count. */
  end: () => boolean;
}

/** @param take gets the essence piece by piece; nothing of it counts unless `end` says so */
export function essencePicker(take: (bytes: Uint8Array) => void): EssencePicker {
  let state: 'start' | 'marker' | 'keep' | 'drop' | 'scan' | 'done' | 'bad' = 'start';
  /** Bytes of a head that is not yet decided upon, or the FF that may end a scan. */
  let head: number[] = [];
  /** Bytes of the segment still to come. */
  let left = 0;
  let isScanNext = false;
  let isAnyTaken = false;
  const keep = (bytes: Uint8Array): void => {
    isAnyTaken = true;
    take(bytes);
  };

  function begin(byte: number): void {
    head.push(byte);
    if (head.length === 2) {
      state = head[0] === 0xff && head[1] === SOI ? 'marker' : 'bad';
      head = [];
    }
  }
  /** One more byte of a segment's head, until it is plain whether the segment is essence. */
  function mark(byte: number): void {
    head.push(byte);
    if (head[0] !== 0xff) state = 'bad';
    else if (head[1] === 0xff) head = [0xff];
    else if (head[1] === EOI) {
      state = isAnyTaken ? 'done' : 'bad';
      keep(Uint8Array.from(head));
    } else if (head.length >= HEAD) {
      const length = (head[2]! << 8) | head[3]!;
      const needed = head[1] === APP2 ? HEAD + Math.min(ICC_SIGNATURE.length, length - 2) : HEAD;
      if (length < 2) state = 'bad';
      else if (head.length >= needed) {
        state = isEssence(head) ? 'keep' : 'drop';
        if (state === 'keep') keep(Uint8Array.from(head));
        left = length + 2 - head.length;
        isScanNext = head[1] === SOS;
        head = [];
        if (left === 0) endSegment();
      }
    }
  }
  function endSegment(): void {
    state = isScanNext ? 'scan' : 'marker';
  }
  /** @returns where the piece goes on */
  function segment(bytes: Uint8Array, at: number): number {
    const part = bytes.subarray(at, at + left);
    if (state === 'keep') keep(part);
    left -= part.length;
    if (left === 0) endSegment();
    return at + part.length;
  }
  /** Entropy-coded data up to the next marker that ends it. */
  function scan(bytes: Uint8Array, from: number): number {
    let at = from;
    if (head.length === 1) {
      const next = bytes[at]!;
      if (next !== 0xff && !isScanByte(next)) {
        state = 'marker';
        return at;
      }
      keep(Uint8Array.of(0xff));
      head = [];
    }
    const start = at;
    for (;;) {
      const ff = bytes.indexOf(0xff, at);
      if (ff < 0) {
        keep(bytes.subarray(start));
        return bytes.length;
      }
      if (ff + 1 === bytes.length) {
        keep(bytes.subarray(start, ff));
        head = [0xff];
        return bytes.length;
      }
      const next = bytes[ff + 1]!;
      if (next !== 0xff && !isScanByte(next)) {
        keep(bytes.subarray(start, ff));
        state = 'marker';
        return ff;
      }
      at = ff + (next === 0xff ? 1 : 2);
    }
  }

  return {
    push(bytes) {
      let at = 0;
      while (at < bytes.length && state !== 'done' && state !== 'bad') {
        if (state === 'scan') at = scan(bytes, at);
        else if (state === 'keep' || state === 'drop') at = segment(bytes, at);
        else {
          (state === 'start' ? begin : mark)(bytes[at]!);
          at += 1;
        }
      }
    },
    end: () => state === 'done',
  };
}
