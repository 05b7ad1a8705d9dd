/** Codes of values. */
export type Codes = Uint8Array | Uint16Array | Uint32Array;
type Numbers = Codes | Float64Array;

/** An array that another thread reads where it lies. */
export function shared<T extends Numbers>(
  kind: { new (buffer: SharedArrayBuffer): T; BYTES_PER_ELEMENT: number },
  length: number,
): T {
  return new kind(new SharedArrayBuffer(Math.ceil(length) * kind.BYTES_PER_ELEMENT));
}

/** The same kind of array with the same beginning, of another size. */
export function resized<T extends Numbers>(from: T, length: number): T {
  const next = shared(from.constructor as never, length) as T;
  next.set(from.subarray(0, next.length) as never);
  return next;
}

/** Room for so many: somewhat more than there is. */
export const grown = (size: number, wished: number): number =>
  Math.max(wished, Math.ceil(size * 1.25), 1024);
