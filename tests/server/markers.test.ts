import { execFileSync } from 'node:child_process';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { ledger } from '#server/ledger/ledger';
import { readTags } from '#server/metadata/exiftool';
import { dropSpans, writeMarkers } from '#server/spans/deeds';
import { changeSpan, keepSpans, spansOf } from '#server/spans/spans';
import { askToCompare } from '#server/watching/compare';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2, setTags } from '../support/pictures';

/** Spans and markers of real clips in their XMP, as other programs read and write them. */
const archive = useArchive();
const db = () => archive.house.db;
const by = { id: null, viewer: HOUSE };
let place: Awaited<ReturnType<typeof placeNamed>>;

const idOf = async (name: string): Promise<string> =>
  (await findIds(db(), HOUSE, parseQuery(`name "${name}"; not kind span`)))[0]!;
const pathOf = (name: string): string => join(place.root, name);
const told = async (name: string) =>
  (await spansOf(db(), HOUSE, await idOf(name))).map((one) => [
    ...[one.from, one.to, one.isMarker, one.title, one.note],
  ]);
/** What another program finds in the tracks of a file. */
const tracksIn = async (path: string): Promise<{ TrackName: string; Markers: object[] }[]> =>
  ((await readTags(path, false))['XMP-xmpDM:Tracks'] ?? []) as never;
/** A structure as ExifTool takes it on its command line. */
const struct = (value: unknown): string =>
  Array.isArray(value)
    ? `[${value.map(struct).join(',')}]`
    : typeof value === 'object' && value !== null
      ? `{${Object.entries(value)
          .map(([key, one]) => `${key}=${struct(one)}`)
          .join(',')}}`
      : String(value).replace(/[|,{}[\]]/g, '|$&');
const setTracks = (path: string, tracks: object[]): Promise<void> =>
  setTags(path, { 'XMP-xmpDM:Tracks': struct(tracks) });
/** Hash of its packets, as FFmpeg reads them. */
const packetsOf = (path: string): string =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-c', 'copy', '-f', 'md5', '-']).toString();
async function written(name: string): Promise<void> {
  await writeMarkers(db(), by, await idOf(name));
  await idle(archive);
}
async function savedElsewhere(path: string, tracks: object[]): Promise<void> {
  await setTracks(path, tracks);
  await askToCompare(archive.house, place);
  await idle(archive);
}

beforeAll(async () => {
  place = await placeNamed(archive, 'Reels');
  const source = join(archive.folder, 'with markers');
  mkdirSync(source);
  for (const [name, rate] of [
    ['clip.mov', '25'],
    ['slow.mp4', '24000/1001'],
    ['plain.mkv', '25'],
  ] as const)
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-f', 'lavfi', '-i', `testsrc=size=64x64:rate=${rate}:duration=8`],
      ...['-c:v', 'libx264', join(source, name)],
    ]);
  await setTracks(join(source, 'clip.mov'), [
    {
      TrackName: 'Speech of the day',
      FrameRate: 'f50',
      Markers: [
        { StartTime: '100', Duration: '50', Name: 'Hello', Speaker: 'Ida Storm' },
        { StartTime: '300f25', Comment: 'after the end: left where it is' },
        { StartTime: '20', Name: 'A moment', Comment: 'look here' },
        { StartTime: '390', Duration: '90', Name: 'Hangs over the end' },
        { StartTime: '1', Duration: '999999999999', Name: 'Longer than any day' },
      ],
    },
  ]);
  await bringIn(archive, source, { mode: 'copy', place });
  await idle(archive);
});

describe('markers in the XMP of a clip', () => {
  it('come in with it, in its own frames, as one step of the ledger', async () => {
    expect(await told('clip.mov')).toEqual([
      [10, 11, true, 'A moment', 'look here'],
      [50, 75, false, 'Hello', ''],
      [195, 240, false, 'Hangs over the end', ''],
    ]);
    expect(await told('slow.mp4')).toEqual([]);
    const line = (await ledger(db(), 0, 20)).find(({ summary }) => summary.startsWith('Read from'));
    expect([line!.canUndo, line!.summary]).toEqual([
      true,
      expect.stringMatching(/^Read from the file of \S+: 3 spans kept$/),
    ]);
  });

  it('go out beside those of others, which keep all they say; the essence stays', async () => {
    const clip = await idOf('clip.mov');
    const spans = await spansOf(db(), HOUSE, clip);
    await keepSpans(db(), by, clip, [
      {
        ...{ first: 100, last: 149, isMarker: false, mark: '' },
        title: 'Über allem',
        note: 'a\nb',
      },
    ]);
    await changeSpan(db(), by, spans[0]!.id, { from: 12, to: 13 });
    const packets = packetsOf(pathOf('clip.mov'));
    await written('clip.mov');
    expect(packetsOf(pathOf('clip.mov'))).toBe(packets);
    expect(await tracksIn(pathOf('clip.mov'))).toEqual([
      {
        TrackName: 'Speech of the day',
        FrameRate: 'f50',
        Markers: [
          { StartTime: '100', Duration: '50', Name: 'Hello', Speaker: 'Ida Storm' },
          { StartTime: '300f25', Comment: 'after the end: left where it is' },
          { StartTime: '390', Duration: '90', Name: 'Hangs over the end' },
          { StartTime: '1', Duration: '999999999999', Name: 'Longer than any day' },
        ],
      },
      {
        ...{ TrackName: 'Log', TrackType: 'Index', FrameRate: 'f25' },
        Markers: [
          { StartTime: '12', Name: 'A moment', Comment: 'look here', Type: 'Cue' },
          { StartTime: '100', Duration: '50', Name: 'Über allem', Comment: 'a\nb', Type: 'Index' },
        ],
      },
    ]);
    // What was written is not read as another's, nor is anything once more when another program saves the file.
    await setTags(pathOf('clip.mov'), { 'XMP-dc:Relation': 'elsewhere' });
    await askToCompare(archive.house, place);
    await idle(archive);
    expect((await told('clip.mov')).length).toBe(4);
  });

  it('stand beside a file that takes none, where a second program finds them', async () => {
    const clip = await idOf('plain.mkv');
    await keepSpans(db(), by, clip, [
      { ...{ first: 5, last: 24, isMarker: false, mark: '' }, title: 'One second less', note: '' },
    ]);
    await written('plain.mkv');
    const found = exiv2(pathOf('plain.mkv.xmp'));
    const at = 'Xmp.xmpDM.Tracks[1]/xmpDM:markers[1]/xmpDM';
    expect([
      found[`${at}:startTime`],
      found[`${at}:duration`],
      found[`${at}:name`],
      found['Xmp.xmpDM.Tracks[1]/xmpDM:frameRate'],
    ]).toEqual(['5', '20', 'One second less', 'f25']);
    await savedElsewhere(pathOf('plain.mkv.xmp'), [
      { FrameRate: 'f25', Markers: [{ StartTime: '40', Name: 'theirs' }] },
      {
        ...{ TrackName: 'Log', FrameRate: 'f25' },
        Markers: [{ StartTime: '5', Duration: '20', Name: 'One second less' }],
      },
    ]);
    expect(await told('plain.mkv')).toEqual([
      [5, 25, false, 'One second less', ''],
      [40, 41, true, 'theirs', ''],
    ]);
  });

  it('let go of by another program are let go of here, but for what was changed here, and come back by the ledger', async () => {
    const clip = await idOf('slow.mp4');
    const { ids } = await keepSpans(db(), by, clip, [
      { ...{ first: 24, last: 47, isMarker: false, mark: '' }, title: 'Stays', note: '' },
      { ...{ first: 60, last: 80, isMarker: false, mark: '' }, title: 'Goes', note: '' },
      { ...{ first: 90, last: 99, isMarker: false, mark: '' }, title: 'Moved here', note: '' },
    ]);
    await written('slow.mp4');
    expect((await tracksIn(pathOf('slow.mp4')))[0]!.Markers).toHaveLength(3);
    await changeSpan(db(), by, ids[2]!, { from: 91, to: 101 });
    await savedElsewhere(pathOf('slow.mp4'), [
      {
        ...{ TrackName: 'Log', FrameRate: 'f24000s1001' },
        Markers: [{ StartTime: '24', Duration: '24', Name: 'Stays' }],
      },
    ]);
    expect((await told('slow.mp4')).map(([from, , , title]) => [from, title])).toEqual([
      [24, 'Stays'],
      [91, 'Moved here'],
    ]);
    const line = (await ledger(db(), 0, 20)).find(({ summary }) =>
      summary.includes('1 span let go of'),
    );
    await undo(db(), null, line!.id);
    expect((await told('slow.mp4')).map(([, , , title]) => title)).toEqual([
      'Stays',
      'Goes',
      'Moved here',
    ]);
    await dropSpans(db(), by, ids);
    await written('slow.mp4');
    expect(await tracksIn(pathOf('slow.mp4'))).toEqual([]);
  });
});
