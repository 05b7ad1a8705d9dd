/**
 * Colours of pictures. A picture's main colours are kept in 4 bits for each of red, green and blue (`#a63`): 4,096
 * codes, so that whether a picture has one near a given colour is whether it has one of some codes.
 */

/** OKLab (Ottosson 2020): lightness 0 … 1, and two axes on which equal distances look equal. */
type Lab = readonly [lightness: number, a: number, b: number];

const linear = (value: number): number =>
  value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;

/** @param red sRGB, 0 … 255, as the others */
function oklab(red: number, green: number, blue: number): Lab {
  const [r, g, b] = [linear(red / 255), linear(green / 255), linear(blue / 255)];
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}

/** Hue counts for more than light and shade: a red in the sun and one in the shadow are both red. */
const SHADE = 0.45;
const distance = (one: Lab, other: Lab): number =>
  Math.hypot(SHADE * (one[0] - other[0]), one[1] - other[1], one[2] - other[2]);

const LEVELS = 16;
const CODES = LEVELS ** 3;
const DIGITS = '0123456789abcdef';
const nameOf = (code: number): string =>
  `#${DIGITS[code >> 8]}${DIGITS[(code >> 4) & 15]}${DIGITS[code & 15]}`;
const LABS: readonly Lab[] = Array.from({ length: CODES }, (_, code) =>
  oklab((code >> 8) * 17, ((code >> 4) & 15) * 17, (code & 15) * 17),
);

/** Colours people name, for typing. */
export const NAMED: Readonly<Record<string, string>> = {
  red: '#cc2222',
  orange: '#dd7722',
  yellow: '#e6c829',
  green: '#3c8c3c',
  teal: '#228888',
  blue: '#2b5fb3',
  violet: '#7744aa',
  pink: '#dd88aa',
  brown: '#7a4f2b',
  black: '#111111',
  grey: '#808080',
  white: '#f4f4f4',
};

/** `#rrggbb` of what was typed: six or three digits, or a name; null where it is no colour. */
export function colourFrom(text: string): string | null {
  const plain = text.trim().toLowerCase();
  if (Object.hasOwn(NAMED, plain)) return NAMED[plain]!;
  const [, digits] = /^#?([0-9a-f]{3}|[0-9a-f]{6})$/.exec(plain) ?? [];
  if (!digits) return null;
  return digits.length === 6 ? `#${digits}` : `#${[...digits].map((one) => one + one).join('')}`;
}

/** What a colour is called: its name where it has one, else its digits. */
export const colourName = (colour: string): string =>
  Object.entries(NAMED).find(([, own]) => own === colour)?.[0] ?? colour;

/** Farther apart than this, two colours do not look alike. */
const ALIKE = 0.075;

/** The codes that look like a colour, the colour's own always among them. @param colour `#rrggbb` */
export function codesNear(colour: string): string[] {
  const part = (at: number): number => parseInt(colour.slice(at, at + 2), 16);
  const wished = oklab(part(1), part(3), part(5));
  const found: string[] = [];
  for (let code = 0; code < CODES; code += 1)
    if (distance(LABS[code]!, wished) <= ALIKE) found.push(nameOf(code));
  return found;
}

const MOST_MAIN = 5;
/** Less of a picture than this is no main colour of it. */
const LEAST_SHARE = 0.06;

/**
 * Main colours of a picture, the largest share first.
 * @param pixels red, green, blue for each pixel, 8 bits
 */
export function mainColours(pixels: Uint8Array): string[] {
  const counts = new Uint32Array(CODES);
  const all = Math.floor(pixels.length / 3);
  for (let at = 0; at < all * 3; at += 3) {
    const level = (value: number): number => Math.round(value / 17);
    counts[(level(pixels[at]!) << 8) | (level(pixels[at + 1]!) << 4) | level(pixels[at + 2]!)]! +=
      1;
  }
  const codes = [...counts.keys()]
    .filter((code) => counts[code]! > 0)
    .sort((a, b) => counts[b]! - counts[a]! || a - b);
  // Each code goes to the first greater one it looks like; what is gathered so is one colour.
  const main: { code: number; count: number }[] = [];
  for (const code of codes) {
    const own = main.find((one) => distance(LABS[one.code]!, LABS[code]!) <= ALIKE);
    if (own) own.count += counts[code]!;
    else main.push({ code, count: counts[code]! });
  }
  return main
    .filter(({ count }) => count >= all * LEAST_SHARE)
    .sort((a, b) => b.count - a.count)
    .slice(0, MOST_MAIN)
    .map(({ code }) => nameOf(code));
}
