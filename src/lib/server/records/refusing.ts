import { withOpened, withToolPath } from '../files/open';
import { runTool } from '../tools/run';

const SECONDS = 120;
/**
 * How trailers end that hold descriptions of their own, behind the picture of a JPEG: ExifTool would write into them or let
 * them go.
 */
const TRAILERS = ['AXS!', 'AXS*', '\xa1\xb2\xc3\xd4', '~MIE', 'cbipcbbl'];
const TAIL = 64 << 10;

/** Whether a JPEG is followed by what other programs keep there of the same. */
export const hasTrailer = (path: string): Promise<boolean> =>
  withOpened(path, async (handle) => {
    const { size } = await handle.stat();
    const tail = Buffer.alloc(Math.min(TAIL, size));
    await handle.read(tail, 0, tail.length, size - tail.length);
    const text = tail.toString('latin1');
    return TRAILERS.some((mark) => text.includes(mark));
  });

/** To look at what a document says of itself. */
const LOOK_SECONDS = 5;

/** Whether a PDF is locked: writing into it would take long and end in nothing. One that nobody can look at counts as locked. */
export const isLocked = (path: string): Promise<boolean> =>
  withToolPath(path, (plain) => runTool('pdfinfo', [plain], { seconds: LOOK_SECONDS })).then(
    (told) => /^Encrypted:\s+yes/m.test(told.toString('latin1')),
    () => true,
  );

/** A hash of every stream of a film, packet by packet as its tables find them; nothing is decoded. */
export const packetsOf = (path: string): Promise<string> =>
  withToolPath(path, async (plain) => {
    const args = ['-v', 'error', '-protocol_whitelist', 'file', '-f', 'mov', '-i', plain];
    const printed = await runTool(
      'ffmpeg',
      [...args, '-map', '0', '-c', 'copy', '-f', 'streamhash', '-'],
      { seconds: SECONDS },
    );
    return printed.toString();
  });
