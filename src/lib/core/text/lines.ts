/** Text of bytes: UTF-8, UTF-16 where its mark says so, otherwise Latin-1. */
export function textOf(bytes: Uint8Array): string {
  const mark = ((bytes[0] ?? 0) << 8) | (bytes[1] ?? 0);
  if (mark === 0xfffe || mark === 0xfeff)
    return new TextDecoder(mark === 0xfffe ? 'utf-16le' : 'utf-16be').decode(bytes);
  // The end may cut a character in two.
  const text = new TextDecoder('utf-8').decode(bytes, { stream: true });
  return text.includes('\ufffd') ? new TextDecoder('windows-1252').decode(bytes) : text;
}

/** Longer words are broken anyhow. */
const LONGEST_WORD = 200;
const inParts = (word: string): string[] =>
  word.length <= LONGEST_WORD
    ? [word]
    : (word.match(new RegExp(`.{1,${LONGEST_WORD}}`, 'gsu')) ?? []);

/**
 * The first lines of a text, broken at spaces to fit.
 * @param most lines
 * @param widthOf how wide some words are
 * @param width what a line may be wide, in the same unit
 */
export function firstLines(
  text: string,
  most: number,
  widthOf: (words: string) => number,
  width: number,
): string[] {
  const lines: string[] = [];
  // eslint-disable-next-line no-control-regex -- what cannot be printed is left out
  const printed = text.replace(/[\u0000-\u0008\u000b-\u001f\u007f]/g, '').replaceAll('\t', '    ');
  for (const paragraph of printed.split('\n')) {
    let line = '';
    for (const word of paragraph.split(' ').flatMap(inParts)) {
      let rest = word;
      const wider = line === '' ? rest : `${line} ${rest}`;
      if (line !== '' && widthOf(wider) > width) {
        lines.push(line);
      } else rest = wider;
      // A word longer than a line is cut where it must.
      while (widthOf(rest) > width && lines.length < most) {
        let fits = rest.length - 1;
        while (fits > 1 && widthOf(rest.slice(0, fits)) > width) fits = Math.ceil(fits * 0.9) - 1;
        lines.push(rest.slice(0, Math.max(1, fits)));
        rest = rest.slice(Math.max(1, fits));
      }
      line = rest;
      if (lines.length >= most) return lines.slice(0, most);
    }
    lines.push(line);
    if (lines.length >= most) return lines.slice(0, most);
  }
  return lines;
}
