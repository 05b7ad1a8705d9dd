/**
 * How a narrower term is typed and shown: `Box kite under Kite`, `Six-sided box kite under Box kite under Kite`.
 * In quotation marks a label stands for itself, whatever words it holds.
 */
const UNDER = /\s+under\s+/i;

/** The labels of what was typed, the term itself first, then what is broader. */
export function termPath(typed: string): string[] {
  const text = typed.trim();
  const quoted = /^["“](.+)["”]$/.exec(text)?.[1]?.trim();
  if (quoted) return [quoted];
  return text
    .split(UNDER)
    .map((label) => label.trim())
    .filter(Boolean);
}

/** A term with the one it stands under. */
export const termUnder = (label: string, broader: string | null): string =>
  broader ? `${label} under ${broader}` : label;
