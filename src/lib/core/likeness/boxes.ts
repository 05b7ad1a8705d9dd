import type { EssencePicker } from './jpeg';

/**
 * The sound and picture data of an ISO base media file (ISO/IEC 14496-12; MP4, QuickTime): what lies in its boxes of media
 * data and fragments. Where in them a frame begins is said elsewhere, so that two files of one essence play alike only as far
 * as their tables agree: whoever rewrites one asks that, too.
 */
const HEAD = 8;
const LARGE = 16;
const KEPT = new Set(['mdat', 'moof']);
/** Boxes a file begins with. */
const KNOWN = new Set([
  ...KEPT,
  'ftyp',
  'moov',
  'free',
  'skip',
  'wide',
  'uuid',
  'meta',
  'pnot',
  'sidx',
  'styp',
  'mfra',
  'udta',
  'PICT',
  'junk',
  'pdin',
  'emsg',
  'ssix',
  'prft',
]);

/** @param take gets the essence piece by piece; nothing of it counts unless `end` says so */
export function boxPicker(take: (bytes: Uint8Array) => void): EssencePicker {
  let state: 'head' | 'keep' | 'drop' | 'bad' = 'head';
  const head = new Uint8Array(LARGE);
  let filled = 0;
  let needed = HEAD;
  let left = 0;
  let hasMedia = false;

  function begin(): void {
    const view = new DataView(head.buffer);
    const type = String.fromCharCode(...head.subarray(4, 8));
    const short = view.getUint32(0);
    if (short === 1 && needed === HEAD) {
      needed = LARGE;
      return;
    }
    const whole = short === 1 ? Number(view.getBigUint64(8)) : short;
    // A box of no length goes on to the end of the file.
    left = short === 0 ? Infinity : whole - needed;
    if (!KNOWN.has(type) || left < 0) {
      state = 'bad';
      return;
    }
    const isKept = KEPT.has(type);
    if (isKept && left > 0) hasMedia = true;
    state = left === 0 ? 'head' : isKept ? 'keep' : 'drop';
    filled = 0;
    needed = HEAD;
  }

  return {
    push(bytes) {
      let at = 0;
      while (at < bytes.length && state !== 'bad') {
        if (state === 'head') {
          const part = bytes.subarray(at, at + needed - filled);
          head.set(part, filled);
          filled += part.length;
          at += part.length;
          if (filled === needed) begin();
        } else {
          const part = bytes.subarray(at, Math.min(bytes.length, at + left));
          if (state === 'keep') take(part);
          left -= part.length;
          at += part.length;
          if (left === 0) state = 'head';
        }
      }
    },
    end: () => hasMedia && ((state === 'head' && filled === 0) || left === Infinity),
  };
}
