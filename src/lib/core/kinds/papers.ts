import { format, type Format, type Head } from './format';

/**
 * Documents that are ZIP archives. Those that begin with their own media type tell what they are; of the others
 * (ISO/IEC 29500) the first bytes only say that they are packages, and the extension which.
 */
const packed = (type: string, extension: string) => (head: Head) =>
  head.isZip &&
  (head.at(30, `mimetype${type}`) || (head.extension === extension && !head.at(30, 'mimetype')));
const lines = { picture: 'lines', look: 'lines' } as const;
const word = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document';
const sheet = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
const slides = 'application/vnd.openxmlformats-officedocument.presentationml.presentation';
const odf = 'application/vnd.oasis.opendocument';

export const ARTS: readonly Format[] = [
  format('eps', 'vector', 'application/postscript', 'EPS', 'eps epsf epsi ai', {
    picture: 'postscript',
    look: 'picture',
    looks: (head) =>
      head.starts(0xc5, 0xd0, 0xd3, 0xc6) || /^%!PS-Adobe-[\d.]+ EPSF/.test(head.ascii(0, 32)),
  }),
  format('postscript', 'vector', 'application/postscript', 'PostScript', 'ps eps ai', {
    picture: 'postscript',
    look: 'picture',
    looks: (head) => head.at(0, '%!PS'),
  }),
  format('svg', 'vector', 'image/svg+xml', 'SVG', 'svg', {
    picture: 'drawing',
    look: 'drawing',
    looks: (head) => /<svg[\s>]/i.test(head.ascii(0, 4096)),
  }),
];

export const PAPERS: readonly Format[] = [
  format('pdf', 'document', 'application/pdf', 'PDF', 'pdf ai', {
    picture: 'pdf',
    look: 'pages',
    embeds: 'pdf',
    looks: (head) => head.at(0, '%PDF'),
  }),
  format('docx', 'document', word, 'Word processing', 'docx docm dotx', {
    ...lines,
    looks: packed(word, 'docx'),
  }),
  format('xlsx', 'document', sheet, 'Spreadsheet', 'xlsx xlsm', {
    ...lines,
    looks: packed(sheet, 'xlsx'),
  }),
  format('pptx', 'document', slides, 'Slides', 'pptx ppsx pptm', {
    ...lines,
    looks: packed(slides, 'pptx'),
  }),
  format('odt', 'document', `${odf}.text`, 'OpenDocument text', 'odt', {
    ...lines,
    looks: packed(`${odf}.text`, 'odt'),
  }),
  format('ods', 'document', `${odf}.spreadsheet`, 'OpenDocument spreadsheet', 'ods', {
    ...lines,
    looks: packed(`${odf}.spreadsheet`, 'ods'),
  }),
  format('odp', 'document', `${odf}.presentation`, 'OpenDocument slides', 'odp', {
    ...lines,
    looks: packed(`${odf}.presentation`, 'odp'),
  }),
  format('epub', 'document', 'application/epub+zip', 'EPUB', 'epub', {
    ...lines,
    looks: packed('application/epub+zip', 'epub'),
  }),
  format('idml', 'document', 'application/zip', 'Page layout', 'idml', {
    ...lines,
    looks: (head) =>
      head.isZip && (head.extension === 'idml' || head.ascii(30, 70).includes('idml-package')),
  }),
  format('rtf', 'document', 'application/rtf', 'Rich text', 'rtf', {
    ...lines,
    looks: (head) => head.at(0, '{\\rtf'),
  }),
  format('vtt', 'document', 'text/vtt', 'WebVTT subtitles', 'vtt', {
    ...lines,
    looks: (head) => /^(\u00ef\u00bb\u00bf)?WEBVTT[\s]/.test(head.ascii(0, 10)),
  }),
  format('srt', 'document', 'application/x-subrip', 'SubRip subtitles', 'srt', {
    ...lines,
    looks: (head) =>
      /^(\u00ef\u00bb\u00bf)?\s*\d+\r?\n\d+:\d\d:\d\d[,.]\d{3} --> /.test(head.ascii(0, 60)),
  }),
  format('ass', 'document', 'text/x-ssa', 'ASS subtitles', 'ass ssa', {
    ...lines,
    looks: (head) => /^(\u00ef\u00bb\u00bf)?\[Script Info\]/.test(head.ascii(0, 20)),
  }),
  format('ttml', 'document', 'application/ttml+xml', 'TTML subtitles', 'ttml dfxp xml', {
    ...lines,
    looks: (head) => /<tt(:tt)?\s[^>]*ttml/.test(head.ascii(0, 1024)),
  }),
  format('html', 'document', 'text/html', 'HTML', 'html htm xhtml', {
    ...lines,
    isText: true,
    looks: (head) => /^\s*(<!doctype html|<html)[\s>]/i.test(head.ascii(0, 200)),
  }),
];

/** Texts that nothing but their name tells apart. */
export const TEXTS: readonly Format[] = [
  format('text', 'document', 'text/plain', 'Text', 'txt md csv log json yaml yml tex xml', {
    ...lines,
    isText: true,
  }),
];

const specimen = { picture: 'specimen', look: 'specimen' } as const;
export const FONTS: readonly Format[] = [
  format('woff', 'font', 'font/woff', 'WOFF', 'woff', {
    ...specimen,
    looks: (head) => head.at(0, 'wOFF'),
  }),
  format('woff2', 'font', 'font/woff2', 'WOFF2', 'woff2', {
    ...specimen,
    looks: (head) => head.at(0, 'wOF2'),
  }),
  format('otf', 'font', 'font/otf', 'OpenType', 'otf', {
    ...specimen,
    looks: (head) => head.at(0, 'OTTO'),
  }),
  format('ttf', 'font', 'font/ttf', 'TrueType', 'ttf ttc', {
    ...specimen,
    looks: (head) => head.starts(0, 1, 0, 0, 0) || head.at(0, 'true') || head.at(0, 'ttcf'),
  }),
];
