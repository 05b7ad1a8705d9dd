import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import { expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { undo } from '#server/deeds/undo';
import { linesOf, operationSteps } from '#server/ledger/ledger';
import { startRename } from '#server/naming/rename';
import { setPlace } from '#server/watching/manage';
import { fill } from '../../bench/compare';
import { placeNamed, treeOf, useArchive } from '../support/archive';
import { killing } from '../support/killing';
import { asSeen } from '#server/sight/seen';

/** More steps than are begun at once: what a second kill finds was begun by others than the first. */
const archive = useArchive({ worker: false });
const { killUntilDone } = killing(archive);
const COUNT = 1400;

it(`kills while ${COUNT} files trade names: none is lost, none is called missing`, async () => {
  const { db } = archive.house;
  const place = await placeNamed(archive, 'Shelf');
  await setPlace(archive.house, place.id, { watched: false });
  await fill(archive.house, place, COUNT);
  const before = treeOf(place.root);
  const { rows } = await sql<{ itemId: string; folder: string; name: string }>`
    select f.item_id, d.path as folder, f.name from file f join folder d on d.id = f.folder_id
    order by d.path, f.name`.execute(db);
  // Each gets the name of the next in its folder, the last that of the first.
  const titles = rows.map(({ itemId, folder }, at) => {
    const next = rows[at + 1];
    const { name } = next?.folder === folder ? next : rows.find((one) => one.folder === folder)!;
    return { id: itemId, title: name.replace(/\.[^.]+$/, '') };
  });
  await sql`update item set title = given.title from json_to_recordset(${JSON.stringify(titles)}::json)
    as given(id uuid, title text) where item.id = given.id`.execute(db);
  const contents = Object.values(before).sort();
  let kills = 0;
  const agree = async (operation: string): Promise<void> => {
    const wrong = (await operationSteps(db, HOUSE, operation)).flatMap(
      ({ reason }) => reason ?? [],
    );
    expect(wrong).toEqual([]);
    expect((await linesOf(db, [operation]))[0]).toMatchObject({ state: 'done', failed: 0 });
    const now = treeOf(place.root);
    expect(Object.keys(now)).toEqual(Object.keys(before));
    expect(Object.values(now).sort()).toEqual(contents);
  };
  const operation = await startRename(db, null, {
    ...{ viewer: HOUSE, itemIds: asSeen(rows.map(({ itemId }) => itemId)), pattern: '{title}' },
    ...{ clash: 'refuse', extension: 'keep' },
  });
  kills += await killUntilDone(7, 4, [50, 700]);
  await agree(operation);
  const [{ folder, name }] = rows as [(typeof rows)[number]];
  expect(readFileSync(join(place.root, folder, name), 'utf8')).not.toBe(
    `the content of ${folder}/${name}`,
  );
  const back = await undo(db, null, operation);
  kills += await killUntilDone(8, 4, [50, 700]);
  await agree(back);
  expect(treeOf(place.root)).toEqual(before);
  expect(kills).toBeGreaterThanOrEqual(4);
}, 300_000);
