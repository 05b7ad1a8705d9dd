import type { EssencePicker } from './jpeg';

/**
 * The picture data of PNG (ISO/IEC 15948) and WebP (RFC 9649) without their metadata: files of chunks, some of
 * which only describe. Two files with the same essence show the same pixels whatever is written beside them.
 */
interface ChunkFormat {
  /** Bytes before the first chunk. */
  lead: number;
  isLead: (bytes: Uint8Array) => boolean;
  /** From the eight bytes a chunk begins with: its type, and how many bytes follow them. */
  chunk: (head: Uint8Array) => { type: string; length: number };
  isEssence: (type: string) => boolean;
  /** Chunks of which one at least makes a picture. */
  isPicture: (type: string) => boolean;
  /** The chunk that ends the file; where there is none, it ends between two. */
  last: string | null;
}

const HEAD = 8;
const text = (bytes: Uint8Array, from: number): string =>
  String.fromCharCode(...bytes.subarray(from, from + 4));
const viewOf = (bytes: Uint8Array): DataView =>
  new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

const PNG_SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];
const PNG_CRC = 4;
const PNG: ChunkFormat = {
  lead: PNG_SIGNATURE.length,
  isLead: (bytes) => PNG_SIGNATURE.every((byte, at) => bytes[at] === byte),
  chunk: (head) => ({ type: text(head, 4), length: viewOf(head).getUint32(0) + PNG_CRC }),
  isEssence: (type) => !['tEXt', 'zTXt', 'iTXt', 'eXIf', 'tIME'].includes(type),
  isPicture: (type) => type === 'IDAT',
  last: 'IEND',
};

const WEBP: ChunkFormat = {
  lead: 12,
  isLead: (bytes) => text(bytes, 0) === 'RIFF' && text(bytes, 8) === 'WEBP',
  chunk(head) {
    const length = viewOf(head).getUint32(4, true);
    return { type: text(head, 0), length: length + (length % 2) };
  },
  // The extended head says which chunks follow; it is made where metadata are added.
  isEssence: (type) => !['VP8X', 'EXIF', 'XMP '].includes(type),
  isPicture: (type) => ['VP8 ', 'VP8L', 'ANMF'].includes(type),
  last: null,
};

function chunkPicker(format: ChunkFormat, take: (bytes: Uint8Array) => void): EssencePicker {
  let state: 'lead' | 'head' | 'keep' | 'drop' | 'done' | 'bad' = 'lead';
  let head = new Uint8Array(format.lead);
  let filled = 0;
  let left = 0;
  let isLast = false;
  let hasPicture = false;

  const endChunk = (): void => {
    state = isLast ? 'done' : 'head';
  };
  function begin(): void {
    if (state === 'lead') state = format.isLead(head) ? 'head' : 'bad';
    else {
      const { type, length } = format.chunk(head);
      const isKept = format.isEssence(type);
      if (isKept) take(head);
      if (format.isPicture(type)) hasPicture = true;
      isLast = type === format.last;
      left = length;
      state = isKept ? 'keep' : 'drop';
      if (left === 0) endChunk();
    }
    head = new Uint8Array(HEAD);
    filled = 0;
  }

  return {
    push(bytes) {
      let at = 0;
      while (at < bytes.length && state !== 'done' && state !== 'bad') {
        if (state === 'keep' || state === 'drop') {
          const part = bytes.subarray(at, at + left);
          if (state === 'keep') take(part);
          left -= part.length;
          at += part.length;
          if (left === 0) endChunk();
        } else {
          const part = bytes.subarray(at, at + head.length - filled);
          head.set(part, filled);
          filled += part.length;
          at += part.length;
          if (filled === head.length) begin();
        }
      }
    },
    end: () =>
      hasPicture &&
      (state === 'done' || (format.last === null && state === 'head' && filled === 0)),
  };
}

export const pngPicker = (take: (bytes: Uint8Array) => void): EssencePicker =>
  chunkPicker(PNG, take);
export const webpPicker = (take: (bytes: Uint8Array) => void): EssencePicker =>
  chunkPicker(WEBP, take);
