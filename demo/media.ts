import { createWriteStream } from 'node:fs';
import { copyFile, mkdir, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { runTool } from '#server/tools/run';
import { takePicture } from './paint/render';
import { random, seedOf } from './paint/random';
import { SCENES, type Subject } from './paint/scenes';
import { kite, KITE_SHAPES, SAILS } from './paint/things';

/** What is not a still photograph: clips, sounds, patterns, sheets, a font, a layout folder. */
const WIDTH = 1280;
const HEIGHT = 720;

interface Clip {
  name: string;
  subject: Subject;
  light: string;
  seconds: number;
  timecode: string;
  codec: 'h264' | 'prores';
  taken: string;
}

const clip = (
  name: string,
  subject: Subject,
  light: string,
  seconds: number,
  timecode: string,
  taken: string,
  codec: Clip['codec'] = 'h264',
): Clip => ({
  name,
  subject,
  light,
  seconds,
  timecode,
  codec,
  taken,
});

export const CLIPS: Clip[] = [
  clip(
    'Launch from the breakwater.mov',
    'harbour',
    'golden',
    5,
    '10:42:00:00',
    '2026-09-12T17:42:00+01:00',
  ),
  clip('Climb past the lamp.mp4', 'harbour', 'dusk', 4, '10:43:02:11', '2026-09-12T18:43:02+01:00'),
  clip('Crowd turns.mp4', 'festival', 'breeze', 5, '10:44:40:02', '2026-09-11T14:44:40+01:00'),
  clip('Low tide pass.mp4', 'flats', 'clear', 4, '11:02:10:00', '2026-09-11T15:02:10+01:00'),
  clip('Night lamps.mov', 'night', 'blue', 4, '21:30:00:00', '2026-09-12T21:30:00+01:00'),
  clip('Dune ridge.mp4', 'dunes', 'dusk', 5, '18:05:12:10', '2026-09-12T19:05:12+01:00'),
  clip(
    'Sail test high.mov',
    'sky',
    'clear',
    3,
    '09:15:00:00',
    '2026-09-10T09:15:00+01:00',
    'prores',
  ),
  clip('Squall line.mp4', 'sea', 'storm', 4, '16:20:03:00', '2026-05-09T16:20:03+01:00'),
];

export const CARD_CLIPS: Clip[] = [
  clip('CLIP0021.MP4', 'festival', 'golden', 5, '15:02:00:00', '2026-09-13T15:02:00+01:00'),
  clip('CLIP0022.MP4', 'sky', 'golden', 4, '15:10:00:00', '2026-09-13T15:10:00+01:00'),
  clip('CLIP0023.MP4', 'dunes', 'dawn', 4, '06:31:00:00', '2026-09-14T06:31:00+01:00'),
  clip('CLIP0024.MP4', 'sea', 'breeze', 4, '07:02:00:00', '2026-09-14T07:02:00+01:00'),
];

/** A still ground, kites that sway over it, wind in the sound. */
export async function makeClip(entry: Clip, target: string, work: string): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const seed = seedOf(entry.name);
  const r = random(seed);
  const base = join(work, `${seed}.jpg`);
  const sprite = join(work, `${seed}.png`);
  const scene =
    SCENES.find(({ subject, light }) => subject === entry.subject && light === entry.light) ??
    SCENES[0]!;
  await writeFile(
    base,
    await takePicture(scene, {
      seed,
      t: 0,
      crop: { x: 0.5, y: 0.5, width: 0.96 },
      width: 1408,
      height: 792,
      exposure: 0,
      warmth: 0,
      grain: 2,
      blur: 0,
    }),
  );
  const svg = `<svg xmlns="http://www.w3.org/2000/svg" width="420" height="640">${kite({ x: 210, y: 200, size: 170, shape: r.pick(KITE_SHAPES), sail: r.pick(SAILS), turn: 0, seed })}</svg>`;
  await sharp(Buffer.from(svg)).png().toFile(sprite);
  const filter = [
    // Decoded once and shown again: a looped input would be decoded for every frame.
    `[0:v]loop=-1:1:0,fps=25,crop=${WIDTH}:${HEIGHT}:x='64+50*sin(t*0.35)':y='36+24*sin(t*0.5)',setsar=1[g]`,
    `[1:v]loop=-1:1:0,fps=25,format=rgba,rotate='0.16*sin(t*1.7)':c=none:ow=rotw(0.2):oh=roth(0.2)[k]`,
    `[g][k]overlay=x='${r.int(300, 620)}+150*sin(t*0.8)':y='${r.int(-30, 30)}+60*sin(t*1.3)',noise=alls=5:allf=t,format=yuv420p[v]`,
    `[2:a]lowpass=f=520,tremolo=f=0.35:d=0.7,volume=0.7[a]`,
  ].join(';');
  const video =
    entry.codec === 'prores'
      ? ['-c:v', 'prores', '-profile:v', '0', '-pix_fmt', 'yuv422p10le']
      : ['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '23'];
  const audio = entry.name.toLowerCase().endsWith('.mov')
    ? ['-c:a', 'pcm_s16le']
    : ['-c:a', 'aac', '-b:a', '128k'];
  await runTool(
    'ffmpeg',
    [
      ...['-v', 'error', '-y', '-threads', '1', '-framerate', '25', '-i', base],
      ...['-framerate', '25', '-i', sprite],
      ...['-f', 'lavfi', '-i', `anoisesrc=color=brown:seed=${seed % 10_000}:amplitude=0.6`],
      ...[
        '-filter_complex',
        filter,
        '-map',
        '[v]',
        '-map',
        '[a]',
        '-t',
        String(entry.seconds),
        '-r',
        '25',
      ],
      ...video,
      ...audio,
      ...['-ar', '48000', '-timecode', entry.timecode, '-metadata', `creation_time=${entry.taken}`],
      ...['-fflags', '+bitexact', '-flags:v', '+bitexact', '-flags:a', '+bitexact', target],
    ],
    { seconds: 180 },
  );
}

export const SOUNDS = [
  {
    name: 'Wind on the ridge.wav',
    source: 'anoisesrc=color=pink:seed=11:amplitude=0.5,lowpass=f=700,tremolo=f=0.3:d=0.8',
    seconds: 12,
  },
  {
    name: 'Wind in the marram.wav',
    source: 'anoisesrc=color=white:seed=12:amplitude=0.25,highpass=f=1500,tremolo=f=0.7:d=0.9',
    seconds: 10,
  },
  {
    name: 'Sewing machine.wav',
    source:
      "aevalsrc='0.35*sin(2*PI*86*t)*(0.5+0.5*sin(2*PI*13*t))+0.12*sin(2*PI*430*t)*gt(sin(2*PI*13*t),0.6)'",
    seconds: 9,
  },
  {
    name: 'Line hum.flac',
    source: "aevalsrc='0.3*sin(2*PI*(112+6*sin(2*PI*0.6*t))*t)+0.12*sin(2*PI*224*t)'",
    seconds: 8,
  },
  {
    name: 'Drum call.wav',
    source: "aevalsrc='0.8*sin(2*PI*62*t)*exp(-9*mod(t\\,0.75))'",
    seconds: 8,
  },
  {
    name: 'Harbour morning.aiff',
    source: 'anoisesrc=color=brown:seed=15:amplitude=0.7,lowpass=f=320,tremolo=f=0.18:d=0.6',
    seconds: 11,
  },
];

export async function makeSound(entry: (typeof SOUNDS)[number], target: string): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  await runTool(
    'ffmpeg',
    [
      ...[
        '-v',
        'error',
        '-y',
        '-f',
        'lavfi',
        '-i',
        entry.source,
        '-t',
        String(entry.seconds),
        '-ar',
        '48000',
        '-ac',
        '2',
      ],
      ...['-metadata', 'date=2026-09-11', '-fflags', '+bitexact', '-flags:a', '+bitexact', target],
    ],
    { seconds: 60 },
  );
}

/** One of twelve sail patterns, as the workshop cuts them. */
export async function makePattern(number: number, target: string): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const sail = SAILS[number % SAILS.length]!;
  const drawn = kite({
    x: 500,
    y: 430,
    size: 430,
    shape: KITE_SHAPES[number % KITE_SHAPES.length]!,
    sail,
    turn: 0,
    seed: 40 + number,
    tail: false,
  });
  const grid = Array.from(
    { length: 21 },
    (_, at) =>
      `<path d="M${at * 50} 0V1000M0 ${at * 50}H1000" stroke="#3c5a80" stroke-opacity=".16"/>`,
  ).join('');
  await writeFile(
    target,
    `<svg xmlns="http://www.w3.org/2000/svg" width="1000" height="1000" viewBox="0 0 1000 1000"><title>Sail pattern ${number + 1}</title><rect width="1000" height="1000" fill="#f6f1e4"/>${grid}${drawn}<path d="M60 905H360" stroke="#1d2320" stroke-width="3"/><path d="M60 890v30M360 890v30" stroke="#1d2320" stroke-width="3"/></svg>\n`,
  );
}

export const SHEETS = ['Brand sheet', 'Colour sheet', 'Sail weights', 'Wind Week programme'];

export async function makeSheet(title: string, target: string): Promise<void> {
  await mkdir(dirname(target), { recursive: true });
  const sail = SAILS[seedOf(title) % SAILS.length]!;
  const document = new PDFDocument({
    size: 'A4',
    margin: 56,
    info: {
      Title: title,
      Author: 'Saltreach Kites',
      CreationDate: new Date('2026-02-02T09:00:00Z'),
      ModDate: new Date('2026-02-02T09:00:00Z'),
    },
  });
  const stream = document.pipe(createWriteStream(target));
  document.rect(0, 0, 595, 190).fill(sail[0]!);
  sail.forEach((colour, index) => document.rect(56 + index * 98, 230, 86, 120).fill(colour));
  document.fillColor('#ffffff').font('Times-Italic').fontSize(42).text(title, 56, 96);
  document.fillColor('#1d2320').font('Helvetica').fontSize(12);
  document.text(
    'Saltreach Kites keeps its colours few and its seams straight. Cloth is named by weight, thread by number, and every sail carries the maker’s mark at the lower spar pocket.',
    56,
    390,
    { width: 480, lineGap: 5 },
  );
  document.end();
  await new Promise<void>((resolve, reject) =>
    stream.on('finish', () => resolve()).on('error', reject),
  );
}

/** A layout with what it links to: one folder that belongs together. */
export async function makeLayout(folder: string, picture: string, font: string): Promise<void> {
  await mkdir(join(folder, 'Links'), { recursive: true });
  await mkdir(join(folder, 'Fonts'), { recursive: true });
  await copyFile(font, join(folder, 'Fonts', 'Newsreader Latin.woff2'));
  await sharp(picture)
    .resize(1200)
    .jpeg({ quality: 82 })
    .toFile(join(folder, 'Links', 'chapter-opening.jpg'));
  await writeFile(
    join(folder, 'Chapter 2.html'),
    '<!doctype html>\n<html lang="en"><head><meta charset="utf-8"><title>Festival book, chapter 2</title></head>\n<body><h1>Harbour flights</h1><img src="Links/chapter-opening.jpg" alt="Opening picture of chapter 2"></body></html>\n',
  );
}
