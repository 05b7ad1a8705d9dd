import { format, type Format, type Head } from './format';

/** Packets of 188 bytes, each begun by 0x47 (ISO/IEC 13818-1); cameras put four bytes of time before each. */
const isTransportStream = ({ bytes }: Head): boolean =>
  [
    [0, 188],
    [4, 192],
  ].some(([first, size]) =>
    [0, 1, 2, 3].every((packet) => bytes[first! + packet * size!] === 0x47),
  );

const film = (reader: string) => ({ picture: 'film', look: 'film', reader }) as const;
const sound = (reader: string) => ({ picture: 'wave', look: 'sound', reader }) as const;

export const SOUNDS: readonly Format[] = [
  format('m4a', 'sound', 'audio/mp4', 'MPEG-4 audio', 'm4a m4b', {
    ...sound('mov'),
    looks: (head) =>
      /^M4[AB] $/.test(head.brand) || (head.brand !== '' && head.extension === 'm4a'),
  }),
  format('wav', 'sound', 'audio/wav', 'WAV', 'wav bwf rf64', {
    ...sound('wav'),
    looks: (head) => head.riff === 'WAVE',
  }),
  format('aiff', 'sound', 'audio/aiff', 'AIFF', 'aif aiff aifc', {
    ...sound('aiff'),
    looks: (head) => head.at(0, 'FORM') && /^AIF[FC]$/.test(head.ascii(8, 4)),
  }),
  format('flac', 'sound', 'audio/flac', 'FLAC', 'flac', {
    ...sound('flac'),
    looks: (head) => head.at(0, 'fLaC'),
  }),
  format('ogg', 'sound', 'audio/ogg', 'Ogg', 'ogg oga opus spx', {
    ...sound('ogg'),
    looks: (head) => head.at(0, 'OggS'),
  }),
  format('mp3', 'sound', 'audio/mpeg', 'MP3', 'mp3', {
    ...sound('mp3'),
    looks: (head) => head.at(0, 'ID3') || head.starts(0xff, 0xfb) || head.starts(0xff, 0xf3),
  }),
];

export const FILMS: readonly Format[] = [
  format('mov', 'footage', 'video/quicktime', 'QuickTime', 'mov qt', {
    ...film('mov'),
    embeds: 'xmp',
    looks: (head) => head.brand === 'qt  ' || /^(moov|mdat|wide|free|skip)$/.test(head.ascii(4, 4)),
  }),
  format('mp4', 'footage', 'video/mp4', 'MP4', 'mp4 m4v 3gp 3g2 f4v', {
    ...film('mov'),
    embeds: 'xmp',
    looks: (head) => head.brand !== '',
  }),
  format('avi', 'footage', 'video/x-msvideo', 'AVI', 'avi', {
    ...film('avi'),
    looks: (head) => head.riff === 'AVI ',
  }),
  format('webm', 'footage', 'video/webm', 'WebM', 'webm', {
    ...film('matroska'),
    looks: (head) => head.starts(0x1a, 0x45, 0xdf, 0xa3) && head.ascii(0, 64).includes('webm'),
  }),
  format('mkv', 'footage', 'video/x-matroska', 'Matroska', 'mkv mka mk3d', {
    ...film('matroska'),
    looks: (head) => head.starts(0x1a, 0x45, 0xdf, 0xa3),
  }),
  format('mxf', 'footage', 'application/mxf', 'MXF', 'mxf', {
    ...film('mxf'),
    looks: (head) => head.starts(0x06, 0x0e, 0x2b, 0x34),
  }),
  format('mpeg', 'footage', 'video/mpeg', 'MPEG', 'mpg mpeg vob', {
    ...film('mpeg'),
    looks: (head) => head.starts(0, 0, 1, 0xba),
  }),
  format('mpegVideo', 'footage', 'video/mpeg', 'MPEG video', 'mpv m2v mpg mpeg', {
    ...film('mpegvideo'),
    looks: (head) => head.starts(0, 0, 1, 0xb3),
  }),
  format('mpegTs', 'footage', 'video/mp2t', 'MPEG-TS', 'ts mts m2ts m2t', {
    ...film('mpegts'),
    looks: isTransportStream,
  }),
  format('dv', 'footage', 'video/dv', 'DV', 'dv dif', {
    ...film('dv'),
    looks: (head) => head.starts(0x1f, 0x07, 0x00),
  }),
  format('asf', 'footage', 'video/x-ms-asf', 'ASF', 'asf wmv wma', {
    ...film('asf'),
    looks: (head) => head.starts(0x30, 0x26, 0xb2, 0x75, 0x8e, 0x66, 0xcf, 0x11),
  }),
  format('r3d', 'footage', 'application/octet-stream', 'R3D', 'r3d', {
    looks: (head) => /^RED[12]$/.test(head.ascii(4, 4)),
  }),
];
