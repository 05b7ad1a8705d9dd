import { readFile, writeFile } from 'node:fs/promises';
import { stringify } from 'csv-stringify/sync';
import { parseNumber } from '#core/catalogue/number';
import { ArchiveError } from '#core/errors';
import { frameWords, lengthWords } from '#core/footage/span';
import { parseTimecode } from '#core/footage/timecode';
import { formatVtt, parseVtt } from '#core/footage/webvtt';
import { HOUSE } from '#core/sight/viewer';
import { harmless } from '#core/text/cells';
import { counted } from '#core/text/quantities';
import { spanSchema, type NewSpan, type ShownSpan } from '#core/wire/spans';
import { itemByNumber } from '#server/catalogue/show';
import { clipsBeside } from '#server/spans/beside';
import { copySpans, dropSpans, fittingSpans, offsetSpans, writeMarkers } from '#server/spans/deeds';
import { clipOf, keepSpans, spansOf, type Clip } from '#server/spans/spans';
import { openArchive } from '../archive';
import { answer, parse, type Command } from '../arguments';

const help = `Usage: ./mindful spans list NUMBER [--json]
       ./mindful spans add NUMBER IN [OUT] [--name TEXT] [--note TEXT] [--json]
       ./mindful spans export NUMBER [--form csv|json|vtt] [--out FILE]
       ./mindful spans import NUMBER FILE [--yes] [--json]
       ./mindful spans write NUMBER [--json]
       ./mindful spans copy NUMBER TO [--yes] [--json]
       ./mindful spans offset NUMBER FRAMES [--json]
       ./mindful spans drop NUMBER [--json]

Spans and markers of a clip. NUMBER is the clip's catalogue number, or with drop a span's. IN and OUT are frames or
timecodes of the clip, both part of the span; without OUT it is a marker. import takes WebVTT (.vtt), a cue as short as a
frame as a marker, and tells what it would keep; --yes keeps it. write puts them into the clip's XMP, embedded or beside it.
copy keeps the same moments of the clip TO, which ran at that time; it tells how many fit, --yes does it.`;

/** A frame, or a timecode of the clip. @throws ArchiveError value-refused */
function frameOf(clip: Clip, text: string): number {
  if (/^\d+$/.test(text)) return Number(text);
  const code = parseTimecode(text, clip.rate);
  const start = clip.start === null ? null : parseTimecode(clip.start, clip.rate);
  const frame = code ? code.frame - (start?.frame ?? 0) : -1;
  if (frame < 0)
    throw new ArchiveError('value-refused', `“${text}” is no frame or timecode of ${clip.number}.`);
  return frame;
}

const line = (clip: Clip, { number, from, to, isMarker, title }: ShownSpan): string =>
  [
    number,
    frameWords(clip, from),
    isMarker ? 'marker' : `– ${frameWords(clip, to - 1)}  ${lengthWords(to - from, clip.rate)}`,
    title,
  ].join('  ');

function csvOf(clip: Clip, spans: readonly ShownSpan[]): string {
  const rows = spans.map(({ from, to, ...one }) => [
    ...[one.number, one.isMarker ? 'marker' : 'span', from, to - from],
    ...[frameWords(clip, from), frameWords(clip, to - 1), harmless(one.title), harmless(one.note)],
    ...[one.rating, one.mark, harmless(one.stage), harmless(one.terms.join('; '))],
  ]);
  const columns = [
    ...['number', 'kind', 'first frame', 'frames', 'in', 'out', 'name', 'note', 'rating', 'mark'],
    ...['stage', 'terms'],
  ];
  return stringify(rows, { header: true, columns, bom: true });
}

const FORMS: Record<string, (clip: Clip, spans: ShownSpan[]) => string> = {
  csv: csvOf,
  json: (clip, spans) => `${JSON.stringify({ clip, spans }, null, 2)}\n`,
  vtt: (clip, spans) => formatVtt(spans, clip.rate),
};

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    ...{ name: { type: 'string' }, note: { type: 'string' } },
    ...{ form: { type: 'string', default: 'csv' }, out: { type: 'string' } },
    ...{ yes: { type: 'boolean' }, json: { type: 'boolean' } },
  });
  const [act = '', number = '', ...rest] = positionals;
  if (!parseNumber(number))
    throw new ArchiveError('bad-request', `“${number}” is no catalogue number; see --help.`);
  const { house, close } = await openArchive();
  const by = { id: null, viewer: HOUSE };
  const keep = (id: string, spans: NewSpan[]) => keepSpans(house.db, by, id, spans);
  try {
    const id = await itemByNumber(house.db, HOUSE, number);
    if (act === 'drop') {
      const done = await dropSpans(house.db, by, [id]);
      answer(values.json, done, () => `Let go of ${number}; the ledger gives it back.`);
      return 0;
    }
    const clip = await clipOf(house.db, HOUSE, id);
    switch (act) {
      case 'list': {
        const spans = await spansOf(house.db, HOUSE, clip.id);
        answer(values.json, { clip, spans }, () =>
          spans.length > 0
            ? spans.map((one) => line(clip, one)).join('\n')
            : `Nothing is kept of ${clip.number} yet.`,
        );
        return 0;
      }
      case 'add': {
        const [first, last] = rest;
        if (first === undefined) throw new ArchiveError('bad-request', 'Say its IN; see --help.');
        const wish = spanSchema.safeParse({
          first: frameOf(clip, first),
          last: frameOf(clip, last ?? first),
          ...{ isMarker: last === undefined, title: values.name ?? '', note: values.note ?? '' },
        });
        if (!wish.success) throw new ArchiveError('value-refused', wish.error.issues[0]!.message);
        const done = await keep(clip.id, [wish.data]);
        answer(values.json, done, () => `Kept of ${clip.number}.`);
        return 0;
      }
      case 'export': {
        const form = Object.hasOwn(FORMS, values.form) ? FORMS[values.form] : undefined;
        if (!form) throw new ArchiveError('bad-request', '--form is csv, json or vtt.');
        const text = form(clip, await spansOf(house.db, HOUSE, clip.id));
        if (values.out === undefined) process.stdout.write(text);
        else await writeFile(values.out, text, { flag: 'wx' });
        return 0;
      }
      case 'import': {
        const [path] = rest;
        if (path === undefined) throw new ArchiveError('bad-request', 'Say which FILE.');
        const { cues, passedOver } = parseVtt(await readFile(path, 'utf8'), clip.rate);
        const length = clip.frames ?? Infinity;
        const within = cues.filter(({ from }) => from < length);
        const outside = cues.length - within.length;
        const told = { spans: within.length, outside, passedOver };
        if (values.yes && within.length > 0)
          await keep(
            clip.id,
            within.map(({ from, to, title, note }) => ({
              ...{ first: from, last: to - 1, isMarker: to - from === 1, mark: '' as const },
              ...{ title: title.slice(0, 2000), note: note.slice(0, 20_000) },
            })),
          );
        answer(values.json, { ...told, kept: values.yes === true }, () =>
          [
            `${values.yes ? 'Kept' : 'Would keep'} ${counted(within.length, 'span')} of ${clip.number}.`,
            outside > 0 && `${counted(outside, 'cue')} after its end: left out.`,
            passedOver > 0 && `${counted(passedOver, 'cue')} that end before they begin: left out.`,
            !values.yes && 'Add --yes to do it.',
          ]
            .filter(Boolean)
            .join('\n'),
        );
        return 0;
      }
      case 'write': {
        const done = await writeMarkers(house.db, by, clip.id);
        answer(values.json, done, () => `Written into ${clip.number} as soon as its turn comes.`);
        return 0;
      }
      case 'copy': {
        const [to = ''] = rest;
        const beside = await clipsBeside(house.db, HOUSE, clip.id);
        const other = beside.find((one) => one.number === to);
        if (!other)
          throw new ArchiveError(
            'value-refused',
            beside.length > 0
              ? `“${to}” did not run then; ${beside.map((one) => one.number).join(', ')} did.`
              : 'No other clip is known to have run then.',
          );
        const ids = (await spansOf(house.db, HOUSE, clip.id)).map((one) => one.id);
        if (ids.length === 0)
          throw new ArchiveError('not-found', `Nothing is kept of ${clip.number} yet.`);
        const fits = await fittingSpans(house.db, HOUSE, ids, other.id);
        if (values.yes && fits > 0) await copySpans(house.db, by, ids, other.id);
        answer(values.json, { spans: ids.length, fits, kept: values.yes === true }, () =>
          [
            `${values.yes ? 'Kept' : 'Would keep'} ${counted(fits, 'span')} of ${other.number}, which begins ${Math.abs(other.later).toFixed(2)} s ${other.later < 0 ? 'earlier' : 'later'} by ${other.by}.`,
            fits < ids.length && `${counted(ids.length - fits, 'span')} outside of it: left out.`,
            !values.yes && 'Add --yes to do it.',
          ]
            .filter(Boolean)
            .join('\n'),
        );
        return 0;
      }
      case 'offset': {
        const frames = Number(rest[0]);
        if (!Number.isInteger(frames))
          throw new ArchiveError('bad-request', 'FRAMES is a whole number, below 0 for earlier.');
        const spans = await spansOf(house.db, HOUSE, clip.id);
        if (spans.length === 0)
          throw new ArchiveError('not-found', `Nothing is kept of ${clip.number} yet.`);
        const ids = spans.map((one) => one.id);
        const done = await offsetSpans(house.db, by, ids, frames);
        answer(values.json, done, () => `Moved ${counted(done.count, 'span')} of ${clip.number}.`);
        return 0;
      }
      default:
        throw new ArchiveError('bad-request', `There is no “spans ${act}”; see --help.`);
    }
  } finally {
    await close();
  }
}

export const command: Command = { summary: 'spans and markers of clips', help, run };
