/** A rectangle in px. */
export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** px between a peek and what it belongs to, and to the edges. */
const GAP = 10;

/**
 * Where a picture is shown largest beside what it belongs to, without covering it: to its left or right, above or
 * below, whatever gives a picture of this shape the most room.
 * @param of what it belongs to, within the whole
 * @param aspect width to height of the picture
 * @param extra px of height that are not picture
 */
export function beside(
  of: Box,
  whole: { width: number; height: number },
  aspect: number,
  extra: number,
): Box {
  const tall = whole.height - 2 * GAP;
  const wide = whole.width - 2 * GAP;
  const right = of.left + of.width + GAP;
  const below = of.top + of.height + GAP;
  const rooms: Box[] = [
    { left: GAP, top: GAP, width: of.left - 2 * GAP, height: tall },
    { left: right, top: GAP, width: whole.width - right - GAP, height: tall },
    { left: GAP, top: GAP, width: wide, height: of.top - 2 * GAP },
    { left: GAP, top: below, width: wide, height: whole.height - below - GAP },
  ];
  const shown = ({ width, height }: Box): number =>
    Math.max(0, Math.min(width, Math.max(0, height - extra) * aspect));
  return rooms.reduce((best, room) => (shown(room) > shown(best) ? room : best));
}
