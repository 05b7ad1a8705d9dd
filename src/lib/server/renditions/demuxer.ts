import { formatName } from '#core/kinds/kinds';
import { ArchiveError } from '#core/errors';

/** FFmpeg's reader of each format we recognise. Those that open further files (playlists, lists) are not among them. */
const DEMUXERS: Record<string, string> = {
  mp4: 'mov',
  mov: 'mov',
  m4a: 'mov',
  mkv: 'matroska',
  webm: 'matroska',
  avi: 'avi',
  mxf: 'mxf',
  mpeg: 'mpeg',
  mpegVideo: 'mpegvideo',
  mpegTs: 'mpegts',
  dv: 'dv',
  asf: 'asf',
  exr: 'exr_pipe',
  ppm: 'ppm_pipe',
  pgm: 'pgm_pipe',
  pbm: 'pbm_pipe',
  ico: 'ico',
  tga: 'image2pipe',
  wav: 'wav',
  aiff: 'aiff',
  flac: 'flac',
  mp3: 'mp3',
  ogg: 'ogg',
  bmp: 'bmp_pipe',
  psd: 'psd_pipe',
  jp2: 'j2k_pipe',
  jxl: 'jpegxl_pipe',
};

/**
 * What FFmpeg and FFprobe are told before `-i`: read this one local file, by the reader of the format we
 * recognised. Left to themselves they choose by content, and follow a playlist that looks like sound.
 * @throws ArchiveError file-unreadable for formats they are not asked about
 */
export function inputOf(format: string): string[] {
  const demuxer = DEMUXERS[format];
  if (!demuxer)
    throw new ArchiveError(
      'file-unreadable',
      `No picture or sound is read from ${formatName(format)} files.`,
    );
  const decoder = format === 'tga' ? ['-c:v', 'targa'] : [];
  return ['-protocol_whitelist', 'file', '-format_whitelist', demuxer, '-f', demuxer, ...decoder];
}
