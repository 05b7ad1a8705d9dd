import type { Numerals } from './piece';

const LETTERS = 'abcdefghijklmnopqrstuvwxyz';

/** 1 → a, 26 → z, 27 → aa. */
function letters(value: number): string {
  let text = '';
  for (let rest = value; rest > 0; rest = Math.floor((rest - 1) / 26))
    text = LETTERS[(rest - 1) % 26]! + text;
  return text;
}

const ROMAN: [number, string][] = [
  ...([
    [1000, 'm'],
    [900, 'cm'],
    [500, 'd'],
    [400, 'cd'],
  ] as [number, string][]),
  ...([
    [100, 'c'],
    [90, 'xc'],
    [50, 'l'],
    [40, 'xl'],
  ] as [number, string][]),
  ...([
    [10, 'x'],
    [9, 'ix'],
    [5, 'v'],
    [4, 'iv'],
    [1, 'i'],
  ] as [number, string][]),
];
/** Beyond these there are no Roman numbers in plain letters. */
const MOST_ROMAN = 3999;

function roman(value: number): string {
  let [text, rest] = ['', value];
  for (const [worth, sign] of ROMAN) for (; rest >= worth; rest -= worth) text += sign;
  return text;
}

/** A count as it is written; what has no letters or Roman number (0, 4000) stands in digits. */
export function writtenNumber(value: number, numerals: Numerals, width: number): string {
  if (numerals === 'letters' && value > 0) return letters(value);
  if (numerals === 'roman' && value > 0 && value <= MOST_ROMAN) return roman(value);
  return String(value).padStart(width, '0');
}
