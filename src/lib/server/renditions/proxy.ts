import { rename, rm, stat } from 'node:fs/promises';
import type { Technical } from '#core/records/technical';
import { originalOf } from '../files/located';
import type { House } from '../house/house';
import { newId } from '../house/ids';
import type { JobRow } from '../jobs/attempt';
import { notifyItems } from '../live/notify';
import { withToolPath } from '../files/open';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';
import { toneMapped } from './prepared';
import { probe, type Probe } from './probe';
import { makeRenditionFolder, noteRenditions, proxyFile, withoutChoice } from './store';

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

/** Browsers play H.264 of 8 bits and half the colours only. */
const isDeep = ({ videoCodec, videoProfile = '', bitDepth = 8 }: Technical): boolean =>
  videoCodec === 'h264' && (bitDepth > 8 || /4:2:2|4:4:4|High 10/.test(videoProfile));

/** Whether browsers cannot play the original. */
export function needsProxy(format: string, technical: Technical): boolean {
  const playsSound = !technical.audioCodec || PLAYABLE_AUDIO.has(technical.audioCodec);
  if (technical.videoCodec && !PLAYABLE_SOUND.has(format))
    return !(
      PLAYABLE_FOOTAGE.has(format) &&
      PLAYABLE_VIDEO.has(technical.videoCodec) &&
      !technical.dynamicRange &&
      !isDeep(technical) &&
      playsSound
    );
  return !(PLAYABLE_SOUND.has(format) && playsSound);
}

/** Every frame at its own time, so that frame n of the proxy is frame n of the original. */
const videoOf = ({ transfer, shape }: Probe): string[] => {
  const square = shape === 1 ? [] : ['scale=iw*sar:ih', 'setsar=1'];
  const filters = [...toneMapped(transfer), ...square, "scale=-2:'min(540,ih)'"];
  return [
    ...['-map', '0:v:0', '-map', '0:a:0?', '-fps_mode', 'passthrough', '-vf', filters.join(',')],
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '24', '-g', '30', '-pix_fmt', 'yuv420p'],
  ];
};
const AUDIO = ['-c:a', 'aac', '-b:a', '128k', '-ac', '2', '-movflags', '+faststart'];

/** Job: a version of footage or sound that every browser plays. */
export async function makeProxy(house: House, job: JobRow): Promise<void> {
  const file = await originalOf(house.db, job.itemId!);
  const kind = file.kind === 'sound' ? 'sound' : 'footage';
  const target = proxyFile(house, file.pictureKey, kind);
  const temporary = target.replace(/(\.\w+)$/, `.${newId()}$1`);
  await makeRenditionFolder(house, withoutChoice(file.pictureKey));
  try {
    const maps =
      kind === 'footage' ? videoOf(await probe(file.path, file.format)) : ['-map', '0:a:0', '-vn'];
    await withToolPath(file.path, (plain) =>
      runTool(
        'ffmpeg',
        ['-v', 'error', '-y', ...inputOf(file.format), '-i', plain, ...maps, ...AUDIO, temporary],
        { seconds: MOST_SECONDS },
      ),
    );
    await rename(temporary, target);
    await noteRenditions(house, withoutChoice(file.pictureKey), [
      { recipe: 'proxy', bytes: (await stat(target)).size },
    ]);
  } finally {
    await rm(temporary, { force: true });
  }
  await notifyItems(house.db, [file.itemId], ['picture']);
}
