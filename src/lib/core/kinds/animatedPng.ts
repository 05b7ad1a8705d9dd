/** A chunk of a PNG (W3C PNG, 5.3): its type and where it begins. */
export interface Chunk {
  type: string;
  at: number;
}

/**
 * Where the words of an animated PNG stand between the control of its first frame and that frame, as some writers lay them:
 * players take the chunk behind `fcTL` for the frame's data (W3C PNG, 11.3.6). Exchanging both stretches sets it right.
 * @param chunks from the beginning to the first IDAT at least
 * @returns bytes `from` to `middle` belong behind those of `middle` to `to`; null where nothing stands between
 */
export function wordsBetween(
  chunks: readonly Chunk[],
): { from: number; middle: number; to: number } | null {
  const control = chunks.findIndex(({ type }) => type === 'fcTL');
  const data = chunks.findIndex(({ type }) => type === 'IDAT');
  const [from, middle, to] = [chunks[control], chunks[control + 1], chunks[data]];
  if (control < 0 || data <= control + 1 || !from || !middle || !to) return null;
  return { from: from.at, middle: middle.at, to: to.at };
}
