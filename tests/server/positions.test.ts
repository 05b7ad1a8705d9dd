import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { NO_NAMES, type PositionWish } from '#core/positions/wish';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { listedSpots, saveSpot } from '#server/lists/spots';
import { writeTagsTo } from '#server/metadata/exiftool';
import { readFacts } from '#server/metadata/facts';
import { positionsPreview, setPositions } from '#server/positions/positions';
import { dropTrack, keepTrack, keptTracks } from '#server/positions/tracks';
import { changeRecords, readRecords } from '#server/records/records';
import { KEEPER, bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2, writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
let root = '';
const positions = async (): Promise<string[]> => {
  const records = await readRecords(db(), ids);
  return ids.map((id) => records.find((one) => one.id === id)!.values.position);
};
const point = (minute: number, latitude: number, longitude: number): string =>
  `<trkpt lat="${latitude}" lon="${longitude}"><ele>4</ele><time>2026-09-12T10:${String(minute).padStart(2, '0')}:00Z</time></trkpt>`;
const GPX = `<?xml version="1.0"?><gpx version="1.1" creator="receiver" xmlns="http://www.topografix.com/GPX/1/1">
<trk><name>Over the flats</name><trkseg>${point(0, 54.3, 10.1)}${point(2, 54.32, 10.14)}</trkseg>
<trkseg>${point(40, 54.4, 10.2)}<trkpt lat="99" lon="0"><time>2026-09-12T10:41:00Z</time></trkpt></trkseg></trk></gpx>`;

beforeAll(async () => {
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3, 4]) await writeJpeg(join(source, `walk-${at}.jpg`), at);
  await bringIn(archive, source, { mode: 'copy', place: await placeNamed(archive, 'Placed') });
  root = join(archive.folder, 'Placed');
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
  const times = ['12:01:00', '12:20:00', '12:40:30', ''];
  for (const [at, id] of ids.entries())
    await changeRecords(db(), null, asSeen([id]), {
      taken: times[at] ? `2026-09-12 ${times[at]}` : '2026-09-12',
    });
});

describe('positions', () => {
  it('come from a track with a gap: seen before, one step, given back; files say them', async () => {
    const kept = await keepTrack(db(), null, { name: 'walk.gpx', text: GPX });
    expect(kept).toMatchObject({ name: 'Over the flats', points: 3, stretches: 2, left: 1 });
    // The same file is the same track.
    expect((await keepTrack(db(), null, { name: 'again.gpx', text: GPX })).id).toBe(kept.id);
    const wish: PositionWish = {
      ...{ act: 'track', track: kept.id, clock: 0, offset: 120 },
      ...{ gap: 600, beyond: 60, over: false },
    };
    const seen = await positionsPreview(db(), asSeen(ids), wish, NO_NAMES);
    expect(seen.lines.map(({ after }) => after)).toEqual(['54.31, 10.12', '', '54.4, 10.2', '']);
    expect(seen.lines.map(({ problem }) => problem)).toEqual([
      ...[null, 'the track is 18 min away from it', null, 'its time of day is not known'],
    ]);
    expect(seen).toMatchObject({ changed: 2, problems: 2 });
    expect(await positions()).toEqual(['', '', '', '']);
    const { fingerprint } = seen;
    const done = await setPositions(db(), null, asSeen(ids), {
      wish,
      naming: NO_NAMES,
      fingerprint,
    });
    await idle(archive);
    expect(await positions()).toEqual(['54.31, 10.12', '', '54.4, 10.2', '']);
    const tags = exiv2(join(root, 'walk-1.jpg'));
    expect(tags).toMatchObject({
      'Exif.GPSInfo.GPSLatitude': '54deg 18\' 36"',
      'Exif.GPSInfo.GPSLatitudeRef': 'North',
      'Xmp.exif.GPSLongitude': '10,7.2E',
    });
    // What the file says is what is held: nothing differs, near and box find it.
    const facts = await readFacts(join(root, 'walk-1.jpg'), null);
    expect(facts.record.position).toBe('54.31, 10.12');
    expect(await findIds(db(), HOUSE, parseQuery('position near 54.31, 10.12, 1'))).toEqual([
      ids[0],
    ]);
    await undo(db(), null, done!.operationId);
    await idle(archive);
    expect(await positions()).toEqual(['', '', '', '']);
    expect(JSON.stringify(exiv2(join(root, 'walk-1.jpg')))).not.toMatch(/GPSL(at|ong)itude/);
    await setPositions(db(), null, asSeen(ids), { wish, naming: NO_NAMES });
    await expect(dropTrack(db(), KEEPER.id, kept.id)).rejects.toMatchObject({ code: 'not-found' });
    await dropTrack(db(), null, kept.id);
    expect(await keptTracks(db(), null)).toEqual([]);
  });

  it('south and west are written so, and read so by another tool', async () => {
    await changeRecords(db(), null, asSeen([ids[3]!]), { position: '-33.8688, -70.6693' });
    await idle(archive);
    const tags = exiv2(join(root, 'walk-4.jpg'));
    expect(tags).toMatchObject({
      'Exif.GPSInfo.GPSLatitudeRef': 'South',
      'Exif.GPSInfo.GPSLongitudeRef': 'West',
    });
    expect((await readFacts(join(root, 'walk-4.jpg'), null)).record.position).toBe(
      '-33.8688, -70.6693',
    );
  });

  it('come from what was taken nearest in time; names from kept places and the gazetteer', async () => {
    const { id } = await saveSpot(db(), null, null, {
      ...{ name: 'The workshop', latitude: 54.31, longitude: 10.12, radius: 500 },
      ...{ sublocation: '', city: '', state: 'The coast', country: '', note: '' },
    });
    const wish: PositionWish = { act: 'neighbours', minutes: 30 };
    const naming = { into: ['created' as const], over: false };
    const seen = await positionsPreview(db(), asSeen([ids[1]!]), wish, naming);
    expect(seen.lines[0]).toMatchObject({ before: '', after: '54.31, 10.12' });
    await setPositions(db(), null, asSeen(ids.slice(0, 2)), { wish, naming });
    const [first, second] = await readRecords(db(), ids.slice(0, 2));
    for (const { values } of [first!, second!])
      expect(values).toMatchObject({
        createdSublocation: 'The workshop',
        createdState: 'The coast',
        createdCountry: 'Germany',
      });
    expect(first!.values.createdCity).not.toBe('');
    expect(
      (await positionsPreview(db(), asSeen([ids[1]!]), { act: 'neighbours', minutes: 30 }, naming))
        .changed,
    ).toBe(0);
    const { done } = await saveSpot(db(), null, id, null);
    expect(await listedSpots(db())).toEqual([]);
    await undo(db(), null, done!.operationId);
    expect(await listedSpots(db())).toMatchObject([{ id, name: 'The workshop', radius: 500 }]);
  });

  it('are refused where somebody changed something since', async () => {
    const wish: PositionWish = { act: 'set', text: '1, 2' };
    const { fingerprint } = await positionsPreview(db(), asSeen(ids), wish, NO_NAMES);
    await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Meanwhile' });
    await expect(
      setPositions(db(), null, asSeen(ids), { wish, naming: NO_NAMES, fingerprint }),
    ).rejects.toMatchObject({ code: 'conflict' });
  });

  it.each([
    ['no XML at all', 'It is no GPX file.'],
    ['<html><body>404</body></html>', 'It is no GPX file.'],
    [GPX.replaceAll(/<time>.*?<\/time>/g, ''), 'It holds no track whose points tell their times.'],
    ['<!DOCTYPE x [<!ENTITY a "b">]><gpx/>', 'A track has no document type; it was not read.'],
  ])('a track is not read from %s', async (text, why) => {
    await expect(keepTrack(db(), null, { name: 'x.gpx', text })).rejects.toMatchObject({
      code: 'file-unreadable',
      message: why,
    });
  });
});

describe('a text in other languages', () => {
  it('is read, kept when the text is changed, written and read by another tool', async () => {
    const path = join(root, 'walk-2.jpg');
    const id = ids[1]!;
    await changeRecords(db(), null, asSeen([id]), {
      title: 'The jetty',
      titleIn: { fr: 'La jetée', de: 'Der Steg' },
    });
    await idle(archive);
    const said = (): string => execFileSync('exiv2', ['-PXkyct', path]).toString();
    for (const one of ['"x-default" The jetty', '"de" Der Steg', '"fr" La jetée'])
      expect(said()).toContain(`lang=${one}`);
    await changeRecords(db(), null, asSeen([id]), { title: 'The old jetty' });
    await idle(archive);
    for (const one of ['"x-default" The old jetty', '"de" Der Steg', '"fr" La jetée'])
      expect(said()).toContain(`lang=${one}`);
    await changeRecords(db(), null, asSeen([id]), { titleIn: { de: 'Der alte Steg' } });
    await idle(archive);
    expect(said()).toContain('lang="de" Der alte Steg');
    expect(said()).not.toContain('La jetée');
    expect((await readFacts(path, null)).record.titleIn).toEqual({ de: 'Der alte Steg' });
    expect(await findIds(db(), HOUSE, parseQuery('words alte'))).toEqual([id]);
    expect(await findIds(db(), HOUSE, parseQuery('has titleIn'))).toEqual([id]);
    // Without the text itself there is nothing to say in other words.
    await changeRecords(db(), null, asSeen([id]), { title: '' });
    await idle(archive);
    expect((await readFacts(path, null)).record).toMatchObject({ title: '', titleIn: {} });
  });

  it('stays where a program wrote it, when somebody else changes the text', async () => {
    const path = join(root, 'walk-3.jpg');
    await writeTagsTo(path, `${path}.new.jpg`, {
      'XMP-dc:Title': 'Kite',
      'XMP-dc:Title-de': 'Drachen',
      'XMP-iptcCore:AltTextAccessibility-fr': 'Un cerf-volant',
    });
    const { record } = await readFacts(`${path}.new.jpg`, null);
    expect(record).toMatchObject({ title: 'Kite', titleIn: { de: 'Drachen' } });
    // A text that stands in one language alone is the text.
    expect(record).toMatchObject({
      altText: 'Un cerf-volant',
      altTextIn: { fr: 'Un cerf-volant' },
    });
  });
});
