import anyAscii from 'any-ascii';
import type { Change } from './piece';
import { compileRegex } from './regex';

type Says = (text: string) => string;
/** Characters as people count them: not the halves of a pair. */
const characters = (text: string): string[] => Array.from(text);

/** What does a change; an expression is read once. @throws ArchiveError pattern-unclear */
export function changer(change: Change): Says {
  switch (change.does) {
    case 'upper':
      return (text) => text.toUpperCase();
    case 'lower':
      return (text) => text.toLowerCase();
    case 'capitals':
      return (text) => text.replace(/(^|[^\p{L}\p{N}’'])(\p{L})/gu, (found) => found.toUpperCase());
    case 'trim':
      return (text) => text.replace(/^[\s_.-]+|[\s_.-]+$/g, '');
    case 'ascii':
      return (text) => anyAscii(text.normalize('NFC'));
    case 'first':
      return (text) => characters(text).slice(0, change.count).join('');
    case 'last':
      return (text) => characters(text).slice(-change.count).join('');
    case 'from':
      return (text) =>
        characters(text)
          .slice(change.from - 1, change.to ?? undefined)
          .join('');
    case 'part':
      return (text) =>
        text.split(change.by).at(change.number > 0 ? change.number - 1 : change.number) ?? '';
    case 'replace':
      return (text) => text.replaceAll(change.what, () => change.with);
    case 'match': {
      const regex = compileRegex(change.regex, change.as);
      return (text) => regex.match(text, change.as);
    }
    case 'rewrite': {
      const regex = compileRegex(change.regex, change.as);
      return (text) => regex.rewrite(text, change.as);
    }
  }
}
