import type { RefKind } from '../fields/refs';
import { LONGEST_QUERY } from '../query/tree';
import { lower, tokensOf } from './tokens';

/** Something the archive knows by a name. */
export interface Named {
  kind: RefKind | 'creator';
  id: string;
  label: string;
}
/** Names by their lower-case text. */
export type Dictionary = (name: string) => readonly Named[];

/** More words than any name has that is looked up. */
export const LONGEST_NAME = 6;

/** What the archive knows by name, to be asked. */
export function dictionaryOf(names: readonly Named[]): Dictionary {
  const found = new Map<string, Named[]>();
  for (const one of names) {
    const key = one.label.toLowerCase();
    const own = found.get(key);
    if (own) own.push(one);
    else found.set(key, [one]);
  }
  return (name) => found.get(name) ?? [];
}

/** Every run of words a text may name something with; for looking all up at once. */
export function possibleNames(text: string): string[] {
  const tokens = tokensOf(text.slice(0, LONGEST_QUERY));
  const names = new Set<string>();
  tokens.forEach((token, from) => {
    if (token.quoted) return void names.add(token.text.toLowerCase());
    for (let to = from + 1; to <= Math.min(tokens.length, from + LONGEST_NAME); to += 1) {
      const part = tokens.slice(from, to);
      if (part.some(({ text: word, quoted }) => quoted || /^[,()]$/.test(word))) break;
      const name = part.map(lower).join(' ');
      names.add(name);
      if (name.endsWith('s')) names.add(name.slice(0, -1));
    }
  });
  return [...names];
}
