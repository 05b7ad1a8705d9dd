import type { EssencePicker } from './jpeg';

/**
 * The pages of a PDF without what ExifTool appended to describe it: it changes a PDF by an incremental update (ISO 32000-1,
 * 7.5.6) between marks of its own, and takes its last one away before it writes the next.
 */
const MARK = new TextEncoder().encode('%BeginExifToolUpdate');
const SIGNATURE = new TextEncoder().encode('%PDF-');
/** A PDF begins within its first bytes. */
const LATEST_START = 1024;
/** More blanks than this between the file's end and an update there are not. */
const MOST_HELD = 4096;

const isBlank = (byte: number): boolean => byte === 10 || byte === 13 || byte === 32 || byte === 0;
function indexOf(bytes: Uint8Array, wanted: Uint8Array): number {
  for (let at = bytes.indexOf(wanted[0]!); at >= 0; at = bytes.indexOf(wanted[0]!, at + 1))
    if (wanted.every((byte, step) => bytes[at + step] === byte)) return at;
  return -1;
}

/** @param take gets the essence piece by piece; nothing of it counts unless `end` says so */
export function pdfPicker(take: (bytes: Uint8Array) => void): EssencePicker {
  /** The last bytes, in which the mark may begin, with the blanks before it. */
  let held = new Uint8Array(0);
  let seen = 0;
  let isPdf = false;
  let isOver = false;
  let start = new Uint8Array(0);

  function keepBlanks(bytes: Uint8Array, end: number): number {
    let from = end;
    while (from > 0 && end - from < MOST_HELD && isBlank(bytes[from - 1]!)) from -= 1;
    return from;
  }

  return {
    push(bytes) {
      if (isOver) return;
      if (seen < LATEST_START) {
        start = joined(start, bytes.subarray(0, LATEST_START - seen));
        isPdf = indexOf(start, SIGNATURE) >= 0;
      }
      seen += bytes.length;
      const all = joined(held, bytes);
      const at = indexOf(all, MARK);
      isOver = at >= 0;
      const end = isOver ? at : Math.max(0, all.length - MARK.length);
      const from = keepBlanks(all, end);
      take(all.subarray(0, from));
      held = isOver ? new Uint8Array(0) : all.slice(from);
    },
    end() {
      // What is left may end in blanks of the file's own: they count for nothing, as before an update.
      take(held.subarray(0, keepBlanks(held, held.length)));
      return isPdf;
    },
  };
}

function joined(a: Uint8Array, b: Uint8Array): Uint8Array<ArrayBuffer> {
  const both = new Uint8Array(a.length + b.length);
  both.set(a);
  both.set(b, a.length);
  return both;
}
