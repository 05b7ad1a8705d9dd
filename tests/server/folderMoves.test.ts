import { existsSync, mkdirSync, readdirSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { newId } from '#server/house/ids';
import { resumeOperations } from '#server/ledger/carryOut';
import { undo } from '#server/deeds/undo';
import { ledger, linesOf } from '#server/ledger/ledger';
import { makeFolderIn, moveFolder } from '#server/places/folders';
import { addPlace, type Place } from '#server/places/places';
import { setPlace } from '#server/watching/manage';
import { bringIn, filesIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';

const archive = useArchive();
const db = () => archive.house.db;
let place: Place;
let root = '';
const find = (text: string): Promise<string[]> => findIds(db(), HOUSE, parseQuery(text));
async function idOf(path: string, of = place): Promise<string> {
  const { id } = await db()
    .selectFrom('folder')
    .select('id')
    .where('placeId', '=', of.id)
    .where('path', '=', path)
    .executeTakeFirstOrThrow();
  return id;
}
const move = (path: string, wish: { name?: string; parentId?: string }) =>
  idOf(path).then((id) => moveFolder(db(), null, id, wish));

beforeAll(async () => {
  place = await placeNamed(archive, 'Shelf');
  root = join(archive.folder, 'Shelf');
  await setPlace(archive.house, place.id, { watched: false });
  const source = join(archive.folder, 'card');
  for (const at of [1, 2]) await writeJpeg(join(source, `k-${at}.jpg`), at);
  await bringIn(archive, source, { mode: 'copy', place, filing: 'Shot/day one' });
}, 120_000);

describe('folders', () => {
  it('are made below others, and taken away again by the ledger', async () => {
    const { operation } = await makeFolderIn(db(), null, await idOf('Shot'), 'New one');
    expect(existsSync(join(root, 'Shot/New one'))).toBe(true);
    await undo(db(), null, operation);
    expect(existsSync(join(root, 'Shot/New one'))).toBe(false);
    for (const name of ['Day One', 'a/b', 'con', '..', ''])
      await expect(makeFolderIn(db(), null, await idOf('Shot'), name)).rejects.toMatchObject({
        code: name === 'Day One' ? 'conflict' : 'name-refused',
      });
  });

  it('get another name with all that lies in them: on the disk, here, and where words are sought', async () => {
    const id = await idOf('Shot/day one');
    const operation = await move('Shot', { name: 'Wind Week' });
    await idle(archive);
    expect(filesIn(join(root, 'Wind Week/day one'))).toEqual(['k-1.jpg', 'k-2.jpg']);
    expect(await idOf('Wind Week/day one')).toBe(id);
    expect(await find('in "Shelf/Wind Week"')).toHaveLength(2);
    expect(await find('words "wind week"')).toHaveLength(2);
    expect(await find('words shot')).toHaveLength(0);
    await undo(db(), null, operation);
    await idle(archive);
    expect(filesIn(join(root, 'Shot/day one'))).toEqual(['k-1.jpg', 'k-2.jpg']);
    expect(await find('words shot')).toHaveLength(2);
  });

  it('change their case alone', async () => {
    const operation = await move('Shot/day one', { name: 'Day One' });
    expect(readdirSync(join(root, 'Shot'))).toEqual(['Day One']);
    await undo(db(), null, operation);
    expect(readdirSync(join(root, 'Shot'))).toEqual(['day one']);
  });

  it('go into others, never into themselves, another place or where one is already', async () => {
    const { id } = await makeFolderIn(db(), null, await idOf(''), 'Kept');
    const operation = await move('Shot/day one', { parentId: id });
    expect(filesIn(join(root, 'Kept/day one'))).toHaveLength(2);
    await expect(move('Kept', { parentId: await idOf('Kept/day one') })).rejects.toThrow('itself');
    mkdirSync(join(root, 'Shot/DAY ONE'));
    await expect(move('Kept/day one', { parentId: await idOf('Shot') })).rejects.toThrow(
      'there already',
    );
    const small = join(archive.folder, 'Other');
    mkdirSync(small);
    const other = await addPlace(archive.house, 'Other', small);
    await expect(move('Kept', { parentId: await idOf('', other) })).rejects.toThrow(
      'File its items',
    );
    await expect(move('', { name: 'x' })).rejects.toMatchObject({ code: 'not-allowed' });
    await undo(db(), null, operation);
    expect(filesIn(join(root, 'Shot/day one'))).toHaveLength(2);
  });

  it('are not moved back over what was changed since', async () => {
    const operation = await move('Shot', { name: 'Later' });
    const second = await move('Later', { name: 'Latest' });
    await expect(undo(db(), null, operation)).rejects.toThrow('Undo the later change first');
    await undo(db(), null, second);
    await undo(db(), null, operation);
    expect(await find('in Shelf/Shot')).toHaveLength(2);
  });

  it('refuse hands-off places', async () => {
    await setPlace(archive.house, place.id, { handsOff: true });
    await expect(move('Shot', { name: 'x' })).rejects.toThrow('hands off');
    await setPlace(archive.house, place.id, { handsOff: false });
  });

  it('that a kill left half moved are finished, or said not to be', async () => {
    const begin = async (from: string, to: string): Promise<string> => {
      const id = newId();
      await db()
        .insertInto('operation')
        .values({
          id,
          kind: 'folders',
          summary: 'cut',
          state: 'doing',
          actorId: null,
          undoes: null,
          total: 1,
        })
        .execute();
      await db()
        .insertInto('operationStep')
        .values({
          ...{
            operationId: id,
            position: 0,
            action: 'folder',
            itemId: null,
            fileId: null,
            state: 'doing',
          },
          before: JSON.stringify({ placeId: place.id, path: from }),
          after: JSON.stringify({ placeId: place.id, path: to }),
        })
        .execute();
      return id;
    };
    const done = await begin('Shot', 'Half');
    renameSync(join(root, 'Shot'), join(root, 'Half'));
    await resumeOperations(archive.house);
    expect((await linesOf(db(), [done]))[0]).toMatchObject({ state: 'done' });
    expect(await find('in Shelf/Half')).toHaveLength(2);
    const not = await begin('Half', 'Never');
    await resumeOperations(archive.house);
    expect((await linesOf(db(), [not]))[0]).toMatchObject({ state: 'failed' });
    writeFileSync(join(root, 'Half', 'stray'), 'x');
    expect((await ledger(db()))[0]!.id).toBe(not);
    await undo(db(), null, done);
    expect(await find('in Shelf/Shot')).toHaveLength(2);
  });
});
