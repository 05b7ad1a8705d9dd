import { z } from 'zod';
import type { Said } from '#core/footage/film';
import type { Technical } from '#core/records/technical';
import { withToolPath } from '../files/open';
import { runTool } from '../tools/run';
import { inputOf } from './demuxer';

const tagsSchema = z.record(z.string(), z.string()).optional();
const streamSchema = z.object({
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  profile: z.string().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  avg_frame_rate: z.string().optional(),
  r_frame_rate: z.string().optional(),
  sample_aspect_ratio: z.string().optional(),
  bits_per_raw_sample: z.string().optional(),
  pix_fmt: z.string().optional(),
  color_transfer: z.string().optional(),
  sample_rate: z.string().optional(),
  channels: z.number().optional(),
  channel_layout: z.string().optional(),
  tags: tagsSchema,
  side_data_list: z.array(z.object({ rotation: z.number().optional() })).optional(),
  disposition: z.object({ attached_pic: z.number().optional() }).optional(),
});
const probeSchema = z.object({
  streams: z.array(streamSchema).default([]),
  chapters: z
    .array(
      z.object({
        start_time: z.string().optional(),
        end_time: z.string().optional(),
        tags: tagsSchema,
      }),
    )
    .default([]),
  format: z
    .object({
      duration: z.string().optional(),
      start_time: z.string().optional(),
      tags: tagsSchema,
    })
    .default({}),
});
type Stream = z.infer<typeof streamSchema>;

export interface Probe {
  /** seconds */
  duration: number | null;
  /** When the file begins, s, by its own times. */
  start: number;
  /** px, upright, of square pixels */
  width: number | null;
  height: number | null;
  /** Width of a pixel ÷ its height. */
  shape: number;
  /** Curve of light as FFmpeg names it. */
  transfer?: string;
  /** A still picture lies in it, as covers of sound do. */
  hasCover: boolean;
  /** Chapters it tells of, those that end before they begin left out. */
  chapters: Said[];
  hasSubtitles: boolean;
  technical: Technical;
}

const ratio = (text: string | undefined, mark: '/' | ':'): number | undefined => {
  const [over, under] = (text ?? '').split(mark).map(Number);
  return over && under ? over / under : undefined;
};

/** How near a measured rate is to the base rate where it is the same, cut off at the ends. */
const SAME_RATE = 0.02;

/**
 * Frames per second. The average of a fragmented or short file is a little off: its base rate is meant. Where they
 * lie far apart the rate varies, and the average says more.
 */
function rateOf(stream: { avg_frame_rate?: string; r_frame_rate?: string }): number | undefined {
  const average = ratio(stream.avg_frame_rate, '/');
  const base = ratio(stream.r_frame_rate, '/');
  const isSame = average && base && Math.abs(average - base) / base < SAME_RATE;
  const rate = isSame ? base : (average ?? base);
  return rate ? Math.round(rate * 1000) / 1000 : undefined;
}

/** Width as shown: pixels of tape formats are not square. */
const shapeOf = (video: Stream | undefined): number => ratio(video?.sample_aspect_ratio, ':') ?? 1;

const RANGES: Record<string, Technical['dynamicRange']> = {
  smpte2084: 'PQ',
  'arib-std-b67': 'HLG',
};
/** Bits of a channel, as the stream or the name of its pixels tells them. */
const bitsOf = (video: Stream): number | undefined =>
  Number(video.bits_per_raw_sample) ||
  Number(/p(\d\d)[lb]e$/.exec(video.pix_fmt ?? '')?.[1]) ||
  undefined;

const languagesOf = (streams: Stream[]): string[] => [
  ...new Set(
    streams.flatMap(({ tags }) => {
      const language = tagOf(tags, 'language');
      return language && language !== 'und' ? [language] : [];
    }),
  ),
];

/** `10:00:00.000` since midnight, of samples (EBU Tech 3285, time reference). */
function clockOf(samples: number, perSecond: number): string {
  const seconds = samples / perSecond;
  const pad = (value: number): string => String(Math.floor(value)).padStart(2, '0');
  return `${pad(seconds / 3600)}:${pad((seconds / 60) % 60)}:${(seconds % 60).toFixed(3).padStart(6, '0')}`;
}

/** What FFprobe says of footage or sound of a format we recognised. @throws ArchiveError tool-failed */
export async function probe(path: string, format: string): Promise<Probe> {
  const asked = ['-print_format', 'json', '-show_format', '-show_streams', '-show_chapters'];
  const out = await withToolPath(path, (plain) =>
    runTool('ffprobe', ['-v', 'error', ...inputOf(format), ...asked, '-i', plain], {
      seconds: 60,
    }),
  );
  return probeOf(out);
}

const tagOf = (tags: Record<string, string> | undefined, name: string): string | undefined =>
  Object.entries(tags ?? {}).find(([key]) => key.toLowerCase() === name)?.[1];

/** Seconds and px beyond which a file is broken. */
const LONGEST = 1e7;
const MOST_EDGE = 100_000;
const MOST_CHAPTERS = 5000;
const LONGEST_TITLE = 2000;
const edge = (value: number | undefined): number | null =>
  value !== undefined && value > 0 && value <= MOST_EDGE ? Math.round(value) : null;

function probeOf(out: Buffer): Probe {
  const { streams, chapters, format } = probeSchema.parse(JSON.parse(out.toString()));
  const video = streams.find((s) => s.codec_type === 'video' && !s.disposition?.attached_pic);
  const audio = streams.find((s) => s.codec_type === 'audio');
  const turned =
    Math.abs(video?.side_data_list?.find((data) => data.rotation)?.rotation ?? 0) % 180 === 90;
  const timecode = [...streams.map((s) => s.tags?.['timecode']), format.tags?.['timecode']].find(
    Boolean,
  );
  const rate = video && rateOf(video);
  const reference = Number(tagOf(format.tags, 'time_reference') ?? NaN);
  const perSecond = Number(audio?.sample_rate);
  const languages = languagesOf(streams);
  const range = RANGES[video?.color_transfer ?? ''];
  const bits = video && bitsOf(video);
  const said: Technical = {
    frameRate: rate,
    timecode:
      timecode ?? (reference > 0 && perSecond > 0 ? clockOf(reference, perSecond) : undefined),
    videoCodec: video?.codec_name,
    videoProfile: video?.profile,
    bitDepth: bits,
    dynamicRange: range,
    audioCodec: audio?.codec_name,
    sampleRate: audio?.sample_rate ? Number(audio.sample_rate) : undefined,
    channels: audio?.channels,
    soundLayout: audio?.channel_layout,
    languages: languages.length > 0 ? languages : undefined,
    chapters: chapters.length || undefined,
  };
  const duration = Number(format.duration);
  const shape = shapeOf(video);
  const wide = video?.width && video.width * shape;
  return {
    duration: duration >= 0 && duration <= LONGEST ? duration : null,
    start: Number(format.start_time) || 0,
    width: edge(turned ? video?.height : wide),
    height: edge(turned ? wide : video?.height),
    shape,
    transfer: video?.color_transfer,
    chapters: chapters.slice(0, MOST_CHAPTERS).flatMap(({ start_time, end_time, tags }) => {
      const [from, to] = [Number(start_time), Number(end_time)];
      const text = (tagOf(tags, 'title') ?? '').slice(0, LONGEST_TITLE);
      return from >= 0 && to > from ? [{ from, to, text }] : [];
    }),
    hasSubtitles: streams.some(({ codec_type }) => codec_type === 'subtitle'),
    hasCover: streams.some(({ disposition }) => disposition?.attached_pic === 1),
    technical: Object.fromEntries(
      Object.entries(said).filter(([, value]) => value !== undefined),
    ) as Technical,
  };
}
