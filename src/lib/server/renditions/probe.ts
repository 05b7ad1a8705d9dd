import { z } from 'zod';
import type { Technical } from '#core/records/technical';
import { runTool } from '../tools/run';

const streamSchema = z.object({
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  avg_frame_rate: z.string().optional(),
  sample_rate: z.string().optional(),
  channels: z.number().optional(),
  tags: z.record(z.string(), z.string()).optional(),
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
  disposition: z.object({ attached_pic: z.number().optional() }).optional(),
});
const probeSchema = z.object({
  streams: z.array(streamSchema).default([]),
  format: z
    .object({ duration: z.string().optional(), tags: z.record(z.string(), z.string()).optional() })
    .default({}),
});

export interface Probe {
  /** seconds */
  duration: number | null;
  /** px, upright */
  width: number | null;
  height: number | null;
  technical: Technical;
}

function rate(text: string | undefined): number | undefined {
  const [over, under] = (text ?? '').split('/').map(Number);
  return over && under ? Math.round((over / under) * 1000) / 1000 : undefined;
}

/** Only local files, whatever a playlist inside asks for. */
export const FILE_ONLY = ['-protocol_whitelist', 'file'];

/** What FFprobe says of footage or sound. @throws ArchiveError tool-failed */
export async function probe(path: string): Promise<Probe> {
  const out = await runTool(
    'ffprobe',
    [
      '-v',
      'error',
      ...FILE_ONLY,
      '-print_format',
      'json',
      '-show_format',
      '-show_streams',
      '-i',
      path,
    ],
    { seconds: 60 },
  );
  const { streams, format } = probeSchema.parse(JSON.parse(out.toString()));
  const video = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  const audio = streams.find((s) => s.codec_type === 'audio');
  const turned =
    Math.abs(video?.side_data_list?.find((data) => data.rotation)?.rotation ?? 0) % 180 === 90;
  const timecode = [...streams.map((s) => s.tags?.['timecode']), format.tags?.['timecode']].find(
    Boolean,
  );
  const technical: Technical = {
    ...(video && rate(video.avg_frame_rate) ? { frameRate: rate(video.avg_frame_rate)! } : {}),
    ...(timecode ? { timecode } : {}),
    ...(video?.codec_name ? { videoCodec: video.codec_name } : {}),
    ...(audio?.codec_name ? { audioCodec: audio.codec_name } : {}),
    ...(audio?.sample_rate ? { sampleRate: Number(audio.sample_rate) } : {}),
    ...(audio?.channels ? { channels: audio.channels } : {}),
  };
  const duration = Number(format.duration);
  return {
    duration: Number.isFinite(duration) ? duration : null,
    width: (turned ? video?.height : video?.width) ?? null,
    height: (turned ? video?.width : video?.height) ?? null,
    technical,
  };
}
