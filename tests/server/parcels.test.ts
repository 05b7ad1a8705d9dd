import { existsSync, mkdirSync, readFileSync, unlinkSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeEach, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { report } from '#server/intake/report/report';
import { hashFile } from '#server/files/hash';
import { askToCompare } from '#server/watching/compare';
import { changeRecords } from '#server/records/records';
import { newParcel, parcelFiles } from '#server/uploads/parcels';
import { letGoOfParcel, tidyParcels, waitingParcels } from '#server/intake/report/waiting';
import { KEEPER, bringIn, filesIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';

const archive = useArchive();
const db = () => archive.house.db;
const real = () => new Date();
const days = (count: number) => () => new Date(Date.now() + count * 86_400_000);
beforeEach(() => {
  archive.house.now = real;
});

async function arrived(title: string, seeds: number[]): Promise<string> {
  const { id } = await newParcel(archive.house, { kind: 'upload', title, by: null });
  for (const seed of seeds)
    await writeJpeg(join(parcelFiles(archive.house, id), `day/p${seed}.jpg`), seed);
  return id;
}
const waiting = async () =>
  (await waitingParcels(archive.house)).map(({ title, files }) => [title, files]);
const folder = (id: string): string => join(archive.house.folders.uploads, id);
async function tidy(): Promise<void> {
  await tidyParcels(archive.house);
  await idle(archive);
}

describe('parcels', () => {
  it('wait until what is in them was brought in, file by file', async () => {
    const id = await arrived('From the boat', [1, 2, 3]);
    expect(await waiting()).toEqual([['From the boat', 3]]);
    const place = await placeNamed(archive, 'Arrivals');
    const root = parcelFiles(archive.house, id);
    const one = { path: 'day/p1.jpg', size: 1 };
    await bringIn(archive, root, { mode: 'copy', place, files: [one] });
    expect(await waiting()).toEqual([['From the boat', 2]]);
    await bringIn(archive, root, { mode: 'copy', place });
    expect(await waiting()).toEqual([]);
  });

  it('are cleared a week later, each file after a look at its copy', async () => {
    const id = await arrived('Whole', [11, 12]);
    const place = await placeNamed(archive, 'Cleared');
    await bringIn(archive, parcelFiles(archive.house, id), { mode: 'copy', place });
    // Describing a copy changes its bytes, not its picture.
    const items = await findIds(db(), HOUSE, parseQuery('in Cleared'));
    await changeRecords(db(), null, items, { title: 'Described since' });
    await idle(archive);
    await tidy();
    expect(filesIn(join(parcelFiles(archive.house, id), 'day'))).toHaveLength(2);
    archive.house.now = days(8);
    await tidy();
    expect(filesIn(join(parcelFiles(archive.house, id), 'day'))).toEqual([]);
    await tidy();
    expect(existsSync(folder(id))).toBe(false);
    expect(filesIn(place.root)).toEqual(['p11.jpg', 'p12.jpg']);
  });

  it('keep what the archive does not hold as it should', async () => {
    const id = await arrived('One copy broken', [21, 22]);
    const place = await placeNamed(archive, 'Broken');
    const accession = await bringIn(archive, parcelFiles(archive.house, id), {
      mode: 'copy',
      place,
    });
    const [item] = await findIds(db(), HOUSE, parseQuery('in Broken; words p21'));
    const { path } = (await showItem(db(), KEEPER, item!)).files[0]!;
    const bytes = readFileSync(path);
    bytes[bytes.length - 20]! ^= 0xff;
    writeFileSync(path, bytes);
    // Also where the archive has followed the change, as it follows every other program.
    await askToCompare(archive.house, place);
    await idle(archive);
    expect((await showItem(db(), KEEPER, item!)).files[0]!.contentHash).toBe(await hashFile(path));
    archive.house.now = days(8);
    await tidy();
    await tidy();
    expect(filesIn(join(parcelFiles(archive.house, id), 'day'))).toEqual(['p21.jpg']);
    const { lines } = await report(db(), accession);
    expect(lines.filter(({ sourceState }) => sourceState === 'refused')).toHaveLength(1);
  });

  it('are not cleared in one go while another clears them file by file', async () => {
    const id = await arrived('Cleared by two', [25, 26]);
    const place = await placeNamed(archive, 'By two');
    await bringIn(archive, parcelFiles(archive.house, id), { mode: 'copy', place });
    archive.house.now = days(8);
    const holding = await archive.house.pool.connect();
    await holding.query('begin; lock table accession_entry in share mode');
    const both = Promise.all([tidyParcels(archive.house), tidyParcels(archive.house)]);
    expect(filesIn(join(parcelFiles(archive.house, id), 'day'))).toHaveLength(2);
    await holding.query('commit');
    holding.release();
    await both;
    // Whatever the two did, the folder itself waits until a later look finds its files gone.
    expect(existsSync(folder(id))).toBe(true);
    await idle(archive);
    await tidy();
    expect(existsSync(folder(id))).toBe(false);
    expect(filesIn(place.root)).toHaveLength(2);
  });

  it('stay for ever while nobody brought them in, and while work reads from them', async () => {
    const id = await arrived('Never looked at', [31]);
    archive.house.now = days(400);
    await tidy();
    expect(await waiting()).toContainEqual(['Never looked at', 1]);
    await db()
      .insertInto('accession')
      .values({
        id: '00000000-0000-4000-8000-000000000031',
        year: 2026,
        number: 900,
        title: 'Paused',
        source: '{}',
        plan: '{}',
        root: parcelFiles(archive.house, id),
        mode: 'copy',
        placeId: (await placeNamed(archive, 'Arrivals')).id,
        createdBy: null,
        state: 'paused',
      })
      .execute();
    await expect(letGoOfParcel(archive.house, id)).rejects.toMatchObject({ code: 'conflict' });
    expect(existsSync(folder(id))).toBe(true);
  });

  it('are let go of by a person, with what was noted of them', async () => {
    const id = await arrived('Unwanted', [41]);
    await db()
      .insertInto('setting')
      .values({ key: `fetch:${id}`, value: '{}' })
      .execute();
    await letGoOfParcel(archive.house, id);
    expect(existsSync(folder(id))).toBe(false);
    expect(
      await db().selectFrom('setting').select('key').where('key', '=', `fetch:${id}`).execute(),
    ).toEqual([]);
    // Folders that are no parcels are nobody's to list or clear.
    mkdirSync(join(archive.house.folders.uploads, 'a stray folder'));
    writeFileSync(join(archive.house.folders.uploads, 'stray.txt'), 'x');
    archive.house.now = days(30);
    await tidy();
    expect(existsSync(join(archive.house.folders.uploads, 'a stray folder'))).toBe(true);
    unlinkSync(join(archive.house.folders.uploads, 'stray.txt'));
  });
});
