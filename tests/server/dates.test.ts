import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { parseAmount, type DateWish } from '#core/records/dates';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { datesPreview, setDates } from '#server/records/dates';
import { changeRecords, readRecords } from '#server/records/records';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2, writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
const dates = async (): Promise<string[]> => {
  const records = await readRecords(db(), ids);
  return ids.map((id) => records.find((one) => one.id === id)!.values.taken?.edtf ?? '');
};
const hour: DateWish = { act: 'shift', amount: parseAmount('+1h')! };

beforeAll(async () => {
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3]) await writeJpeg(join(source, `2026091${at}_10000${at}.jpg`), at);
  await bringIn(archive, source, {
    mode: 'copy',
    place: await placeNamed(archive, 'Dated'),
    filing: 'Dated',
  });
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
});

describe('dates of many', () => {
  it('are read from names, seen before, set as one step, and given back', async () => {
    const before = await dates();
    const wish: DateWish = { act: 'read', from: 'name', pattern: '' };
    const seen = await datesPreview(db(), asSeen(ids), wish);
    expect(seen).toMatchObject({ changed: 3, problems: 0 });
    expect(await dates()).toEqual(before);
    const done = await setDates(db(), null, asSeen(ids), wish, seen.fingerprint);
    expect(done!.changed).toBe(3);
    expect(await dates()).toEqual([1, 2, 3].map((at) => `2026-09-1${at}T10:00:0${at}`));
    expect(await setDates(db(), null, asSeen(ids), wish)).toBeNull();
    await undo(db(), null, done!.operationId);
    expect(await dates()).toEqual(before);
    await setDates(db(), null, asSeen(ids), wish);
  });

  it('move, but for those of which too little is known; the file says the same', async () => {
    await changeRecords(db(), null, asSeen([ids[1]!]), { taken: '1987-06~' });
    const seen = await datesPreview(db(), asSeen(ids), hour);
    expect(seen).toMatchObject({ changed: 2, problems: 1 });
    expect(seen.lines[1]).toMatchObject({
      after: '1987-06~',
      problem: 'its time of day is not known',
    });
    await setDates(db(), null, asSeen(ids), hour, seen.fingerprint);
    expect(await dates()).toEqual(['2026-09-11T11:00:01', '1987-06~', '2026-09-13T11:00:03']);
    await idle(archive);
    const tags = exiv2(join(archive.folder, 'Dated/Dated/20260911_100001.jpg'));
    expect(tags['Exif.Photo.DateTimeOriginal']).toBe('2026:09:11 11:00:01');
  });

  it('are bound to what was shown: another one’s change is not overwritten', async () => {
    const { fingerprint } = await datesPreview(db(), asSeen(ids), hour);
    await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Meanwhile' });
    await expect(setDates(db(), null, asSeen(ids), hour, fingerprint)).rejects.toMatchObject({
      code: 'conflict',
    });
  });
});
