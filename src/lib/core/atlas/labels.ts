/** Names on a map: each beside what it names, none under a mark or another name. px, y down. */
export interface Label {
  text: string;
  /** What it names, a circle. */
  x: number;
  y: number;
  r: number;
  kind: 'place' | 'own';
}
export interface Laid extends Label {
  left: number;
  top: number;
}
interface Box {
  left: number;
  top: number;
  right: number;
  bottom: number;
}

/** Width of a letter of the book face at 13 px, taken together; a little too wide rather than too narrow. */
const LETTER = 6.6;
const HEIGHT = 17;
const GAP = 4;

const meets = (a: Box, b: Box): boolean =>
  a.left < b.right && a.right > b.left && a.top < b.bottom && a.bottom > b.top;

/** To the right, to the left, below, above. */
function* spotsFor({ text, x, y, r }: Label): Generator<Box> {
  const width = text.length * LETTER;
  const at = (left: number, top: number): Box => ({
    ...{ left, top },
    ...{ right: left + width, bottom: top + HEIGHT },
  });
  yield at(x + r + GAP, y - HEIGHT / 2);
  yield at(x - r - GAP - width, y - HEIGHT / 2);
  yield at(x - width / 2, y + r + GAP / 2);
  yield at(x - width / 2, y - r - GAP / 2 - HEIGHT);
}

/**
 * Lay names, the first first. One that finds no room stands nowhere: what it names tells it when it is pointed at.
 * @param marks circles that must stay free
 */
export function layLabels(
  labels: readonly Label[],
  marks: readonly { x: number; y: number; r: number }[],
): Laid[] {
  const taken: Box[] = marks.map(({ x, y, r }) => ({
    ...{ left: x - r, right: x + r },
    ...{ top: y - r, bottom: y + r },
  }));
  const laid: Laid[] = [];
  for (const label of labels)
    for (const box of spotsFor(label))
      if (!taken.some((other) => meets(box, other))) {
        taken.push(box);
        laid.push({ ...label, left: box.left, top: box.top });
        break;
      }
  return laid;
}

/** How long a bar of a scale is: a round number of metres that takes 60 to 150 px. @param metres of one px */
export function scaleBar(metres: number): { words: string; px: number } | null {
  if (!(metres > 0)) return null;
  const rough = metres * 100;
  const step = 10 ** Math.floor(Math.log10(rough));
  const round = [1, 2, 5, 10].map((by) => by * step).find((size) => size >= rough * 0.6)!;
  const words = round >= 1000 ? `${round / 1000} km` : `${round} m`;
  return { words, px: round / metres };
}
