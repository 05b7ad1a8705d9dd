import { cpSync, mkdirSync, renameSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { askToCompare } from '#server/watching/compare';
import { pointPlace, setPlace } from '#server/watching/manage';
import { addPlace, type Place } from '#server/places/places';
import { bringIn, idle, useArchive } from '../support/archive';

/** More files than go into one statement or one reading. */
const COUNT = 1203;
const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let root = '';

beforeAll(async () => {
  root = join(archive.folder, 'many');
  for (let at = 0; at < COUNT; at += 1) {
    const folder = join(root, `day ${at % 7}`);
    mkdirSync(folder, { recursive: true });
    // Of no kind that has a picture: it is the files that are followed here.
    writeFileSync(join(folder, `log ${at}.dat`), `\0\x01what was logged on ${at}`);
  }
  place = await addPlace(archive.house, 'Many', root);
  await setPlace(archive.house, place.id, { watched: false });
  await bringIn(archive, root, { mode: 'in-place', place });
});

const files = () =>
  db()
    .selectFrom('file as f')
    .innerJoin('folder as d', 'd.id', 'f.folderId')
    .select(['f.id', 'f.itemId', 'f.name', 'f.state', 'f.modifiedNs', 'd.path', 'f.contentHash'])
    .where('f.placeId', '=', place.id)
    .execute();
async function compared() {
  await askToCompare(archive.house, place);
  await idle(archive);
  return files();
}
const hashes = async () => new Map((await files()).map(({ id, contentHash }) => [id, contentHash]));

describe('many files at once', () => {
  it('move with their folder: every row follows, none is new', async () => {
    const before = await hashes();
    renameSync(join(root, 'day 3'), join(root, 'moved as one'));
    for (const day of [0, 1, 2, 4, 5, 6])
      renameSync(join(root, `day ${day}`), join(root, 'moved as one', `day ${day}`));
    const after = await compared();
    expect(after).toHaveLength(COUNT);
    expect(after.every(({ path }) => path.startsWith('moved as one'))).toBe(true);
    expect(after.every(({ state }) => state === 'present')).toBe(true);
    expect(await hashes()).toEqual(before);
  });

  it('are touched: each is read, and its content is found the same', async () => {
    const before = await hashes();
    const at = new Date('2026-01-02T03:04:05Z');
    for (const { path, name } of await files()) utimesSync(join(root, path, name), at, at);
    const after = await compared();
    expect(new Set(after.map(({ modifiedNs }) => modifiedNs))).toEqual(
      new Set([String(at.getTime() * 1e6)]),
    );
    expect(await hashes()).toEqual(before);
  });

  it('go and come back: all are missing, then all are found, wherever they lie', async () => {
    const before = await hashes();
    writeFileSync(join(root, 'stays.txt'), 'so that the place is not empty');
    renameSync(join(root, 'moved as one'), `${root} elsewhere`);
    const gone = (await compared()).filter(({ state }) => state === 'missing');
    expect(gone).toHaveLength(COUNT);
    cpSync(`${root} elsewhere`, join(root, 'copied back'), { recursive: true });
    rmSync(`${root} elsewhere`, { recursive: true });
    const back = await compared();
    expect(back.filter(({ state }) => state === 'present')).toHaveLength(COUNT + 1);
    for (const [id, hash] of before)
      expect(back.find((file) => file.id === id)?.contentHash).toBe(hash);
  });

  it('are matched by content when their place is pointed to a copy of it', async () => {
    const before = await hashes();
    const next = `${root} on another disk`;
    cpSync(root, next, { recursive: true });
    renameSync(root, `${root} old`);
    await compared();
    await pointPlace(archive.house, place.id, next);
    await idle(archive);
    const after = await files();
    expect(after.every(({ state }) => state === 'present')).toBe(true);
    expect(new Set(after.map(({ id }) => id))).toEqual(new Set(before.keys()));
  });
});
