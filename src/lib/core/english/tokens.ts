/** A sentence, word by word. */
export interface Token {
  text: string;
  /** In lower case; empty where it was quoted. */
  lower: string;
  quoted: boolean;
}
export type Sequence = Token[];

/** Words of a text; quotes hold together, commas and brackets stand alone. */
export function tokensOf(text: string): Sequence {
  const found: Sequence = [];
  for (const match of text.matchAll(/“((?:[^”]|””)*)”|"([^"]*)"|([,()])|([^\s,()“"]+)/g)) {
    const [, curly, straight, symbol, word] = match;
    const inQuotes = curly?.replaceAll('””', '”') ?? straight;
    const bare = symbol ?? word?.replace(/(?<=\p{L})[.?!]$/u, '') ?? '';
    found.push(
      inQuotes === undefined
        ? { text: bare, lower: bare.toLowerCase(), quoted: false }
        : { text: inQuotes, lower: '', quoted: true },
    );
  }
  return found;
}

export const lower = (token: Token): string => token.lower;
