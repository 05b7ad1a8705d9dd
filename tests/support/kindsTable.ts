import { FORMATS, type Look, type PictureBy } from '#core/kinds/kinds';

/** How a picture comes about, and how one looks closely, in the words of docs/kinds.md. */
const BY: Record<PictureBy, string> = {
  pixels: 'its pixels (libvips)',
  frame: 'one frame (FFmpeg)',
  film: 'a frame from a fifth of its length (FFmpeg)',
  wave: 'its cover, else its wave (FFmpeg)',
  heif: 'libheif',
  raw: 'the camera’s own picture, else developed (LibRaw)',
  pdf: 'its first page (Poppler)',
  postscript: 'what it draws (Ghostscript, confined)',
  drawing: 'drawn apart (librsvg)',
  specimen: 'letters from its outlines',
  lines: 'its small picture, else its first lines',
};
const LOOKS: Record<Look, string> = {
  picture: 'zoom',
  pages: 'pages, zoom',
  drawing: 'drawn anew at each size',
  film: 'frames',
  sound: 'wave',
  specimen: 'one’s own words',
  lines: 'zoom',
};

/** The table of docs/kinds.md. */
export const kindsTable = (): string[] =>
  FORMATS.map(
    ({ key, name, kind, extensions, picture, look, embeds, loss }) =>
      `| ${name} | \`${key}\` | ${kind} | ${extensions.length > 12 ? `${extensions.slice(0, 12).join(' ')} …` : extensions.join(' ')} | ${picture ? BY[picture] : 'none'}${loss ? ` – ${loss}` : ''} | ${look ? LOOKS[look] : ''} | ${embeds ? 'file' : 'sidecar'} |`,
  );
