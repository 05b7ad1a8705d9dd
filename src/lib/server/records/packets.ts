import { withToolPath } from '../files/open';
import { runTool } from '../tools/run';

const SECONDS = 120;

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
