import { createHash } from 'node:crypto';
import { describe, expect, it } from 'vitest';
import { library } from '../../demo/library';
import { random, seedOf } from '../../demo/paint/random';
import { noise } from '../../demo/paint/noise';
import { takePicture } from '../../demo/paint/render';
import { LIGHTS } from '../../demo/paint/light';
import { SCENES } from '../../demo/paint/scenes';
import { CARD_CLIPS, CLIPS, SOUNDS } from '../../demo/media';
import { parseWallClock } from '#core/records/taken';

const digest = (value: string | Buffer): string => createHash('sha256').update(value).digest('hex');

describe('the demo library', () => {
  const whole = library();

  it('is the same each time it is thought out', () => {
    expect(digest(JSON.stringify(library()))).toBe(digest(JSON.stringify(whole)));
    expect(digest(JSON.stringify(library(true)))).toBe(digest(JSON.stringify(library(true))));
  });

  it('is as large and as varied as a team’s real year', () => {
    const { shelf, travel, card, phone } = whole;
    const archive = [...shelf, ...travel];
    expect(archive.length).toBeGreaterThanOrEqual(240);
    expect(card.length).toBeGreaterThanOrEqual(60);
    expect(phone.length).toBeGreaterThan(0);
    expect(new Set(archive.map(({ scene }) => scene.subject)).size).toBeGreaterThanOrEqual(8);
    expect(new Set(archive.map(({ scene }) => scene.light)).size).toBeGreaterThanOrEqual(4);
    expect(new Set(archive.map(({ taken }) => taken.slice(0, 7))).size).toBeGreaterThanOrEqual(6);
    expect(CLIPS.length).toBeGreaterThanOrEqual(8);
    expect(CARD_CLIPS.length).toBeGreaterThanOrEqual(4);
    expect(SOUNDS.length).toBeGreaterThanOrEqual(6);
  });

  it('has the mess of real archives: twins, missing credits, a wrong clock', () => {
    const archive = [...whole.shelf, ...whole.travel];
    const paths = archive.map(({ path }) => path);
    expect(new Set(paths).size).toBe(paths.length);
    const twins = archive.filter(({ twinOf }) => twinOf);
    expect(twins.length).toBeGreaterThan(0);
    for (const { twinOf } of twins) expect(paths).toContain(twinOf);
    const described = archive.flatMap(({ described: record }) => record ?? []);
    expect(described.some(({ credit }) => credit === '')).toBe(true);
    expect(described.some(({ credit }) => credit !== '')).toBe(true);
    expect(archive.some(({ position }) => position === null)).toBe(true);
    for (const { taken } of archive)
      expect(
        parseWallClock(taken.replace(/^(\d+):(\d+):/, '$1-$2-').replace(' ', 'T')),
      ).not.toBeNull();
  });
});

describe('chance that repeats', () => {
  it('gives one seed one sequence, spread over its range', () => {
    const first = random(7);
    const second = random(7);
    const values = Array.from({ length: 2000 }, () => first.next());
    expect(Array.from({ length: 2000 }, () => second.next())).toEqual(values);
    expect(Math.min(...values)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...values)).toBeLessThan(1);
    const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
    expect(mean).toBeGreaterThan(0.45);
    expect(mean).toBeLessThan(0.55);
    expect(seedOf('dusk')).toBe(seedOf('dusk'));
    expect(seedOf('dusk')).not.toBe(seedOf('dawn'));
  });

  it('draws noise without steps', () => {
    const { at } = noise(3) as unknown as { at: (x: number, y: number) => number };
    for (let x = 0; x < 20; x += 0.37)
      expect(Math.abs(at(x, 1.5) - at(x + 0.001, 1.5))).toBeLessThan(0.02);
  });
});

describe('painting', () => {
  it('draws one scene and shot the same to the byte, and another seed differently', async () => {
    const scene = SCENES[0]!;
    const shot = { ...library(true).shelf[0]!.shot, width: 300, height: 200 };
    const one = digest(await takePicture(scene, shot));
    expect(digest(await takePicture(scene, shot))).toBe(one);
    expect(digest(await takePicture(scene, { ...shot, seed: shot.seed + 1 }))).not.toBe(one);
  }, 60_000);

  it('knows a light for every scene', () => {
    for (const { light } of SCENES) expect(Object.keys(LIGHTS)).toContain(light);
    expect(new Set(SCENES.map(({ key }) => key)).size).toBe(SCENES.length);
  });
});
