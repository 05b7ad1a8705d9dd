import { ArchiveError } from '../errors';
import type { Stretch } from './span';

/** What a cue of WebVTT says of a clip. */
export interface Cue extends Stretch {
  title: string;
  note: string;
}

/** How a cue without a name is called: a cue of no text is passed over by many programs. */
const UNNAMED = '(no name)';
const MOST_CUES = 5000;
const LONGEST = 4_000_000;

/** `00:01:02.345` @param frame of a clip that is counted so often a second */
function timeOf(frame: number, rate: number): string {
  const ms = Math.round((frame / rate) * 1000);
  const pad = (value: number, digits = 2): string => String(value).padStart(digits, '0');
  const [h, m, s] = [
    Math.floor(ms / 3_600_000),
    Math.floor(ms / 60_000) % 60,
    Math.floor(ms / 1000) % 60,
  ];
  return `${pad(h)}:${pad(m)}:${pad(s)}.${pad(ms % 1000, 3)}`;
}

/** A text of a cue: no line of it may be blank, or look as the time of the next one. */
const escaped = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .split(/\r\n?|\n/)
    .filter((line) => line.trim() !== '')
    .join('\n');
const NAMED: Record<string, string> = {
  amp: '&',
  lt: '<',
  gt: '>',
  nbsp: '\u00a0',
  lrm: '',
  rlm: '',
};
const unescaped = (text: string): string =>
  text
    .replace(/<[^>]*>/g, '')
    .replace(/&([a-z]+);/g, (whole, name: string) => NAMED[name] ?? whole);

/** Spans of a clip as WebVTT (W3C), the name as the first line of each cue, the note below it. */
export function formatVtt(cues: readonly Cue[], rate: number): string {
  const parts = [...cues]
    .sort((a, b) => a.from - b.from || a.to - b.to)
    .map(({ from, to, title, note }) => {
      const text = [escaped(title) || UNNAMED, escaped(note)].filter(Boolean).join('\n');
      return `${timeOf(from, rate)} --> ${timeOf(to, rate)}\n${text}`;
    });
  return `WEBVTT\n\n${parts.map((part) => `${part}\n\n`).join('')}`;
}

const TIMES =
  /^((?:\d{2,}:)?\d{2}:\d{2}\.\d{3})[ \t]+-->[ \t]+((?:\d{2,}:)?\d{2}:\d{2}\.\d{3})(?:[ \t].*)?$/;

/** seconds */
function secondsOf(time: string): number {
  const [seconds, minutes, hours] = time.split(':').reverse().map(Number) as [
    number,
    number,
    number?,
  ];
  return (hours ?? 0) * 3600 + minutes * 60 + seconds;
}

/**
 * Cues of a WebVTT file; comments, styles and regions are passed over, and so is a cue that ends before it begins.
 * @throws ArchiveError value-refused where it is no WebVTT or holds too much
 */
export function parseVtt(text: string, rate: number): { cues: Cue[]; passedOver: number } {
  if (text.length > LONGEST)
    throw new ArchiveError('value-refused', 'This file is larger than any list of spans.');
  const lines = text.replace(/^\ufeff/, '').split(/\r\n?|\n/);
  if (!/^WEBVTT(?:[ \t]|$)/.test(lines[0] ?? ''))
    throw new ArchiveError(
      'value-refused',
      'It is no WebVTT file: its first line does not say so.',
    );
  const cues: Cue[] = [];
  let passedOver = 0;
  for (let at = 1; at < lines.length; at += 1) {
    const times = TIMES.exec(lines[at]!);
    if (!times) continue;
    const said: string[] = [];
    while (at + 1 < lines.length && lines[at + 1]!.trim() !== '') said.push(lines[(at += 1)]!);
    const [from, to] = [times[1]!, times[2]!].map((time) => Math.round(secondsOf(time) * rate)) as [
      number,
      number,
    ];
    if (to <= from) {
      passedOver += 1;
      continue;
    }
    if (cues.length === MOST_CUES)
      throw new ArchiveError('value-refused', `It holds more than ${MOST_CUES} cues.`);
    const [title = '', ...note] = said.map(unescaped);
    cues.push({ from, to, title: title === UNNAMED ? '' : title, note: note.join('\n') });
  }
  return { cues, passedOver };
}
