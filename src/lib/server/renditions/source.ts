import { access, mkdtemp, readFile, rm } from 'node:fs/promises';
import { join } from 'node:path';
import sharp, { type Sharp, type SharpOptions } from 'sharp';
import { ArchiveError } from '#core/errors';
import { formatName } from '#core/kinds/kinds';
import { apart, runApart, type Apart } from '../apart/apart';
import { pathOfHandle, withOpened, withToolPath } from '../files/open';
import { exiftoolPreview } from '../metadata/embedded';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';
import type { drawDrawing, drawSpecimen } from './drawing';
import { probe } from './probe';

/** What a picture is made from. */
export interface PictureSource {
  path: string;
  format: string;
  kind: string;
  mediaType: string;
  /** EXIF orientation of the original, for previews that carry none of their own. */
  orientation: number;
  /** Folder for temporary files. */
  work: string;
}

/** More pixels than any camera or flatbed scanner of ours makes; a bomb has more. */
const MOST_PIXELS = 400_000_000;
const OPTIONS: SharpOptions = {
  limitInputPixels: MOST_PIXELS,
  failOn: 'error',
  sequentialRead: true,
};
const LONG_EDGE = 2048;
const TOOL_SECONDS = 90;
const DRAWING_SECONDS = 20;

const none = (sentence: string): ArchiveError => new ArchiveError('file-unreadable', sentence);

/** Turn a preview upright by the orientation of the file it came from (Exif 3.0, 4.6.5.1.6). */
function upright(image: Sharp, orientation: number): Sharp {
  const turns: Record<number, [angle: number, flop: boolean]> = {
    2: [0, true],
    3: [180, false],
    4: [180, true],
    5: [270, true],
    6: [90, false],
    7: [90, true],
    8: [270, false],
  };
  const turn = turns[orientation];
  if (!turn) return image;
  const flopped = turn[1] ? image.flop() : image;
  return turn[0] === 0 ? flopped : flopped.rotate(turn[0]);
}

/** A picture that a tool wrote into our folder. */
async function written(
  source: PictureSource,
  make: (target: string) => Promise<string>,
): Promise<Sharp> {
  const folder = await mkdtemp(join(source.work, 'picture-'));
  try {
    return sharp(await readFile(await make(join(folder, 'made'))), OPTIONS);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const byTool = (
  source: PictureSource,
  make: (plain: string, target: string) => Promise<string>,
): Promise<Sharp> =>
  written(source, (target) => withToolPath(source.path, (plain) => make(plain, target)));

export const DRAWING = apart<typeof drawDrawing>('renditions/drawing', 'drawDrawing');
const SPECIMEN = apart<typeof drawSpecimen>('renditions/drawing', 'drawSpecimen');

const drawn = (source: PictureSource, task: Apart<typeof drawDrawing>): Promise<Sharp> =>
  written(source, async (target) => {
    await runApart(task, { path: source.path, target: `${target}.png` }, DRAWING_SECONDS);
    return `${target}.png`;
  });

const oneFrame = (
  format: string,
  plain: string,
  target: string,
  before: string[] = [],
  after: string[] = [],
) =>
  runTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', ...before, ...inputOf(format), '-i', plain, ...after],
      ...['-frames:v', '1', `${target}.png`],
    ],
    { seconds: TOOL_SECONDS },
  ).then(() => `${target}.png`);

async function ofFootage(source: PictureSource): Promise<Sharp> {
  const { duration, width } = await probe(source.path, source.format);
  if (width === null) throw none('There is no picture track in this file.');
  const at = Math.min((duration ?? 0) * 0.2, 60);
  const frame = (seconds: number) =>
    byTool(source, (plain, target) =>
      oneFrame(source.format, plain, target, seconds > 0 ? ['-ss', seconds.toFixed(3)] : []),
    );
  // A clip of one frame, or one whose length is wrong, has nothing there: its first frame then.
  return at > 0 ? frame(at).catch(() => frame(0)) : frame(0);
}

async function ofSound(source: PictureSource): Promise<Sharp> {
  const image = await byTool(source, (plain, target) =>
    oneFrame(
      source.format,
      plain,
      target,
      [],
      [
        '-filter_complex',
        'aformat=channel_layouts=mono,compand=gain=4,showwavespic=s=1400x620:colors=0x1f6b60',
      ],
    ),
  );
  return image
    .extend({
      top: 90,
      bottom: 90,
      left: 100,
      right: 100,
      background: { r: 0, g: 0, b: 0, alpha: 0 },
    })
    .flatten({ background: '#eceae4' });
}

async function ofHeic(source: PictureSource): Promise<Sharp> {
  return byTool(source, async (plain, target) => {
    await runTool('heif-convert', ['-q', '95', plain, `${target}.jpg`], { seconds: TOOL_SECONDS });
    // Of a file with several images each is written, numbered; the first is the one meant.
    const isAlone = await access(`${target}.jpg`).then(
      () => true,
      () => false,
    );
    return isAlone ? `${target}.jpg` : `${target}-1.jpg`;
  });
}

async function ofRaw(source: PictureSource): Promise<Sharp> {
  const preview = await exiftoolPreview(source.path);
  if (preview) return upright(sharp(preview, OPTIONS), source.orientation);
  return byTool(source, async (plain, target) => {
    await runTool('dcraw_emu', ['-h', '-w', '-T', '-Z', `${target}.tiff`, plain], {
      seconds: TOOL_SECONDS,
    });
    return `${target}.tiff`;
  });
}

async function ofPdf(source: PictureSource): Promise<Sharp> {
  const args = ['-f', '1', '-l', '1', '-singlefile', '-scale-to', String(LONG_EDGE), '-png'];
  return byTool(source, async (plain, target) => {
    await runTool('pdftoppm', [...args, plain, target], { seconds: TOOL_SECONDS });
    return `${target}.png`;
  });
}

const DECODED_HERE = new Set(['jpeg', 'png', 'webp', 'avif', 'tiff', 'gif']);

async function madePicture(source: PictureSource): Promise<Sharp> {
  switch (source.format) {
    case 'svg':
      return drawn(source, DRAWING);
    case 'heic':
      return ofHeic(source);
    case 'raw':
      return ofRaw(source);
    case 'pdf':
      return ofPdf(source);
    case 'bmp':
    case 'psd':
    case 'jp2':
    case 'jxl':
    case 'exr':
    case 'ppm':
    case 'pgm':
    case 'pbm':
    case 'ico':
    case 'tga':
      return byTool(source, (plain, target) => oneFrame(source.format, plain, target));
  }
  if (source.kind === 'footage') return ofFootage(source);
  if (source.kind === 'sound') return ofSound(source);
  if (source.kind === 'font') return drawn(source, SPECIMEN);
  throw none(
    source.format === 'other'
      ? 'The bytes are of no kind we know; it is kept as it is.'
      : `No picture is made of ${formatName(source.format)} files.`,
  );
}

/**
 * Run with the upright picture of a file, decoded as little as its size asks for. The file is held open
 * meanwhile, and no link is followed.
 * @throws ArchiveError file-unreadable or tool-failed: the reason why there is no picture
 */
export async function withPicture<T>(
  source: PictureSource,
  run: (image: Sharp) => Promise<T>,
): Promise<T> {
  if (!DECODED_HERE.has(source.format)) return run(await madePicture(source));
  return withOpened(source.path, (handle) =>
    run(sharp(pathOfHandle(handle), OPTIONS).autoOrient()),
  );
}
