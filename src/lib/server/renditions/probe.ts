import { z } from 'zod';
import type { Technical } from '#core/records/technical';
import { withToolPath } from '../files/open';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';

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

/** What FFprobe says of footage or sound of a format we recognised. @throws ArchiveError tool-failed */
export async function probe(path: string, format: string): Promise<Probe> {
  const asked = ['-print_format', 'json', '-show_format', '-show_streams'];
  const out = await withToolPath(path, (plain) =>
    runTool('ffprobe', ['-v', 'error', ...inputOf(format), ...asked, '-i', plain], {
      seconds: 60,
    }),
  );
  return probeOf(out);
}

/** Seconds and px beyond which a file is broken. */
const LONGEST = 1e7;
const MOST_EDGE = 100_000;
const edge = (value: number | undefined): number | null =>
  value !== undefined && value > 0 && value <= MOST_EDGE ? Math.round(value) : null;

function probeOf(out: Buffer): Probe {
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
    duration: duration >= 0 && duration <= LONGEST ? duration : null,
    width: edge(turned ? video?.height : video?.width),
    height: edge(turned ? video?.width : video?.height),
    technical,
  };
}
