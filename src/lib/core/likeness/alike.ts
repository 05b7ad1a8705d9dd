/** What a file of a source is like, in the archive or in the source itself. */
export interface Alike {
  kind: 'twin' | 'lookalike';
  /** Item held already; null for another file of the same source. */
  itemId: string | null;
  number: string | null;
  /** Position of the other file in the source. */
  position: number | null;
  /** Bits that differ, 0…64 */
  distance: number;
}
