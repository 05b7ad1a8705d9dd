/** Formats are told apart by their key; what people call them is the interface's. */
const KEYS: Record<string, string> = {
  JPEG: 'jpeg',
  PNG: 'png',
  WebP: 'webp',
  AVIF: 'avif',
  HEIC: 'heic',
  TIFF: 'tiff',
  GIF: 'gif',
  'JPEG XL': 'jxl',
  'JPEG 2000': 'jp2',
  'Layered picture': 'psd',
  BMP: 'bmp',
  'Camera raw': 'raw',
  SVG: 'svg',
  PostScript: 'postscript',
  PDF: 'pdf',
  MP4: 'mp4',
  QuickTime: 'mov',
  Matroska: 'mkv',
  WebM: 'webm',
  AVI: 'avi',
  MXF: 'mxf',
  MPEG: 'mpeg',
  'MPEG video': 'mpegVideo',
  'MPEG-TS': 'mpegTs',
  DV: 'dv',
  ASF: 'asf',
  R3D: 'r3d',
  OpenEXR: 'exr',
  Radiance: 'hdr',
  PPM: 'ppm',
  PGM: 'pgm',
  PBM: 'pbm',
  Icon: 'ico',
  TGA: 'tga',
  'Layered drawing': 'xcf',
  WAV: 'wav',
  AIFF: 'aiff',
  FLAC: 'flac',
  MP3: 'mp3',
  Ogg: 'ogg',
  'MPEG-4 audio': 'm4a',
  TrueType: 'ttf',
  OpenType: 'otf',
  WOFF: 'woff',
  WOFF2: 'woff2',
  HTML: 'html',
  Text: 'text',
  ZIP: 'zip',
  Document: 'office',
  File: 'other',
};
const values = Object.entries(KEYS)
  .map(([name, key]) => `('${name}', '${key}')`)
  .join(', ');

export const formatKeys = `
create temporary table format_key (name text primary key, key text not null) on commit drop;
insert into format_key values ${values};
update item i set format = k.key from format_key k where i.format = k.name;
update scan_file s set format = k.key from format_key k where s.format = k.name;
update accession_entry e set facts = jsonb_set(e.facts, '{format}', to_jsonb(k.key))
  from format_key k where e.facts ->> 'format' = k.name;
`;
