import { formatByKey } from '#core/kinds/kinds';
import { ArchiveError } from '#core/errors';

/**
 * What FFmpeg and FFprobe are told before `-i`: read this one local file, by the reader of the format we
 * recognised. Left to themselves they choose by content, and follow a playlist that looks like sound; readers that
 * open further files (playlists, lists) are none of ours.
 * @throws ArchiveError file-unreadable for formats they are not asked about
 */
export function inputOf(format: string): string[] {
  const { reader, name } = formatByKey(format);
  if (!reader)
    throw new ArchiveError('file-unreadable', `No picture or sound is read from ${name} files.`);
  const decoder = format === 'tga' ? ['-c:v', 'targa'] : [];
  return ['-protocol_whitelist', 'file', '-format_whitelist', reader, '-f', reader, ...decoder];
}
