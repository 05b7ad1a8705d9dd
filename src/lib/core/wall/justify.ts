/**
 * Justified rows: every tile keeps its picture's proportions, every full row is as wide as the wall.
 * Geometry lives in typed arrays so that a hundred thousand tiles are laid out in a few milliseconds.
 */
export interface WallGroup {
  /** Number of items under this heading. */
  count: number;
}

export interface WallOptions {
  /** Inner width of the wall in px. */
  width: number;
  /** Wished picture height of a row in px. */
  rowHeight: number;
  /** Gap between tiles in px. */
  gap: number;
  /** Height of a group's heading in px. */
  heading: number;
  /** Height of a tile's label below the picture in px. */
  label: number;
  /** More of the last group follows elsewhere: its last row is as wide as the wall. */
  continues?: boolean;
}

export interface WallRow {
  /** First item and one past the last. */
  from: number;
  to: number;
  /** px from the top of the wall. */
  top: number;
  /** Height of the pictures in px, without label. */
  height: number;
}

export interface WallLayout {
  /** Left edge and width of each tile in px. */
  left: Float32Array;
  width: Float32Array;
  rows: WallRow[];
  /** Top of each group's heading in px. */
  headings: { group: number; top: number }[];
  /** Row of each item. */
  rowOf: Uint32Array;
  /** Total height in px. */
  height: number;
}

/** A lone panorama or strip must not make a row of a few pixels or a tower. */
export const NARROWEST = 0.45;
export const WIDEST = 3.2;

/** Proportion a tile is drawn with: width ÷ height, held between the narrowest and the widest. */
export function tileAspect(aspect: number): number {
  return Math.min(WIDEST, Math.max(NARROWEST, aspect || 1.5));
}

/** Part of the wall's width below which tiles make no row of their own. */
const SHORT = 0.6;

/** Lay out groups of items. `aspects` holds width ÷ height of every item in order. */
export function justify(
  aspects: ArrayLike<number>,
  groups: WallGroup[],
  options: WallOptions,
): WallLayout {
  const { width, rowHeight, gap, heading, label } = options;
  const left = new Float32Array(aspects.length);
  const tile = new Float32Array(aspects.length);
  const rowOf = new Uint32Array(aspects.length);
  const rows: WallRow[] = [];
  const headings: WallLayout['headings'] = [];
  let top = 0;
  let first = 0;

  const closeRow = (from: number, to: number, sum: number, full: boolean): void => {
    const room = width - gap * (to - from - 1);
    const height = full ? room / sum : Math.min(rowHeight, room / sum);
    let x = 0;
    for (let index = from; index < to; index += 1) {
      const w = tileAspect(aspects[index]!) * height;
      left[index] = x;
      tile[index] = w;
      rowOf[index] = rows.length;
      x += w + gap;
    }
    rows.push({ from, to, top, height });
    top += height + label + gap;
  };

  const sumOf = (from: number, to: number): number => {
    let sum = 0;
    for (let index = from; index < to; index += 1) sum += tileAspect(aspects[index]!);
    return sum;
  };

  groups.forEach((group, groupIndex) => {
    headings.push({ group: groupIndex, top });
    top += heading;
    const end = Math.min(first + group.count, aspects.length);
    let from = first;
    let sum = 0;
    for (let index = first; index < end; index += 1) {
      const aspect = tileAspect(aspects[index]!);
      const now = Math.abs((width - gap * (index - from)) / (sum + aspect) - rowHeight);
      const before =
        index > from ? Math.abs((width - gap * (index - from - 1)) / sum - rowHeight) : Infinity;
      // The row closes before this tile when that comes nearer to the wished height.
      if ((width - gap * (index - from)) / (sum + aspect) < rowHeight && before <= now) {
        closeRow(from, index, sum, true);
        from = index;
        sum = 0;
      }
      sum += aspect;
      if ((width - gap * (index - from)) / sum <= rowHeight) {
        closeRow(from, index + 1, sum, true);
        from = index + 1;
        sum = 0;
      }
    }
    if (from < end) {
      const last = rows.at(-1);
      const isShort = sum * rowHeight < SHORT * width;
      if (!options.continues || groupIndex < groups.length - 1) closeRow(from, end, sum, false);
      else if (isShort && last && last.from >= first) {
        // Too little for a row of its own joins the row above.
        rows.pop();
        top = last.top;
        closeRow(last.from, end, sum + sumOf(last.from, last.to), true);
      } else closeRow(from, end, sum, true);
    }
    first = end;
  });
  return { left, width: tile, rows, headings, rowOf, height: top };
}

/** Rows that touch the window from `top` to `bottom` px, as [first, one past last] row index. */
export function rowsBetween(
  rows: WallRow[],
  top: number,
  bottom: number,
  label: number,
): [number, number] {
  const firstBelow = (edge: number): number => {
    let low = 0;
    let high = rows.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (rows[middle]!.top + rows[middle]!.height + label < edge) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  const from = firstBelow(top);
  let to = from;
  while (to < rows.length && rows[to]!.top <= bottom) to += 1;
  return [from, to];
}

/** The item in the row above (−1) or below (+1) whose middle lies nearest; the same item at the edges. */
export function neighbour(layout: WallLayout, index: number, direction: -1 | 1): number {
  const row = layout.rows[layout.rowOf[index]! + direction];
  if (!row) return index;
  const middle = layout.left[index]! + layout.width[index]! / 2;
  let best = row.from;
  for (let at = row.from; at < row.to; at += 1) {
    const distance = (i: number): number =>
      Math.abs(layout.left[i]! + layout.width[i]! / 2 - middle);
    if (distance(at) < distance(best)) best = at;
  }
  return best;
}
