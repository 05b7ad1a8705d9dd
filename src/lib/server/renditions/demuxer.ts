import { ArchiveError } from '#core/errors';

/** FFmpeg's reader of each format we recognise. Those that open further files (playlists, lists) are not among them. */
const DEMUXERS: Record<string, string> = {
  MP4: 'mov',
  QuickTime: 'mov',
  'MPEG-4 audio': 'mov',
  Matroska: 'matroska',
  WebM: 'matroska',
  AVI: 'avi',
  MXF: 'mxf',
  MPEG: 'mpeg',
  'MPEG video': 'mpegvideo',
  'MPEG-TS': 'mpegts',
  DV: 'dv',
  ASF: 'asf',
  OpenEXR: 'exr_pipe',
  PPM: 'ppm_pipe',
  PGM: 'pgm_pipe',
  PBM: 'pbm_pipe',
  Icon: 'ico',
  TGA: 'image2pipe',
  WAV: 'wav',
  AIFF: 'aiff',
  FLAC: 'flac',
  MP3: 'mp3',
  Ogg: 'ogg',
  BMP: 'bmp_pipe',
  'Layered picture': 'psd_pipe',
  'JPEG 2000': 'j2k_pipe',
  'JPEG XL': 'jpegxl_pipe',
};

/**
 * What FFmpeg and FFprobe are told before `-i`: read this one local file, by the reader of the format we
 * recognised. Left to themselves they choose by content, and follow a playlist that looks like sound.
 * @throws ArchiveError file-unreadable for formats they are not asked about
 */
export function inputOf(format: string): string[] {
  const demuxer = DEMUXERS[format];
  if (!demuxer)
    throw new ArchiveError('file-unreadable', `No picture or sound is read from ${format} files.`);
  const decoder = format === 'TGA' ? ['-c:v', 'targa'] : [];
  return ['-protocol_whitelist', 'file', '-format_whitelist', demuxer, '-f', demuxer, ...decoder];
}
