import { mkdtemp, readFile, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { create as openFont, type Font } from 'fontkit';
import sharp, { type Sharp, type SharpOptions } from 'sharp';
import { ArchiveError } from '#core/errors';
import { withPlainPath } from '../metadata/exiftool';
import { exiftoolPreview } from '../metadata/preview';
import { bytesOfPath } from '../files/paths';
import { runTool } from '../tools/run';
import { FILE_ONLY, probe } from './probe';

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
/** An SVG larger than this is no drawing. */
const LARGEST_SVG = 20 << 20;
const OPTIONS: SharpOptions = {
  limitInputPixels: MOST_PIXELS,
  failOn: 'error',
  sequentialRead: true,
};
const LONG_EDGE = 2048;
const TOOL_SECONDS = 90;

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

async function ofSvg(source: PictureSource): Promise<Sharp> {
  const { size } = await stat(bytesOfPath(source.path));
  if (size > LARGEST_SVG) throw none('The drawing is larger than 20 MB.');
  // A buffer has no folder: references to files beside it lead nowhere.
  const buffer = await readFile(bytesOfPath(source.path));
  const { width = 0, height = 0 } = await sharp(buffer, OPTIONS).metadata();
  const density = Math.max(1, Math.min(2400, (72 * LONG_EDGE) / Math.max(width, height, 1)));
  return sharp(buffer, { ...OPTIONS, density })
    .timeout({ seconds: 30 })
    .flatten({ background: '#ffffff' });
}

/** A picture that a tool wrote into our folder. */
async function byTool(
  source: PictureSource,
  make: (plain: string, target: string) => Promise<string>,
): Promise<Sharp> {
  const folder = await mkdtemp(join(source.work, 'picture-'));
  try {
    const made = await withPlainPath(source.path, (plain) => make(plain, join(folder, 'made')));
    return sharp(await readFile(made), OPTIONS);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const oneFrame = (plain: string, target: string, before: string[] = [], after: string[] = []) =>
  runTool(
    'ffmpeg',
    [
      '-v',
      'error',
      '-y',
      ...before,
      ...FILE_ONLY,
      '-i',
      plain,
      ...after,
      '-frames:v',
      '1',
      `${target}.png`,
    ],
    { seconds: TOOL_SECONDS },
  ).then(() => `${target}.png`);

async function ofFootage(source: PictureSource): Promise<Sharp> {
  const { duration, width } = await withPlainPath(source.path, probe);
  if (width === null) throw none('There is no picture track in this file.');
  const at = Math.min((duration ?? 0) * 0.2, 60);
  return byTool(source, (plain, target) => oneFrame(plain, target, ['-ss', at.toFixed(3)]));
}

async function ofSound(source: PictureSource): Promise<Sharp> {
  const image = await byTool(source, (plain, target) =>
    oneFrame(
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
    return `${target}.jpg`;
  });
}

async function ofRaw(source: PictureSource): Promise<Sharp> {
  const preview = await exiftoolPreview(source.path);
  if (preview) return upright(sharp(preview, OPTIONS), source.orientation);
  const tiff = await withPlainPath(source.path, (plain) =>
    runTool('dcraw', ['-c', '-h', '-w', '-T', plain], { seconds: TOOL_SECONDS, output: 400 << 20 }),
  );
  return sharp(tiff, OPTIONS);
}

async function ofPdf(source: PictureSource): Promise<Sharp> {
  const args = ['-f', '1', '-l', '1', '-singlefile', '-scale-to', String(LONG_EDGE), '-png'];
  return byTool(source, async (plain, target) => {
    await runTool('pdftoppm', [...args, plain, target], { seconds: TOOL_SECONDS });
    return `${target}.png`;
  });
}

const SAMPLE_LINES = ['Saltreach 123', 'Aa Bb Cc Gg Rr', 'wind, sail & line'];

/** A specimen drawn from the font's own outlines; glyph by glyph, nothing of it is run. */
async function ofFont(source: PictureSource): Promise<Sharp> {
  const opened = openFont(await readFile(bytesOfPath(source.path)));
  const font = ('fonts' in opened ? opened.fonts[0] : opened) as Font;
  const size = 150;
  const scale = size / font.unitsPerEm;
  const lines = SAMPLE_LINES.map((line, index) => {
    const run = font.layout(line);
    let x = 0;
    const glyphs = run.glyphs.map((glyph, at) => {
      const path = `<path transform="translate(${x} 0)" d="${glyph.path.toSVG()}"/>`;
      x += run.positions[at]!.xAdvance;
      return path;
    });
    return `<g transform="translate(90 ${240 + index * 230}) scale(${scale} ${-scale})">${glyphs.join('')}</g>`;
  });
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="1400" height="933" viewBox="0 0 1400 933">
    <rect width="1400" height="933" fill="#fdfcf9"/><g fill="#1d2320">${lines.join('')}</g></svg>`;
  return sharp(Buffer.from(svg), OPTIONS);
}

/**
 * The upright picture of a file, decoded as little as its size asks for.
 * @throws ArchiveError file-unreadable or tool-failed: the reason why there is no picture
 */
export async function openPicture(source: PictureSource): Promise<Sharp> {
  switch (source.format) {
    case 'JPEG':
    case 'PNG':
    case 'WebP':
    case 'AVIF':
    case 'TIFF':
    case 'GIF':
      return withPlainPath(source.path, async (plain) =>
        plain === source.path
          ? sharp(plain, OPTIONS).autoOrient()
          : sharp(await readFile(bytesOfPath(source.path)), OPTIONS).autoOrient(),
      );
    case 'SVG':
      return ofSvg(source);
    case 'HEIC':
      return ofHeic(source);
    case 'Camera raw':
      return ofRaw(source);
    case 'PDF':
      return ofPdf(source);
    case 'BMP':
    case 'Layered picture':
    case 'JPEG 2000':
    case 'JPEG XL':
      return byTool(source, (plain, target) => oneFrame(plain, target));
  }
  if (source.kind === 'footage') return ofFootage(source);
  if (source.kind === 'sound') return ofSound(source);
  if (source.kind === 'font') return ofFont(source);
  throw none(
    source.format === 'File'
      ? 'The bytes are of no kind we know; it is kept as it is.'
      : `No picture is made of ${source.format} files.`,
  );
}
