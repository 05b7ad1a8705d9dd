/**
 * How a value is written: `#` a digit, `@` a letter from A to Z, `?` any character, `*` any characters or none, `\` before
 * one of these means itself. Upper and lower case are two letters.
 */
type Part = { many: true } | { many: false; fits: (character: string) => boolean; regex: string };

const literal = (character: string): Part => ({
  many: false,
  fits: (one) => one === character,
  regex: character.replace(/[\\^$.*+?()[\]{}|]/g, '\\$&'),
});

function partsOf(mask: string): Part[] {
  const parts: Part[] = [];
  const characters = [...mask];
  for (let at = 0; at < characters.length; at += 1) {
    const character = characters[at]!;
    const next = characters[at + 1];
    if (character === '\\' && next !== undefined && '#@?*\\'.includes(next)) {
      parts.push(literal(next));
      at += 1;
    } else if (character === '#')
      parts.push({ many: false, fits: (one) => /^[0-9]$/.test(one), regex: '[0-9]' });
    else if (character === '@')
      parts.push({ many: false, fits: (one) => /^[A-Za-z]$/.test(one), regex: '[A-Za-z]' });
    else if (character === '?') parts.push({ many: false, fits: () => true, regex: '.' });
    else if (character === '*') {
      if (!parts.at(-1)?.many) parts.push({ many: true });
    } else parts.push(literal(character));
  }
  return parts;
}

/** Whether a text is written so, in time that grows with both lengths multiplied and no faster. */
export function fitsMask(text: string, mask: string): boolean {
  const parts = partsOf(mask);
  const characters = [...text];
  let [at, part] = [0, 0];
  /** Where the last `*` stood, and how far it reaches so far. */
  let [star, reach] = [-1, 0];
  while (at < characters.length) {
    const now = parts[part];
    if (now?.many) {
      [star, reach] = [part, at];
      part += 1;
    } else if (now && now.fits(characters[at]!)) {
      at += 1;
      part += 1;
    } else if (star >= 0) {
      reach += 1;
      [at, part] = [reach, star + 1];
    } else return false;
  }
  return parts.slice(part).every(({ many }) => many);
}

/** The same as a regular expression of POSIX, which PostgreSQL matches without going back. */
export const regexOfMask = (mask: string): string =>
  `^${partsOf(mask)
    .map((part) => (part.many ? '.*' : part.regex))
    .join('')}$`;
