import { access, mkdtemp, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { ArchiveError } from '#core/errors';
import { formatByKey, type PictureBy } from '#core/kinds/kinds';
import { apart, runApart, type Apart } from '../apart/apart';
import { headOf } from '../files/disk';
import { withToolPath } from '../files/open';
import { exiftoolPreview } from '../metadata/embedded';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';
import type { drawDrawing, drawSpecimen } from './drawing';
import type { drawLines } from './lines';
import { probe } from './probe';
import type { PictureChoice } from './store';
import type { Decodable, measurePicture } from './render';

/** What a picture is made from. */
export interface PictureSource {
  path: string;
  format: string;
  kind: string;
  /** How a person chose it to be taken. */
  choice?: PictureChoice;
  /** EXIF orientation of the original, for previews that carry none of their own. */
  orientation: number;
  /** Folder for temporary files. */
  work: string;
}

const LONG_EDGE = 2048;
const TOOL_SECONDS = 50;
const DRAWING_SECONDS = 20;
export const MEASURE_SECONDS = 20;

const none = (sentence: string): ArchiveError => new ArchiveError('file-unreadable', sentence);

export const DRAWING = apart<typeof drawDrawing>('renditions/drawing', 'drawDrawing');
const SPECIMEN = apart<typeof drawSpecimen>('renditions/drawing', 'drawSpecimen');
const LINES = apart<typeof drawLines>('renditions/lines', 'drawLines');
export const MEASURE = apart<typeof measurePicture>(
  'renditions/render',
  'measurePicture',
  'pictures',
);

/** Makes of a file one that libvips reads, in a folder of ours. */
type Maker = (source: PictureSource, target: string) => Promise<Decodable>;

const asMade = (path: string): Decodable => ({ path, turn: 1 });

/** By a tool that gets a plain name for the file. */
const byTool =
  (make: (plain: string, target: string, source: PictureSource) => Promise<string>): Maker =>
  (source, target) =>
    withToolPath(source.path, async (plain) => asMade(await make(plain, target, source)));

const drawn =
  (task: Apart<typeof drawLines>): Maker =>
  async ({ path, format }, target) => {
    await runApart(task, { path, format, target: `${target}.png` }, DRAWING_SECONDS);
    return asMade(`${target}.png`);
  };

/** Light of 100 cd/m² is white (BT.2408): what is brighter is rolled off, not cut. */
const TO_STANDARD =
  'zscale=t=linear:npl=100,format=gbrpf32le,zscale=p=bt709,tonemap=hable:desat=0,zscale=t=bt709:m=bt709:r=tv,format=yuv420p';
/** What FFmpeg's filters are to do first with footage of high dynamic range. */
export const toneMapped = (transfer: string | undefined): string[] =>
  transfer === 'smpte2084' || transfer === 'arib-std-b67' ? [TO_STANDARD] : [];

interface Frame {
  /** Stream it is taken from; what FFmpeg takes for the best unless said. */
  map?: string;
  before?: string[];
  filters?: string[];
}
async function oneFrame(
  format: string,
  plain: string,
  target: string,
  { map, before = [], filters = [] }: Frame = {},
): Promise<string> {
  await runTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', ...before, ...inputOf(format), '-i', plain],
      ...(map ? ['-map', map] : []),
      ...(filters.length > 0 ? ['-vf', filters.join(',')] : []),
      ...['-frames:v', '1', '-compression_level', '1', `${target}.png`],
    ],
    { seconds: TOOL_SECONDS },
  );
  return madeBy(`${target}.png`);
}

/** Tools may end well and have made nothing. */
const madeBy = (path: string): Promise<string> =>
  access(path).then(
    () => path,
    () => Promise.reject(none('There is no picture in it.')),
  );

/** Linear light is shown with the curve of sRGB. */
const FRAME_OPTIONS: Record<string, string[]> = { exr: ['-apply_trc', 'iec61966_2_1'] };

/** Streams without an index: looked for a moment, decoding begins at the next key frame, which may lie behind it or not at all. */
const UNINDEXED = new Set(['mpeg', 'mpegVideo', 'mpegTs']);
/** s; their key frames lie closer. */
const RUN_UP = 12;

/**
 * How FFmpeg finds the first frame that is shown at a moment or after it.
 * @param start of the file's clock, s
 */
function seekTo(format: string, start: number, seconds: number): Required<Omit<Frame, 'map'>> {
  const option = (at: number): string[] => (at > 0 ? ['-ss', at.toFixed(3)] : []);
  if (seconds === 0 || !UNINDEXED.has(format)) return { before: option(seconds), filters: [] };
  // By the file's own clock: else moments are counted from whichever track is read first.
  const before = ['-copyts', ...option(Math.max(0, seconds - RUN_UP))];
  return { before, filters: [`trim=start=${(start + seconds).toFixed(3)}`] };
}

const ofFootage: Maker = async (source, target) => {
  const { duration, width, start, transfer, shape } = await probe(source.path, source.format);
  if (width === null) throw none('There is no picture track in this file.');
  // Pixels of tape formats are not square.
  const square = shape === 1 ? [] : ['scale=iw*sar:ih', 'setsar=1'];
  const filters = [...toneMapped(transfer), ...square];
  const { choice } = source;
  const at = choice && 'moment' in choice ? choice.moment : Math.min((duration ?? 0) * 0.2, 60);
  const frame = (seconds: number): Promise<Decodable> =>
    withToolPath(source.path, async (plain) => {
      const { before, filters: trimmed } = seekTo(source.format, start, seconds);
      const wish = { before, filters: [...trimmed, ...filters] };
      return asMade(await oneFrame(source.format, plain, target, wish));
    });
  // A clip of one frame, or one whose length is wrong, has nothing there: its first frame then.
  return at > 0 ? frame(at).catch(() => frame(0)) : frame(0);
};

/** The picture somebody put into it; where there is none its wave. */
const ofSound: Maker = (source, target) =>
  cover(source, target).catch(() => ofWave(source, target));

const cover: Maker = async ({ path, format }, target) => {
  const { hasCover } = await probe(path, format);
  if (!hasCover) throw none('There is no cover in it.');
  return withToolPath(path, async (plain) =>
    asMade(await oneFrame(format, plain, target, { map: '0:v:0' })),
  );
};

const ofWave = byTool(async (plain, target, { format }) => {
  const waves =
    '[0:a:0]aformat=channel_layouts=mono,compand=gain=4,showwavespic=s=1400x620:colors=0x1f6b60[w]';
  await runTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', ...inputOf(format), '-i', plain],
      '-filter_complex',
      `color=0xeceae4:s=1600x800[g];${waves};[g][w]overlay=100:90`,
      ...['-frames:v', '1', `${target}.png`],
    ],
    { seconds: TOOL_SECONDS },
  );
  return `${target}.png`;
});

const ofHeif = byTool(async (plain, target) => {
  await runTool('heif-convert', ['-q', '95', plain, `${target}.jpg`], { seconds: TOOL_SECONDS });
  // Of a file with several images each is written, numbered; the first is the one meant.
  const isAlone = await access(`${target}.jpg`).then(
    () => true,
    () => false,
  );
  return isAlone ? `${target}.jpg` : `${target}-1.jpg`;
});

const developed = byTool(async (plain, target) => {
  await runTool('dcraw_emu', ['-h', '-w', '-T', '-Z', `${target}.tiff`, plain], {
    seconds: TOOL_SECONDS,
  });
  return madeBy(`${target}.tiff`);
});

/** The camera's own picture where it is large enough to be looked at; otherwise developed. */
const ofRaw: Maker = async (source, target) => {
  if (source.choice && 'developed' in source.choice) return developed(source, target);
  const preview = await exiftoolPreview(source.path);
  if (!preview) return developed(source, target);
  await writeFile(`${target}.jpg`, preview);
  const own: Decodable = { path: `${target}.jpg`, turn: source.orientation };
  const size = await runApart(MEASURE, own, MEASURE_SECONDS).catch(() => null);
  if (size && Math.max(size.width, size.height) >= LONG_EDGE * 0.75) return own;
  return developed(source, target).catch((error: unknown) => {
    if (!size) throw error;
    return own;
  });
};

const ofPdf = byTool(async (plain, target) => {
  const args = ['-f', '1', '-l', '1', '-singlefile', '-scale-to', String(LONG_EDGE), '-png'];
  await runTool('pdftoppm', [...args, plain, target], { seconds: TOOL_SECONDS });
  return `${target}.png`;
});

/** Points; what a page has that says nothing. */
const PAGE = 842;
/** Resolution at which the longer edge of a PostScript picture has as many pixels as the large one, px/in. */
async function resolutionOf(path: string): Promise<number> {
  const head = (await headOf(path)).toString('latin1');
  const box = /%%BoundingBox:\s*(-?\d+)\s+(-?\d+)\s+(-?\d+)\s+(-?\d+)/.exec(head);
  const [left, bottom, right, top] = (box?.slice(1) ?? []).map(Number);
  const edge = box ? Math.max(right! - left!, top! - bottom!) : PAGE;
  return Math.round(Math.min(600, Math.max(10, (72 * LONG_EDGE) / Math.max(edge, 1))));
}

const ofPostscript = byTool(async (plain, target, { path }) => {
  await runTool(
    'gs',
    [
      ...['-q', '-dSAFER', '-dBATCH', '-dNOPAUSE', '-dEPSCrop', '-dLastPage=1', '-sDEVICE=png16m'],
      ...['-dTextAlphaBits=4', '-dGraphicsAlphaBits=4', `-r${await resolutionOf(path)}`],
      ...[`-sOutputFile=${target}.png`, plain],
    ],
    { seconds: TOOL_SECONDS },
  );
  return madeBy(`${target}.png`);
});

/** Reads more kinds of some formats than others do, slower. Its reader is named: it never guesses. */
const MORE_READERS: Record<string, string> = { psd: 'psd', tiff: 'tiff', jp2: 'jp2', bmp: 'bmp' };
const converted = byTool(async (plain, target, { format }) => {
  const limits = ['-limit', 'memory', '1GiB', '-limit', 'map', '1GiB', '-limit', 'disk', '2GiB'];
  await runTool(
    'convert',
    [
      ...[...limits, '-limit', 'thread', '1', `${MORE_READERS[format]}:${plain}[0]`],
      ...['-auto-orient', '-colorspace', 'sRGB', '-depth', '8', `png:${target}.png`],
    ],
    { seconds: TOOL_SECONDS },
  );
  return madeBy(`${target}.png`);
});

/** One way to read a format, and another where it fails; what the first complained is told. */
const orConverted =
  (first: Maker): Maker =>
  (source, target) =>
    first(source, target).catch((error: unknown) => {
      if (!MORE_READERS[source.format]) throw error;
      return converted(source, target).catch(() => Promise.reject(error as Error));
    });

const MAKERS: Record<Exclude<PictureBy, 'pixels'>, Maker> = {
  frame: orConverted(
    byTool((plain, target, { format }) =>
      oneFrame(format, plain, target, { before: FRAME_OPTIONS[format] ?? [] }),
    ),
  ),
  film: ofFootage,
  wave: ofSound,
  heif: ofHeif,
  raw: ofRaw,
  pdf: ofPdf,
  postscript: ofPostscript,
  drawing: drawn(DRAWING),
  specimen: drawn(SPECIMEN),
  lines: drawn(LINES),
};

/**
 * Run with a file that libvips reads, upright by what it says or we say of it: the file itself under a plain name, or
 * what a tool made of it. The original is held open meanwhile, and no link is followed.
 * @throws ArchiveError file-unreadable or tool-failed: the reason why there is no picture
 */
export async function withPrepared<T>(
  source: PictureSource,
  run: (decodable: Decodable) => Promise<T>,
): Promise<T> {
  const { picture, name } = formatByKey(source.format);
  if (!picture)
    throw none(
      source.format === 'other'
        ? 'The bytes are of no kind we know; it is kept as it is.'
        : `No picture is made of ${name} files.`,
    );
  // A container of moving pictures may hold sound alone.
  if (picture !== 'pixels')
    return byMaker(source, source.kind === 'sound' ? MAKERS.wave : MAKERS[picture], run);
  return withToolPath(source.path, (plain) => run({ path: plain, turn: null })).catch(
    (error: unknown) => {
      const other = SECOND_READERS[source.format];
      if (!other) throw error;
      return byMaker(source, other, run).catch(() => Promise.reject(error as Error));
    },
  );
}

/** Where libvips gives up. */
const SECOND_READERS: Record<string, Maker> = { tiff: converted };

async function byMaker<T>(
  source: PictureSource,
  make: Maker,
  run: (decodable: Decodable) => Promise<T>,
): Promise<T> {
  const folder = await mkdtemp(join(source.work, 'picture-'));
  try {
    return await run(await make(source, join(folder, 'made')));
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
