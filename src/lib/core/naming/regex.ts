import { RE2JS } from 're2js';
import { ArchiveError } from '../errors';

/**
 * Regular expressions that people type: RE2 syntax, in time linear to the text, whatever they say. No backreferences,
 * no look-around. https://github.com/google/re2/wiki/Syntax
 */
export interface Regex {
  /** What is found first, said by a template of its groups; without one the first group that took part, or all of it. */
  match: (text: string, template: string | null) => string;
  /** Everything found said by a template. */
  rewrite: (text: string, template: string) => string;
}

const MOST_CHARACTERS = 500;
const GROUP = /\$(?:(\d)|<([A-Za-z_]\w*)>|(\$))/g;

type Matcher = ReturnType<RE2JS['matcher']>;

/** `$1`, `$<name>`; `$$` is a dollar; a group that took no part says nothing. */
const said = (matcher: Matcher, template: string): string =>
  template.replace(GROUP, (_all, number?: string, name?: string) => {
    if (number !== undefined)
      return Number(number) <= matcher.groupCount() ? (matcher.group(Number(number)) ?? '') : '';
    return name === undefined ? '$' : (matcher.group(name) ?? '');
  });

/** The names a template refers to must be groups of the expression. */
function checkTemplate(regex: RE2JS, template: string): void {
  const groups = regex.namedGroups() as Record<string, number>;
  for (const [, , name] of template.matchAll(GROUP))
    if (name !== undefined && !(name in groups))
      throw new ArchiveError('pattern-unclear', `“$<${name}>”: the expression names no such group`);
}

/** @throws ArchiveError pattern-unclear where it is no expression of RE2 */
export function compileRegex(source: string, template: string | null = null): Regex {
  if (source.length > MOST_CHARACTERS)
    throw new ArchiveError('pattern-unclear', `An expression holds ${MOST_CHARACTERS} characters.`);
  let regex: RE2JS;
  try {
    regex = RE2JS.compile(RE2JS.translateRegExp(source));
  } catch (error) {
    throw new ArchiveError(
      'pattern-unclear',
      `“${source}” is no regular expression we know: ${(error as Error).message.replace(/^error parsing regexp: /, '')}`,
    );
  }
  if (template !== null) checkTemplate(regex, template);
  return {
    match(text, as) {
      const matcher = regex.matcher(text);
      if (!matcher.find()) return '';
      if (as !== null) return said(matcher, as);
      for (let group = 1; group <= matcher.groupCount(); group += 1) {
        const found = matcher.group(group);
        if (found !== null && found !== undefined) return found;
      }
      return matcher.group(0) ?? '';
    },
    rewrite(text, as) {
      const matcher = regex.matcher(text);
      let [done, at] = ['', 0];
      while (matcher.find()) {
        done += text.slice(at, matcher.start()) + said(matcher, as);
        at = matcher.end();
      }
      return done + text.slice(at);
    },
  };
}
