import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { parsePosition } from '#core/geo/position';
import type { FileFacts } from '#core/intake/facts';
import { readFacts } from '#server/metadata/facts';
import { endExiftool } from '#server/metadata/exiftool';
import { probe } from '#server/renditions/probe';

/**
 * What is read of real camera files and clips against what is known of them, field by field. The files are not part
 * of the application: the check runs where MINDFUL_SAMPLES names their folder.
 */
const SAMPLES = process.env['MINDFUL_SAMPLES'] ?? '';
const isThere = existsSync(join(SAMPLES, 'camera/truth.json'));
if (!isThere) console.log('left out: agreement with real files (MINDFUL_SAMPLES names no samples)');

/** Share of files in which a field must agree; of few files one may differ. */
const WANTED = 0.98;

interface Truth {
  file: string;
  make?: string;
  model?: string;
  taken?: string;
  gps?: [number, number];
  lens?: string;
  keywordsXmp?: string[];
  keywordsIim?: string[];
  creator?: string[];
  title?: string;
  orientation?: number;
  width?: number;
  height?: number;
}

const sorted = (list: string[]): string => JSON.stringify([...new Set(list)].sort());

/** Of each field the truth has, whether it was read so. */
function agreements(truth: Truth, facts: FileFacts): Record<string, boolean> {
  const { record, technical } = facts;
  const found: Record<string, boolean> = {};
  if (truth.make) found['make'] = technical.make === truth.make;
  if (truth.model) found['model'] = technical.model === truth.model;
  if (truth.taken && !truth.taken.startsWith('0000')) {
    const day = truth.taken.replace(':', '-').replace(':', '-').replace(' ', 'T').slice(0, 19);
    found['taken'] = record.taken?.from.startsWith(day) ?? false;
  }
  if (truth.gps) {
    const [latitude, longitude] = truth.gps;
    const at = parsePosition(record.position);
    found['gps'] =
      Math.abs((at?.latitude ?? 999) - latitude) < 1e-4 &&
      Math.abs((at?.longitude ?? 999) - longitude) < 1e-4;
  }
  if (truth.lens) found['lens'] = technical.lens === truth.lens;
  const words = [truth.keywordsXmp, truth.keywordsIim].filter((list) => list !== undefined);
  if (words.length > 0)
    found['keywords'] = words.some((list) => sorted(list) === sorted(record.terms));
  if (truth.creator) found['creator'] = sorted(record.creator) === sorted(truth.creator);
  if (truth.title) found['title'] = record.title === truth.title;
  if (truth.orientation !== undefined)
    found['orientation'] = facts.orientation === (truth.orientation || 1);
  if (truth.width && facts.width)
    found['size'] =
      [facts.width, facts.height!].sort().join() === [truth.width, truth.height!].sort().join();
  return found;
}

describe.runIf(isThere)('agreement with real files', () => {
  afterAll(endExiftool);

  it('is nearly whole in every field of what cameras wrote', async () => {
    const folder = join(SAMPLES, 'camera');
    const truths = JSON.parse(readFileSync(join(folder, 'truth.json'), 'utf8')) as Truth[];
    const counts: Record<string, { good: number; all: number; wrong: string[] }> = {};
    for (const truth of truths) {
      const facts = await readFacts(join(folder, truth.file), null);
      for (const [field, agrees] of Object.entries(agreements(truth, facts))) {
        const count = (counts[field] ??= { good: 0, all: 0, wrong: [] });
        count.all += 1;
        if (agrees) count.good += 1;
        else count.wrong.push(truth.file);
      }
    }
    for (const [field, { good, all, wrong }] of Object.entries(counts)) {
      console.log(`${field}: ${good} of ${all}${wrong.length ? `, not ${wrong.join(', ')}` : ''}`);
      const mayDiffer = Math.max(1, Math.floor(all * (1 - WANTED)));
      expect([field, all - good <= mayDiffer]).toEqual([field, true]);
    }
    expect(Object.keys(counts)).toHaveLength(10);
  });

  it('is whole in rate, size, length and timecode of clips', async () => {
    const folder = join(SAMPLES, 'clips');
    const names = readdirSync(folder).filter((name) => name.endsWith('.truth.json'));
    for (const name of names) {
      const file = name.replace('.truth.json', '');
      const truth = JSON.parse(readFileSync(join(folder, name), 'utf8')) as {
        streams: {
          codec_type: string;
          width?: number;
          height?: number;
          r_frame_rate: string;
          avg_frame_rate: string;
          tags?: Record<string, string>;
        }[];
        format: { duration: string };
      };
      const { format } = await readFacts(join(folder, file), null);
      const found = await probe(join(folder, file), format);
      const video = truth.streams.find(({ codec_type }) => codec_type === 'video');
      expect([file, found.duration]).toEqual([file, Number(truth.format.duration)]);
      if (!video) continue;
      expect([found.width, found.height].sort()).toEqual([video.width, video.height].sort());
      const [over, under] = (file === 'vfr.mp4' ? video.avg_frame_rate : video.r_frame_rate)
        .split('/')
        .map(Number);
      expect([file, found.technical.frameRate]).toEqual([
        file,
        Math.round((over! / under!) * 1000) / 1000,
      ]);
      expect([file, found.technical.timecode]).toEqual([file, video.tags?.['timecode']]);
    }
  });
});
