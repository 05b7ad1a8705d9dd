import { create as openFont, type Font } from 'fontkit';
import sharp, { type SharpOptions } from 'sharp';
import { ArchiveError } from '#core/errors';
import { withOpened } from '../files/open';
import { letter } from './lettering';

/**
 * Pictures of what is a program in itself, drawings and fonts. They are drawn apart (../apart): a drawing may
 * take for ever, and only ending its process ends it.
 */
const LONG_EDGE = 2048;
/** An SVG larger than this is no drawing, a font larger than this no font. */
const LARGEST_SVG = 20 << 20;
const LARGEST_FONT = 60 << 20;
/** More pixels than any drawing says it has; it is drawn with 2048 at most. */
const OPTIONS: SharpOptions = { limitInputPixels: 400_000_000, failOn: 'error' };

const none = (sentence: string): ArchiveError => new ArchiveError('file-unreadable', sentence);

const bytesOf = (path: string, largest: number, tooLarge: string): Promise<Buffer> =>
  withOpened(path, async (handle) => {
    const { size } = await handle.stat();
    if (size > largest) throw none(tooLarge);
    return handle.readFile();
  });

const toPng = async (svg: Buffer, options: SharpOptions, target: string): Promise<void> => {
  await sharp(svg, options)
    .flatten({ background: '#ffffff' })
    .png({ compressionLevel: 1 })
    .toFile(target);
};

/** Draw an SVG into a PNG. Handed over as bytes it has no folder: references to files lead nowhere. */
export async function drawDrawing(wish: { path: string; target: string }): Promise<void> {
  const bytes = await bytesOf(wish.path, LARGEST_SVG, 'The drawing is larger than 20 MB.');
  const { width = 0, height = 0 } = await sharp(bytes, OPTIONS).metadata();
  const density = Math.max(1, Math.min(2400, (72 * LONG_EDGE) / Math.max(width, height, 1)));
  await toPng(bytes, { ...OPTIONS, density }, wish.target);
}

const SAMPLE_LINES = ['Saltreach 123', 'Aa Bb Cc Gg Rr', 'wind, sail & line'];
const SHEET = { width: 1400, margin: 90, size: 150, leading: 230 };

async function fontIn(path: string): Promise<Font> {
  const bytes = await bytesOf(path, LARGEST_FONT, 'The font is larger than 60 MB.');
  const opened = openFont(bytes);
  return ('fonts' in opened ? opened.fonts[0] : opened) as Font;
}

/** Lines in the letters of a font, as outlines; nothing of it is run. */
function lettered(font: Font, lines: readonly string[]): string {
  const { width, margin, size, leading } = SHEET;
  const rows = lines.map((line, at) => {
    const fits = Math.min(
      1,
      (width - 2 * margin) / Math.max(1, letter(font, line, size, 0, 0).width),
    );
    return letter(font, line, size * fits, margin, margin + size + at * leading).svg;
  });
  const height = 2 * margin + size + (lines.length - 1) * leading + 60;
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">
    <rect width="${width}" height="${height}" fill="#fdfcf9"/><g fill="#1d2320">${rows.join('')}</g></svg>`;
}

/** Draw a specimen from a font's own outlines. */
export async function drawSpecimen(wish: { path: string; target: string }): Promise<void> {
  const svg = lettered(await fontIn(wish.path), SAMPLE_LINES);
  await toPng(Buffer.from(svg), OPTIONS, wish.target);
}

/** A line of one's own in a font. @returns SVG */
export async function drawSpecimenText(wish: { path: string; text: string }): Promise<string> {
  return lettered(await fontIn(wish.path), [wish.text]);
}
