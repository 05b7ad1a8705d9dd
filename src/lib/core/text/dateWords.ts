/** Dates of ISO 8601-2 (EDTF, level 1) in words, and back: what is about, perhaps, or known in part only. */
export const MONTHS = [
  ...['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August'],
  ...['September', 'October', 'November', 'December'],
];
/** EDTF level 1, seasons 21 to 24. */
const SEASONS = ['spring', 'summer', 'autumn', 'winter'];
const QUALIFIED: Record<string, string> = { '~': 'about ', '?': 'perhaps ', '%': 'perhaps about ' };

const two = (value: number): string => String(value).padStart(2, '0');
const monthOf = (name: string): number =>
  name.length < 3
    ? -1
    : MONTHS.findIndex((one) => one.toLowerCase().startsWith(name.replace(/\.$/, '')));

/** Whether a date says less than a day, month or year that is certain. */
export const isApproximate = (edtf: string): boolean =>
  /[~?%X/]/.test(edtf) || /^\d{4}-2[1-4]/.test(edtf);

function partWords(edtf: string): string {
  const qualified = /^(.*?)([~?%])?$/.exec(edtf)!;
  const [, bare = '', mark = ''] = qualified;
  const before = QUALIFIED[mark] ?? '';
  const moment = /^(\d{4}-\d\d-\d\d)T(\d\d:\d\d)(:\d\d)?(?:\.\d+)?(Z|[+-]\d\d:\d\d)?$/.exec(bare);
  if (moment) {
    const seconds = moment[3] && moment[3] !== ':00' ? moment[3] : '';
    return `${partWords(moment[1]!)}, ${moment[2]}${seconds}${moment[4] ? ` ${moment[4]}` : ''}`;
  }
  const decade = /^(\d{3})X$/.exec(bare)?.[1];
  if (decade) return `${before}the ${decade}0s`;
  const century = /^(\d\d)XX$/.exec(bare)?.[1];
  if (century) return `${before}some year of the ${century}00s`;
  const [, year, month, day] = /^(\d{4})(?:-(\d\d|XX))?(?:-(\d\d|XX))?$/.exec(bare) ?? [];
  if (!year) return edtf;
  if (!month) return before + year;
  const season = SEASONS[Number(month) - 21];
  if (season && !day) return `${before}${season} ${year}`;
  if (month === 'XX') {
    if (day === undefined) return `${before}some month of ${year}`;
    return day === 'XX' ? `${before}some day of ${year}` : edtf;
  }
  const name = MONTHS[Number(month) - 1];
  if (!name) return edtf;
  if (day === 'XX') return `${before}some day of ${name} ${year}`;
  return `${before}${day ? `${Number(day)} ` : ''}${name} ${year}`;
}

/** `12 September 2026, 19:42`, `about September 2026`, `the 1970s`, `from 2019 to 2021`; what has no words as it is written. */
export function wordsOfDate(edtf: string): string {
  const [from = '', to] = edtf.split('/');
  if (to === undefined) return partWords(from);
  const [first, last] = [partWords(from), partWords(to)];
  return first === from && !/^\d{4}$/.test(from) ? edtf : `from ${first} to ${last}`;
}

/** As {@link wordsOfDate}, marked where it is approximate. */
export const shownDate = (edtf: string): string =>
  `${isApproximate(edtf) ? '≈ ' : ''}${wordsOfDate(edtf)}`;

const ABOUT = /^(about|around|circa|c\.|ca\.?|c|roughly|approximately)\s+/;
const PERHAPS = /^(perhaps|maybe|probably|possibly|presumably)\s+/;

/** One date without a qualifier, as EDTF; null where the words say none. */
function bareOf(text: string): string | null {
  if (/^\d{4}(-\d\d){0,2}$/.test(text)) return text;
  const decade = /^(?:the )?(\d{3})0s$/.exec(text)?.[1];
  if (decade) return `${decade}X`;
  const century = /^(?:some|a) year (?:of|in) the (\d\d)00s$/.exec(text)?.[1];
  if (century) return `${century}XX`;
  const unknown = /^(?:some|a|one) (day|month) (?:of|in) (.+)$/.exec(text);
  if (unknown) {
    const within = bareOf(unknown[2]!);
    if (within === null || !/^\d{4}(-\d\d)?$/.test(within)) return null;
    if (unknown[1] === 'month') return within.length === 4 ? `${within}-XX` : null;
    return within.length === 4 ? `${within}-XX-XX` : `${within}-XX`;
  }
  const season = /^(?:the )?(spring|summer|autumn|fall|winter)(?: of)? (\d{4})$/.exec(text);
  if (season) {
    const name = season[1] === 'fall' ? 'autumn' : season[1]!;
    return `${season[2]}-${21 + SEASONS.indexOf(name)}`;
  }
  const byDay = /^(\d{1,2})(?:st|nd|rd|th)?\.? (?:of )?([a-z]+\.?),? (\d{4})$/.exec(text);
  const byMonth = /^([a-z]+\.?) (\d{1,2})(?:st|nd|rd|th)?,? (\d{4})$/.exec(text);
  const [day, name, year] = byDay
    ? [byDay[1]!, byDay[2]!, byDay[3]!]
    : byMonth
      ? [byMonth[2]!, byMonth[1]!, byMonth[3]!]
      : ['', /^([a-z]+\.?)(?: of)? (\d{4})$/.exec(text)?.[1] ?? '', text.slice(-4)];
  const month = monthOf(name);
  if (month < 0) return null;
  return `${year}-${two(month + 1)}${day ? `-${two(Number(day))}` : ''}`;
}

function oneOf(text: string): string | null {
  let rest = text;
  let [isAbout, isPerhaps] = [false, false];
  for (;;) {
    if (!isAbout && ABOUT.test(rest)) [isAbout, rest] = [true, rest.replace(ABOUT, '')];
    else if (!isPerhaps && PERHAPS.test(rest))
      [isPerhaps, rest] = [true, rest.replace(PERHAPS, '')];
    else break;
  }
  const bare = bareOf(rest);
  // Only whole dates are qualified: what is known in part says so itself.
  if (bare === null) return null;
  const mark = isAbout ? (isPerhaps ? '%' : '~') : isPerhaps ? '?' : '';
  return bare + mark;
}

const LONGEST = 100;

/**
 * A date as one says it, as EDTF: `about 1974`, `perhaps summer 1962`, `the 1970s`, `some day of September 2026`,
 * `between 2019 and 2021`.
 * @returns null where the words say none; whether there is such a day is not looked at
 */
export function edtfFromWords(typed: string): string | null {
  const text = typed
    .trim()
    .toLowerCase()
    .replace(/\s+/g, ' ')
    .replace(/^(in|on) /, '');
  if (text.length > LONGEST) return null;
  const span =
    /^between (.+) and (.+)$/.exec(text) ??
    /^from (.+) (?:to|until|till) (.+)$/.exec(text) ??
    /^(.+?) (?:to|until|till|–|-) (.+)$/.exec(text);
  if (!span) return oneOf(text);
  const [from, to] = [oneOf(span[1]!), oneOf(span[2]!)];
  return from && to ? `${from}/${to}` : null;
}
