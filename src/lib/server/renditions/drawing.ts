import { create as openFont, type Font } from 'fontkit';
import sharp, { type SharpOptions } from 'sharp';
import { ArchiveError } from '#core/errors';
import { withOpened } from '../files/open';

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

/** Draw a specimen from a font's own outlines; glyph by glyph, nothing of it is run. */
export async function drawSpecimen(wish: { path: string; target: string }): Promise<void> {
  const bytes = await bytesOf(wish.path, LARGEST_FONT, 'The font is larger than 60 MB.');
  const opened = openFont(bytes);
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
  await toPng(Buffer.from(svg), OPTIONS, wish.target);
}
