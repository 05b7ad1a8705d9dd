/** Bytes that may lie about before they are cleared away. */
const MOST_WASTED = 1 << 20;
/** Letters; texts up to here are read one by one. */
const SHORT = 12;
const encoder = new TextEncoder();
const decoder = new TextDecoder();

/**
 * Texts by number, their bytes in a row (UTF-8): as objects a million of them take three times as much memory, and
 * every collection of garbage walks through them.
 */
export class Texts {
  #bytes = new Uint8Array(1024);
  #used = 0;
  /** Bytes of texts that were replaced. */
  #wasted = 0;
  #starts = new Uint32Array(16);
  #lengths = new Uint32Array(16);
  length = 0;

  static of(texts: readonly string[]): Texts {
    const own = new Texts();
    for (const text of texts) own.push(text);
    return own;
  }

  at(no: number): string {
    if (no >= this.length) return '';
    const from = this.#starts[no]!;
    const bytes = this.#bytes.subarray(from, from + this.#lengths[no]!);
    // Put together letter by letter a long text is a chain of as many parts, which is dear to keep and to compare.
    if (bytes.length > SHORT) return decoder.decode(bytes);
    let text = '';
    for (let at = 0; at < bytes.length; at += 1) {
      if (bytes[at]! > 127) return decoder.decode(bytes);
      text += String.fromCharCode(bytes[at]!);
    }
    return text;
  }

  /** @returns its number */
  push(text: string): number {
    const no = this.length;
    if (no === this.#starts.length) {
      this.#starts = grown(this.#starts, Math.max(16, no * 1.5));
      this.#lengths = grown(this.#lengths, Math.max(16, no * 1.5));
    }
    this.length += 1;
    this.set(no, text);
    return no;
  }
  /** Whether a text is this one. */
  #says(no: number, text: string): boolean {
    const from = this.#starts[no]!;
    for (let at = 0; at < text.length; at += 1) {
      const code = text.charCodeAt(at);
      if (code > 127) return this.at(no) === text;
      if (this.#bytes[from + at] !== code) return false;
    }
    return text.length === this.#lengths[no];
  }
  /** Another text in its place. */
  set(no: number, text: string): void {
    const before = this.#lengths[no]!;
    if (before > 0 && this.#says(no, text)) return;
    this.#wasted += before;
    if (this.#wasted > MOST_WASTED && this.#wasted * 2 > this.#used) this.#squeeze();
    const most = this.#used + text.length * 3;
    if (most > this.#bytes.length) this.#bytes = grown(this.#bytes, most * 1.25);
    const { written } = encoder.encodeInto(text, this.#bytes.subarray(this.#used));
    this.#starts[no] = this.#used;
    this.#lengths[no] = written;
    this.#used += written;
  }

  #squeeze(): void {
    const { bytes, starts, lengths } = this.toPlain();
    this.#bytes = bytes;
    this.#starts = starts;
    this.#lengths = lengths;
    this.#used = bytes.length;
    this.#wasted = 0;
  }

  /** How a text stands to some bytes, in the order of code points: below 0, 0 or above. */
  compare(no: number, wished: Uint8Array): number {
    return compareSpans(
      this.#bytes,
      this.#starts[no]!,
      this.#lengths[no]!,
      wished,
      0,
      wished.length,
    );
  }
  begins(no: number, wished: Uint8Array): boolean {
    const length = Math.min(this.#lengths[no]!, wished.length);
    return (
      length === wished.length &&
      compareSpans(this.#bytes, this.#starts[no]!, length, wished, 0, length) === 0
    );
  }
  /** Their numbers, in the order of code points. */
  sorted(): Uint32Array {
    const bytes = this.#bytes;
    const starts = this.#starts;
    const lengths = this.#lengths;
    return Uint32Array.from({ length: this.length }, (_, no) => no).sort((a, b) =>
      compareSpans(bytes, starts[a]!, lengths[a]!, bytes, starts[b]!, lengths[b]!),
    );
  }

  static from(plain: PlainTexts): Texts {
    const own = new Texts();
    own.#bytes = plain.bytes;
    own.#used = plain.bytes.length;
    own.#starts = plain.starts;
    own.#lengths = plain.lengths;
    own.length = plain.starts.length;
    return own;
  }
  /** Without what was replaced. */
  toPlain(): PlainTexts {
    const { length } = this;
    const starts = new Uint32Array(length);
    const lengths = this.#lengths.slice(0, length);
    let used = 0;
    for (let no = 0; no < length; no += 1) {
      starts[no] = used;
      used += lengths[no]!;
    }
    const bytes = new Uint8Array(used);
    for (let no = 0; no < length; no += 1)
      bytes.set(
        this.#bytes.subarray(this.#starts[no]!, this.#starts[no]! + lengths[no]!),
        starts[no],
      );
    return { bytes, starts, lengths };
  }
}

export interface PlainTexts {
  bytes: Uint8Array<ArrayBuffer>;
  starts: Uint32Array<ArrayBuffer>;
  lengths: Uint32Array<ArrayBuffer>;
}

/** UTF-8; most texts are short and ASCII, for which a call of the encoder costs more than the letters. */
export function bytesOfText(text: string): Uint8Array {
  const bytes = new Uint8Array(text.length);
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    if (code > 0x7f) return encoder.encode(text);
    bytes[at] = code;
  }
  return bytes;
}

function grown<T extends Uint8Array | Uint32Array>(from: T, size: number): T {
  const next = new (from.constructor as new (length: number) => T)(Math.ceil(size));
  next.set(from as never);
  return next;
}

function compareSpans(
  a: Uint8Array,
  aFrom: number,
  aLength: number,
  b: Uint8Array,
  bFrom: number,
  bLength: number,
): number {
  const length = Math.min(aLength, bLength);
  for (let at = 0; at < length; at += 1) {
    const difference = a[aFrom + at]! - b[bFrom + at]!;
    if (difference !== 0) return difference;
  }
  return aLength - bLength;
}
