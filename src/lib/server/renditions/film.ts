import { readFile, rename, rm, writeFile } from 'node:fs/promises';
import { sql } from 'kysely';
import sharp from 'sharp';
import { sentenceOf } from '#core/errors';
import { blackStretches } from '#core/footage/black';
import { FILM_VERSION, type Film, type Said } from '#core/footage/film';
import { frameTimes, isEven, isSteady } from '#core/footage/frames';
import { Levels } from '#core/footage/levels';
import { Peaks } from '#core/footage/peaks';
import { parseVtt } from '#core/footage/webvtt';
import type { ClipLook } from '#core/likeness/clips';
import { HASH_EDGE, likenessOf } from '#core/likeness/phash';
import type { Technical } from '#core/records/technical';
import { factsOf } from '../files/disk';
import { withToolPath } from '../files/open';
import { originalOf, type LocatedFile } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/attempt';
import { endsOf, markersOf } from '../jobs/footage';
import { enqueue } from '../jobs/queue';
import { tieClips } from '../likeness/clips';
import { greyOf } from '../likeness/likeness';
import { notifyItems } from '../live/notify';
import { runTool, streamTool } from '../tools/run';
import { inputOf } from './demuxer';
import { toneMapped } from './prepared';
import { probe, type Probe } from './probe';
import { filmFile, makeRenditionFolder, noteRenditions, withoutChoice } from './store';

/** Seconds; two hours of footage are read in some minutes. */
const MOST_SECONDS = 1800;
/** Longer clips are read by their keyframes alone. */
const LONG_CLIP = 600;
const STRIP = { most: 60, columns: 10, edge: 160 };
const STRETCHES = 2000;
/** Samples a second are enough to draw a wave. */
const DRAWN_RATE = 8000;
/** How unlike two frames are where another scene begins, 0 … 1. */
const OTHER_SCENE = 0.3;
const MOST_SCENES = 5000;
/** Small pictures in which black is looked for. */
const DARK = { edge: 8, rate: 25, bytes: 64 << 20 };
/** How loud it is: told each so many seconds, of long sounds less often. */
const LEVEL = { step: 0.1, most: 100_000 };
/** What files say of themselves is told by them at once, or not. */
const SAID_SECONDS = 60;
const LONGEST_SAID = 500;

/** When each frame is shown. Frames an edit list leaves out are not counted: nobody sees them. */
async function framesOf(
  file: LocatedFile,
  plain: string,
): Promise<{ times: Float64Array; first: number }> {
  const times: number[] = [];
  let rest = '';
  await streamTool(
    'ffprobe',
    [
      ...['-v', 'error', ...inputOf(file.format), '-select_streams', 'v:0'],
      ...['-show_entries', 'packet=pts_time,dts_time,flags', '-of', 'csv=p=0', plain],
    ],
    { seconds: MOST_SECONDS },
    (chunk) => {
      const lines = (rest + chunk.toString('latin1')).split('\n');
      rest = lines.pop()!;
      for (const line of lines) {
        const [shown = '', decoded = '', flags = ''] = line.split(',');
        if (shown !== '' && !flags.includes('D'))
          times.push(Number(shown === 'N/A' ? decoded : shown));
      }
    },
  );
  const first = times.reduce((least, time) => (time < least ? time : least), Infinity);
  return { times: frameTimes(times), first };
}

interface Seen {
  strip: Film['strip'];
  scenes: number[];
  black: Film['black'];
  look: ClipLook;
}
const UNSEEN: Seen = { strip: null, scenes: [], black: [], look: { times: [], frames: [] } };

/** Frames a clip is known by: the first of so many scenes, and so many at even distances. */
const KNOWN = { scenes: 40, even: 24 };
const GREY_BYTES = HASH_EDGE * HASH_EDGE;

/** What the clip is known by: frames after cuts are the same wherever it was trimmed, others fill what has no cuts. */
async function lookOf(
  { count, columns, width, height }: NonNullable<Film['strip']>,
  duration: number,
  paths: { strip: string; cuts: string },
  cutTimes: number[],
): Promise<ClipLook> {
  const look: ClipLook = { times: [], frames: [] };
  const add = (grey: Uint8Array, time: number): void => {
    const likeness = likenessOf(grey);
    if (!likeness) return;
    look.times.push(time);
    look.frames.push(likeness);
  };
  const cuts = await readFile(paths.cuts);
  for (let at = 0; at < Math.min(KNOWN.scenes, cutTimes.length); at += 1)
    if (cuts.length >= (at + 1) * GREY_BYTES)
      add(cuts.subarray(at * GREY_BYTES, (at + 1) * GREY_BYTES), cutTimes[at]!);
  const every = Math.max(1, Math.ceil(count / KNOWN.even));
  const sheet = await readFile(paths.strip);
  for (let at = 0; at < count; at += every) {
    const [left, top] = [(at % columns) * width, Math.floor(at / columns) * height];
    const frame = sharp(sheet).extract({ left, top, width, height });
    add(await greyOf(frame), ((at + 0.5) * duration) / count);
  }
  const order = look.times.map((_, at) => at).sort((a, b) => look.times[a]! - look.times[b]!);
  return {
    times: order.map((at) => look.times[at]!),
    frames: order.map((at) => look.frames[at]!),
  };
}

/** Frames side by side, where other scenes begin, and what is black: all in one decoding. */
async function look(file: LocatedFile, plain: string, found: Probe, target: string): Promise<Seen> {
  const { duration, width, height, transfer } = found;
  if (!duration || !width || !height) return UNSEEN;
  const count = Math.max(1, Math.min(STRIP.most, Math.floor(duration * 4)));
  const rows = Math.ceil(count / STRIP.columns);
  const even = (edge: number): number => Math.max(2, Math.round(edge / 2) * 2);
  const scale = STRIP.edge / Math.max(width, height);
  const size = { width: even(width * scale), height: even(height * scale) };
  const all = [...toneMapped(transfer), `scale=${size.width}:${size.height}`].join(',');
  const chain =
    `[0:v:0]${all},split=3[a][b][c];` +
    `[a]fps=${count}/${duration.toFixed(6)}:round=up,tile=${STRIP.columns}x${rows}[strip];` +
    `[b]select=gt(scene\\,${OTHER_SCENE})+eq(n\\,0),metadata=print:file=-,` +
    `scale=${HASH_EDGE}:${HASH_EDGE}:flags=area,format=gray[cuts];` +
    `[c]fps=${DARK.rate},scale=${DARK.edge}:${DARK.edge}:flags=area,format=gray[dark]`;
  const [cuts, dark] = [`${target}.cuts`, `${target}.dark`];
  let said = '';
  await streamTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', ...(duration > LONG_CLIP ? ['-skip_frame', 'nokey'] : [])],
      ...[...inputOf(file.format), '-i', plain, '-filter_complex', chain],
      ...['-map', '[strip]', '-frames:v', '1', '-q:v', '4', '-update', '1', target],
      ...['-map', '[cuts]', '-fps_mode', 'passthrough', '-f', 'rawvideo'],
      ...['-fs', String(MOST_SCENES * GREY_BYTES), cuts],
      ...['-map', '[dark]', '-f', 'rawvideo', '-fs', String(DARK.bytes), dark],
    ],
    { seconds: MOST_SECONDS },
    (chunk) => (said += chunk.toString('latin1')),
  );
  // The first frame begins no other scene.
  const times = [...said.matchAll(/pts_time:([\d.]+)/g)].map((match) => Number(match[1]));
  const strip = { count, columns: STRIP.columns, ...size };
  try {
    const look = await lookOf(strip, duration, { strip: target, cuts }, times);
    const black = blackStretches(await readFile(dark), DARK.edge ** 2, DARK.rate);
    return { strip, scenes: times.slice(1, MOST_SCENES), black, look };
  } finally {
    await Promise.all([cuts, dark].map((path) => rm(path, { force: true })));
  }
}

/** The sound drawn, and how loud it is (EBU R 128, ITU-R BS.1770). */
async function listen(
  file: LocatedFile,
  plain: string,
  duration: number,
): Promise<{ peaks: Int8Array; levels: Film['levels']; technical: Technical }> {
  const step = Math.max(LEVEL.step, duration / LEVEL.most);
  const levels = new Levels(duration, step, DRAWN_RATE);
  const peaks = new Peaks(STRETCHES, duration * DRAWN_RATE);
  let rest = Buffer.alloc(0);
  const complaint = await streamTool(
    'ffmpeg',
    [
      ...['-v', 'info', '-nostats', '-hide_banner', ...inputOf(file.format), '-i', plain],
      '-filter_complex',
      `[0:a:0]ebur128=peak=true:framelog=verbose,aformat=channel_layouts=mono,aresample=${DRAWN_RATE},aformat=sample_fmts=flt[o]`,
      ...['-map', '[o]', '-f', 'f32le', 'pipe:1'],
    ],
    { seconds: MOST_SECONDS },
    (chunk) => {
      const bytes = rest.length > 0 ? Buffer.concat([rest, chunk]) : chunk;
      const whole = bytes.length - (bytes.length % 4);
      // A copy: what comes from a pipe may begin anywhere.
      const own = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + whole) as ArrayBuffer;
      const samples = new Float32Array(own);
      peaks.add(samples);
      levels.add(samples);
      rest = Buffer.from(bytes.subarray(whole));
    },
  );
  const summary = complaint.slice(complaint.lastIndexOf('Summary:'));
  const read = (name: string): number | undefined => {
    const value = Number(new RegExp(`\\b${name}:\\s+(-?[\\d.]+)`).exec(summary)?.[1] ?? NaN);
    return Number.isFinite(value) ? value : undefined;
  };
  // −70 is the gate: of silence nothing is known.
  const [loudness, truePeak] = [read('I'), read('Peak')];
  return {
    peaks: peaks.bytes(),
    levels: { step, below: Buffer.from(levels.bytes()).toString('base64') },
    technical: {
      ...(loudness !== undefined && loudness > -70 ? { loudness } : {}),
      ...(truePeak !== undefined ? { truePeak } : {}),
    },
  };
}

/** Sentences of the first track of subtitles, in thousandths of a second; none where it has none that is text. */
async function subtitlesOf(file: LocatedFile, plain: string): Promise<Said[]> {
  const vtt = await runTool(
    'ffmpeg',
    [
      ...['-v', 'error', ...inputOf(file.format), '-i', plain],
      ...['-map', '0:s:0', '-f', 'webvtt', 'pipe:1'],
    ],
    { seconds: SAID_SECONDS, output: 4_000_000 },
  );
  return parseVtt(vtt.toString(), 1000).cues.map(({ from, to, title, note }) => ({
    ...{ from: from / 1000, to: to / 1000 },
    text: [title, note].filter(Boolean).join(' ').slice(0, LONGEST_SAID),
  }));
}

/** Job: what one needs to look closely at footage or listen to sound. What cannot be read is left out. */
export async function readFilm(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  await makeRenditionFolder(house, withoutChoice(file.pictureKey));
  const [note, strip, peaksFile] = (['film', 'strip', 'peaks'] as const).map((what) =>
    filmFile(house, file.pictureKey, what),
  ) as [string, string, string];
  /** A broken picture track keeps nobody from the sound, nor the other way round. */
  const untold =
    <T>(instead: T) =>
    (error: unknown): T => {
      house.log.warn({ item: file.itemId, error: sentenceOf(error) }, 'was read in part only');
      return instead;
    };
  const found = await probe(file.path, file.format);
  const run = newId();
  const temporary = strip.replace(/(\.\w+)$/, `.${run}$1`);
  try {
    const technical: Technical = {};
    let clip = UNSEEN.look;
    const film = await withToolPath(file.path, async (plain): Promise<Film> => {
      const shown = found.width === null ? null : await framesOf(file, plain);
      const times = shown?.times ?? null;
      const seen: Seen =
        found.width === null
          ? UNSEEN
          : await look(file, plain, found, temporary).catch(untold(UNSEEN));
      clip = seen.look;
      const heard =
        found.technical.audioCodec && found.duration
          ? await listen(file, plain, found.duration).catch(untold(null))
          : null;
      if (heard) await writeFile(peaksFile, heard.peaks);
      Object.assign(technical, heard?.technical);
      const subtitles = found.hasSubtitles ? await subtitlesOf(file, plain).catch(untold([])) : [];
      if (times && times.length > 0) {
        technical.frames = times.length;
        technical.frameTiming = isSteady(times) ? 'steady' : 'variable';
      }
      const first = shown && times!.length > 0 ? micro(Math.max(0, shown.first - found.start)) : 0;
      return {
        version: FILM_VERSION,
        duration: found.duration ?? 0,
        first,
        frames: times && times.length > 0 ? told(times) : null,
        strip: seen.strip,
        scenes: seen.scenes,
        black: seen.black.map(([from, to]) => [micro(from + first), micro(to + first)]),
        chapters: found.chapters,
        subtitles,
        levels: heard?.levels ?? null,
        peaks: heard ? STRETCHES : 0,
      };
    });
    if (film.strip) await rename(temporary, strip);
    await writeFile(note, JSON.stringify(film));
    await house.db
      .updateTable('item')
      .set({ technical: sql<string>`technical || ${JSON.stringify(technical)}::jsonb` })
      .where('id', '=', file.itemId)
      .execute();
    await tieClips(house, file.itemId, clip);
    const sizes = await Promise.all([note, strip, peaksFile].map((path) => factsOf(path)));
    const bytes = sizes.reduce((sum, facts) => sum + Number(facts?.size ?? 0), 0);
    await noteRenditions(house, withoutChoice(file.pictureKey), [{ recipe: 'film', bytes }]);
  } finally {
    await rm(temporary, { force: true });
  }
  await notifyItems(house.db, [file.itemId], ['picture']);
  // What it says in frames can be read now that it is known how it counts.
  await enqueue(house.db, [markersOf(file.itemId)]);
  const spans = await house.db
    .updateTable('item')
    .set({ firstMs: null })
    .where('ofId', '=', file.itemId)
    .executeTakeFirst();
  // Their ends may lie elsewhere in what was read now.
  if (spans.numUpdatedRows > 0n) await enqueue(house.db, [endsOf(file.itemId)]);
}

const micro = (seconds: number): number => Math.round(seconds * 1e6) / 1e6;
function told(times: Float64Array): NonNullable<Film['frames']> {
  const count = times.length;
  return isEven(times)
    ? { count, step: count > 1 ? times[count - 1]! / (count - 1) : 0 }
    : { count, times: Array.from(times, micro) };
}
