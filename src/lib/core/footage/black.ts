/** A picture is black where none of its dots is lighter than this, of 255. */
const BLACK = 26;
/** Seconds: what is black for less is a cut. */
const LEAST = 0.2;

/**
 * Stretches of a clip that are black.
 * @param grey small pictures one after the other, a byte for each dot
 * @param dots of one picture @param rate pictures a second
 * @returns seconds, from and to
 */
export function blackStretches(
  grey: Uint8Array,
  dots: number,
  rate: number,
): [from: number, to: number][] {
  const found: [number, number][] = [];
  const count = Math.floor(grey.length / dots);
  let began = -1;
  for (let at = 0; at <= count; at += 1) {
    const isBlack =
      at < count && grey.subarray(at * dots, (at + 1) * dots).every((dot) => dot <= BLACK);
    if (isBlack && began < 0) began = at;
    if (isBlack || began < 0) continue;
    if (at - began >= LEAST * rate) found.push([began / rate, at / rate]);
    began = -1;
  }
  return found;
}
