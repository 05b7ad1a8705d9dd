import { Parser } from 'htmlparser2';
import sharp from 'sharp';
import { fromFdPromise, type ZipFile } from 'yauzl';
import type { Font } from 'fontkit';
import { ArchiveError } from '#core/errors';
import { firstLines, textOf } from '#core/text/lines';
import { withOpened } from '../files/open';
import { faceOf, letter } from './lettering';

/**
 * Pictures of documents: the small picture a program put into them, else their first lines as on a sheet of paper.
 * Run apart: others made the files.
 */
const MOST_ENTRIES = 5000;
/** Bytes of one part of a document that are looked at. */
const MOST_PART = 8 << 20;
const MOST_TEXT = 64 << 10;
/** px */
const SHEET = { width: 1240, height: 1600, margin: 120, size: 32, leading: 46 };
const LINES = Math.floor((SHEET.height - 2 * SHEET.margin) / SHEET.leading);

const PICTURES = /^(docProps\/thumbnail\.(jpe?g|png)|Thumbnails\/thumbnail\.png)$/i;
/** Where the text of each format stands, the first part first. */
const PARTS: Record<string, RegExp> = {
  docx: /^word\/document\.xml$/,
  xlsx: /^xl\/(sharedStrings|worksheets\/sheet1)\.xml$/,
  pptx: /^ppt\/slides\/slide1\.xml$/,
  odt: /^content\.xml$/,
  ods: /^content\.xml$/,
  odp: /^content\.xml$/,
  epub: /\.x?html?$/,
  idml: /^Stories\/.*\.xml$/,
};
/** Elements after which a line ends, by their names without prefix. */
const ENDS = new Set([
  'p',
  'h',
  'h1',
  'h2',
  'h3',
  'li',
  'tr',
  'table-row',
  'si',
  'row',
  'br',
  'Br',
]);

async function partOf(zip: ZipFile, wanted: (name: string) => boolean): Promise<Buffer | null> {
  let seen = 0;
  for await (const entry of zip.eachEntry()) {
    if ((seen += 1) > MOST_ENTRIES) return null;
    if (!wanted(entry.fileName) || entry.uncompressedSize > MOST_PART) continue;
    const stream = await zip.openReadStreamPromise(entry);
    const chunks: Buffer[] = [];
    let length = 0;
    for await (const chunk of stream as AsyncIterable<Buffer>) {
      if ((length += chunk.length) > MOST_PART) return null;
      chunks.push(chunk);
    }
    return Buffer.concat(chunks);
  }
  return null;
}

/** What stands between the tags, a line for each paragraph. */
function wordsOf(xml: string): string {
  let text = '';
  const parser = new Parser(
    {
      ontext: (own) => (text += own.replace(/\s+/g, ' ')),
      onclosetag: (name) => {
        if (ENDS.has(name.replace(/^.*:/, ''))) text += '\n';
      },
    },
    { xmlMode: true, decodeEntities: true },
  );
  parser.write(xml);
  parser.end();
  return text;
}

/** Words of rich text: groups that hold settings are left out. */
const wordsOfRtf = (rtf: string): string =>
  rtf
    .replace(/\{\\(?:\*|fonttbl|colortbl|stylesheet|info|pict)[^{}]*(?:\{[^{}]*\}[^{}]*)*\}/g, '')
    .replace(/\\par[d]?\b ?/g, '\n')
    .replace(/\\'([0-9a-f]{2})/gi, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))
    .replace(/\\[a-z]+-?\d* ?|[{}]/gi, '');

async function zipped(path: string, format: string): Promise<{ picture?: Buffer; text?: string }> {
  return withOpened(path, async (handle) => {
    const open = (): Promise<ZipFile> =>
      fromFdPromise(handle.fd, { lazyEntries: true, autoClose: false });
    const picture = await partOf(await open(), (name) => PICTURES.test(name));
    if (picture) return { picture };
    const pattern = PARTS[format];
    const part = pattern && (await partOf(await open(), (name) => pattern.test(name)));
    return part ? { text: wordsOf(part.toString()) } : {};
  });
}

async function written(path: string, format: string): Promise<string> {
  const bytes = await withOpened(path, async (handle) => {
    const buffer = Buffer.alloc(MOST_TEXT);
    const { bytesRead } = await handle.read(buffer, 0, MOST_TEXT, 0);
    return buffer.subarray(0, bytesRead);
  });
  const text = textOf(bytes);
  if (format === 'rtf') return wordsOfRtf(text);
  return format === 'html' ? wordsOf(text.replace(/<(script|style)[\s\S]*?<\/\1>/gi, '')) : text;
}

/** A sheet of paper with the first lines of a text. */
export async function sheetOf(text: string, font: Font): Promise<Buffer> {
  const { width, height, margin, size, leading } = SHEET;
  const lines = firstLines(
    text,
    LINES,
    (words) => letter(font, words, size, 0, 0).width,
    width - 2 * margin,
  );
  const rows = lines.map(
    (line, at) => letter(font, line, size, margin, margin + size + at * leading).svg,
  );
  return Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">
      <rect width="${width}" height="${height}" fill="#fdfcf9"/><g fill="#1d2320">${rows.join('')}</g></svg>`,
  );
}

/** Draw the small picture of a document, or its first lines, into a PNG. */
export async function drawLines(wish: {
  path: string;
  format: string;
  target: string;
}): Promise<void> {
  const { path, format, target } = wish;
  const found = PARTS[format] ? await zipped(path, format) : { text: await written(path, format) };
  if ('picture' in found && found.picture) {
    await sharp(found.picture, { limitInputPixels: 50e6 })
      .png({ compressionLevel: 1 })
      .toFile(target);
    return;
  }
  const text = found.text?.trim();
  if (!text)
    throw new ArchiveError('file-unreadable', 'It holds no text and no picture of itself.');
  const font = await faceOf(/^(srt|vtt|ass|ttml)$/.test(format) ? 'mono' : 'book');
  await sharp(await sheetOf(text, font))
    .png({ compressionLevel: 1 })
    .toFile(target);
}
