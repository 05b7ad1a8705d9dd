import { rename, rm, stat } from 'node:fs/promises';
import type { Technical } from '#core/records/technical';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/attempt';
import { notify } from '../live/notify';
import { withToolPath } from '../files/open';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';
import { makeRenditionFolder, noteRenditions, proxyFile } from './store';

const PLAYABLE_FOOTAGE = new Set(['mp4', 'webm']);
const PLAYABLE_VIDEO = new Set(['h264', 'vp8', 'vp9', 'av1']);
const PLAYABLE_SOUND = new Set(['wav', 'mp3', 'flac', 'ogg', 'm4a']);
const PLAYABLE_AUDIO = new Set([
  'aac',
  'mp3',
  'opus',
  'vorbis',
  'flac',
  'pcm_s16le',
  'pcm_s24le',
  'pcm_u8',
  'pcm_f32le',
]);
/** A proxy of two hours of footage on two cores takes about as long. */
const MOST_SECONDS = 3 * 3600;

/** Whether browsers cannot play the original. */
export function needsProxy(format: string, technical: Technical): boolean {
  const playsSound = !technical.audioCodec || PLAYABLE_AUDIO.has(technical.audioCodec);
  if (technical.videoCodec && !PLAYABLE_SOUND.has(format))
    return !(
      PLAYABLE_FOOTAGE.has(format) &&
      PLAYABLE_VIDEO.has(technical.videoCodec) &&
      playsSound
    );
  return !(PLAYABLE_SOUND.has(format) && playsSound);
}

const VIDEO = [
  '-map',
  '0:v:0',
  '-map',
  '0:a:0?',
  '-vf',
  "scale=-2:'min(540,ih)'",
  '-c:v',
  'libx264',
  '-preset',
  'veryfast',
  '-crf',
  '24',
  '-pix_fmt',
  'yuv420p',
];
const AUDIO = ['-c:a', 'aac', '-b:a', '128k', '-ac', '2', '-movflags', '+faststart'];

/** Job: a version of footage or sound that every browser plays. */
export async function makeProxy(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  const kind = file.kind === 'sound' ? 'sound' : 'footage';
  const target = proxyFile(house, file.pictureKey, kind);
  const temporary = target.replace(/(\.\w+)$/, `.${newId()}$1`);
  await makeRenditionFolder(house, file.pictureKey);
  try {
    const maps = kind === 'footage' ? VIDEO : ['-map', '0:a:0', '-vn'];
    await withToolPath(file.path, (plain) =>
      runTool(
        'ffmpeg',
        [
          '-v',
          'error',
          '-y',
          '-threads',
          '1',
          ...inputOf(file.format),
          '-i',
          plain,
          ...maps,
          ...AUDIO,
          temporary,
        ],
        {
          seconds: MOST_SECONDS,
        },
      ),
    );
    await rename(temporary, target);
    await noteRenditions(house, file.pictureKey, [
      { recipe: 'proxy', bytes: (await stat(target)).size },
    ]);
  } finally {
    await rm(temporary, { force: true });
  }
  await notify(house.db, { about: 'items', ids: [file.itemId] });
}
