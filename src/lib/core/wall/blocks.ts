import { justify, tileAspect, type WallLayout, type WallOptions } from './justify';

/**
 * A wall of any size is laid out in blocks: a group, or a stretch of a large one. A block's rows are known once its
 * proportions were fetched; until then its height is told from the sum of them.
 */
export interface Block {
  /** Group it belongs to; the first of a group carries its heading. */
  group: number;
  isFirst: boolean;
  isLast: boolean;
  /** First item and how many. */
  from: number;
  count: number;
  /** Sum of width ÷ height of its tiles. */
  wide: number;
}

/** More tiles than are laid out at once. */
export const BLOCK = 600;

/** Parts of groups small enough to be fetched and laid out in a moment. */
export function blocksOf(groups: readonly { count: number; wide: number }[]): Block[] {
  const blocks: Block[] = [];
  let from = 0;
  groups.forEach(({ count, wide }, group) => {
    const parts = Math.max(1, Math.round(count / BLOCK));
    let done = 0;
    for (let part = 0; part < parts; part += 1) {
      const until = Math.round((count * (part + 1)) / parts);
      blocks.push({
        group,
        isFirst: part === 0,
        isLast: part === parts - 1,
        from: from + done,
        count: until - done,
        wide: (wide * (until - done)) / Math.max(1, count),
      });
      done = until;
    }
    from += count;
  });
  return blocks;
}

/** Rows of a block; tops from its own top, its heading included. */
export function layBlock(
  block: Block,
  aspects: ArrayLike<number>,
  options: WallOptions,
): WallLayout {
  return justify(aspects, [{ count: block.count }], {
    ...options,
    heading: block.isFirst ? options.heading : 0,
    continues: !block.isLast,
  });
}

/** Height of a block in px before its proportions are known. */
export function guessHeight(
  block: Block,
  { width, rowHeight, gap, heading, label }: WallOptions,
): number {
  const each = block.wide / Math.max(1, block.count) || tileAspect(0);
  const perRow = Math.max(1, (width + gap) / (each * rowHeight + gap));
  const rows = Math.max(1, Math.ceil(block.count / perRow));
  return rows * (rowHeight + label + gap) + (block.isFirst ? heading : 0);
}

/** Tops of blocks in px, and one more: the height of all. */
export function topsOf(heights: readonly number[]): Float64Array {
  const tops = new Float64Array(heights.length + 1);
  heights.forEach((height, at) => (tops[at + 1] = tops[at]! + height));
  return tops;
}

/** The last entry of ascending numbers that is not above a value; −1 where all are. */
export function lastAtMost(
  numbers: ArrayLike<number>,
  value: number,
  count = numbers.length,
): number {
  let low = 0;
  let high = count;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (numbers[middle]! <= value) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Chromium lays out no page above 33,554,428 px; other browsers stop earlier. */
export const TALLEST = 12_000_000;

/** Where a wall taller than a page is looked at: px of the wall for px of the scroll bar, and back. */
export function scaled(
  height: number,
  view: number,
): { page: number; toWall: (scroll: number) => number; toScroll: (top: number) => number } {
  if (height <= TALLEST)
    return { page: height, toWall: (scroll) => scroll, toScroll: (top) => top };
  const ratio = (height - view) / (TALLEST - view);
  return { page: TALLEST, toWall: (scroll) => scroll * ratio, toScroll: (top) => top / ratio };
}
