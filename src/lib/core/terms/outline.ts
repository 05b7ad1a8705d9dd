import { ArchiveError } from '../errors';
import { labelled, type ExchangedTerm } from './exchange';

/**
 * A thesaurus as indented text: a term on a line, what is narrower below it and further in. A term that stands under several
 * is written under each; a line `= Drachen` after a term tells what it is also known as, `~ Wind` what it is related to.
 */
const TAB = 4;
const DEEPEST = 100;
const widthOf = (space: string): number =>
  [...space].reduce((sum, one) => sum + (one === '\t' ? TAB : 1), 0);

/** @throws ArchiveError value-refused naming the line */
export function termsFromOutline(text: string): ExchangedTerm[] {
  const found = new Map<string, ExchangedTerm>();
  const named = (label: string): ExchangedTerm => {
    const key = label.toLowerCase();
    const own = found.get(key) ?? labelled(label);
    found.set(key, own);
    return own;
  };
  /** Terms on the way down to the line before, with how far in they stand. */
  let way: { width: number; term: ExchangedTerm }[] = [];
  text
    .replace(/^\ufeff/, '')
    .split(/\r\n|\r|\n/)
    .forEach((line, at) => {
      const [, space = '', mark = '', rest = ''] = /^(\s*)([=~]?)(.*)$/.exec(line)!;
      const label = rest.trim();
      if (label === '') return;
      const last = way.at(-1)?.term;
      if (mark) {
        if (!last)
          throw new ArchiveError(
            'value-refused',
            `Line ${at + 1}: “${mark} ${label}” stands below no term.`,
          );
        if (mark === '=') last.labels.push({ kind: 'also', lang: '', label });
        else last.related.push(named(label).key);
        return;
      }
      const width = widthOf(space);
      way = way.filter((above) => above.width < width);
      if (way.length > DEEPEST)
        throw new ArchiveError('value-refused', `Line ${at + 1} stands too far in.`);
      const term = named(label);
      const above = way.at(-1)?.term;
      if (above && !term.broader.includes(above.key)) term.broader.push(above.key);
      way.push({ width, term });
    });
  return [...found.values()];
}

/** More lines than this no outline has, however many ways lead to its terms. */
const MOST_LINES = 500_000;

/** @throws ArchiveError value-refused where terms under many others make it too long */
export function outlineOf(terms: readonly ExchangedTerm[]): string {
  const byKey = new Map(terms.map((term) => [term.key, term]));
  const narrower = new Map<string, ExchangedTerm[]>();
  for (const term of terms)
    for (const above of term.broader) narrower.set(above, [...(narrower.get(above) ?? []), term]);
  const lines: string[] = [];
  const told = new Set<string>();
  const tell = (term: ExchangedTerm, depth: number): void => {
    if (lines.length > MOST_LINES)
      throw new ArchiveError(
        'value-refused',
        'As indented text it would be too long: choose SKOS or CSV.',
      );
    const space = '  '.repeat(depth);
    lines.push(`${space}${term.label}`);
    if (!told.has(term.key)) {
      told.add(term.key);
      for (const { kind, label } of term.labels)
        if (kind === 'also') lines.push(`${space}  = ${label}`);
      for (const key of term.related) {
        const other = byKey.get(key);
        if (other && !told.has(key)) lines.push(`${space}  ~ ${other.label}`);
      }
    }
    for (const below of narrower.get(term.key) ?? []) tell(below, depth + 1);
  };
  for (const term of terms) if (term.broader.length === 0) tell(term, 0);
  return lines.map((line) => `${line}\n`).join('');
}
