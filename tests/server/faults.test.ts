import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds, findTiles } from '#server/catalogue/find';
import { startAccession } from '#server/intake/plan/accession';
import { filesToBring } from '#server/intake/sources/files';
import { accessions } from '#server/intake/report/accessions';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { letGo, wasted } from '#server/wastebasket/wastebasket';
import { undo } from '#server/deeds/undo';
import { ledger, linesOf, operationSteps } from '#server/ledger/ledger';
import { startFiling } from '#server/naming/filing';
import { addPlace } from '#server/places/places';
import { AS_WISHED } from '../support/naming';
import { startRename } from '#server/naming/rename';
import { changeRecords, readRecords } from '#server/records/records';
import { hashEssence, hashFile } from '#server/files/hash';
import { random } from '../../demo/paint/random';
import { filesIn, placeNamed, until, useArchive } from '../support/archive';
import { killing } from '../support/killing';
import { exiv2, writeJpeg, older } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

/** Workers are processes of their own here, killed without warning at random moments. */
const archive = useArchive({ worker: false });
const KILLS = 20;
const FILES = 120;
const { open, cutOff, spawnWorker, killed, killUntilDone } = killing(archive);

describe('kill -9', () => {
  it(`of the worker ${KILLS} times during intakes: every file whole exactly once`, async () => {
    const place = await placeNamed(archive, 'Shelf');
    let kills = 0;
    let brought = 0;
    for (let round = 0; kills < KILLS; round += 1) {
      const source = join(archive.folder, `card-${round}`);
      for (let seed = 0; seed < FILES; seed += 1)
        await writeJpeg(join(source, `HRN_${seed}.jpg`), round * FILES + seed);
      const { id } = await startAccession(archive.house, {
        title: 'Card',
        source: { kind: 'folder', name: source },
        root: source,
        mode: 'copy',
        place,
        plan: { filing: '', naming: `R${round}-{counter 001}`, terms: [] },
        files: await filesToBring(source),
        actorId: null,
      });
      kills += await killUntilDone(round + 7, KILLS - kills, [20, 700]);
      brought += FILES;
      const [line] = await accessions(archive.house.db, 1, id);
      expect(line).toMatchObject({ state: 'done', done: FILES, failed: 0, skipped: 0 });
      // A file that got a new name remembers its first in XMP: the picture data tell whether it is whole.
      const pictures = (folder: string, names: string[]): Promise<(string | null)[]> =>
        Promise.all(names.map((name) => hashEssence(join(folder, name), 'image/jpeg')));
      const there = filesIn(place.root).filter((name) => name.startsWith(`R${round}-`));
      const [wished, found] = [
        await pictures(source, filesIn(source)),
        await pictures(place.root, there),
      ];
      expect(wished).not.toContain(null);
      expect(found.sort()).toEqual(wished.sort());
      const preserved = exiv2(join(place.root, there[0]!))['Xmp.xmpMM.PreservedFileName'];
      expect(filesIn(source)).toContain(preserved);
    }
    expect(kills).toBe(KILLS);
    expect(filesIn(place.root)).toHaveLength(brought);
    const tiles = await findTiles(archive.house.db, HOUSE, parseQuery('in Shelf'), 0, 10_000);
    expect(tiles).toHaveLength(brought);
    expect(new Set(tiles.map(({ name }) => name)).size).toBe(brought);
  });

  it('during a rename in which names trade places: every file under one of its names, the ledger true', async () => {
    const place = await placeNamed(archive, 'Shelf');
    const ids = (await findIds(archive.house.db, HOUSE, parseQuery('order name'))).slice(0, 100);
    const before = filesIn(place.root);
    // Names trade places within the batch: the hardest case to cut off.
    await startRename(archive.house.db, null, {
      itemIds: asSeen([...ids.slice(1), ids[0]!]),
      pattern: 'R0-{counter 001}',
      ...AS_WISHED,
    });
    await killUntilDone(31, 4, [0, 60]);
    const [done] = await ledger(archive.house.db);
    expect(
      (await operationSteps(archive.house.db, HOUSE, done!.id, 500)).flatMap(
        ({ reason }) => reason ?? [],
      ),
    ).toEqual([]);
    expect(done).toMatchObject({ state: 'done', failed: 0 });
    expect(filesIn(place.root)).toEqual(before);
    for (const tile of await findTiles(archive.house.db, HOUSE, parseQuery('order name'), 0, 100)) {
      const file = await archive.house.db
        .selectFrom('file')
        .selectAll()
        .where('itemId', '=', tile.id)
        .executeTakeFirstOrThrow();
      const path = join(place.root, tile.name);
      expect([String(statSync(path, { bigint: true }).ino), await hashFile(path)]).toEqual([
        file.inode,
        file.contentHash,
      ]);
    }
  });

  it('during filing onto another disk and back: every byte somewhere, in the end once and where it belongs', async () => {
    const { db } = archive.house;
    const place = await placeNamed(archive, 'Shelf');
    const far = join(archive.folder, 'Far');
    mkdirSync(far);
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', far]);
    try {
      const other = await addPlace(archive.house, 'Far', far);
      await db.updateTable('place').set({ watched: false }).execute();
      const ids = (await findIds(db, HOUSE, parseQuery('in Shelf; order name'))).slice(0, 80);
      const before = filesIn(place.root);
      const held = async (): Promise<string[]> => {
        const found: string[] = [];
        for (const folder of [place.root, join(far, 'Brought')])
          for (const name of existsSync(folder) ? filesIn(folder) : [])
            found.push(await hashFile(join(folder, name)));
        return found.sort();
      };
      const wanted = await held();
      const operation = await startFiling(db, null, {
        ...{
          viewer: HOUSE,
          itemIds: asSeen(ids),
          pattern: '',
          missing: 'leave',
          fallback: 'undated',
        },
        ...{ into: { placeId: other.id, path: 'Brought' }, clash: 'refuse', removeEmptied: false },
      });
      expect(await killUntilDone(53, 4, [0, 80])).toBeGreaterThan(0);
      expect((await linesOf(db, [operation]))[0]).toMatchObject({ state: 'done', failed: 0 });
      expect(filesIn(join(far, 'Brought'))).toHaveLength(ids.length);
      expect(await held()).toEqual(wanted);
      const undone = await undo(db, null, operation);
      await killUntilDone(59, 4, [0, 80]);
      expect((await linesOf(db, [undone]))[0]).toMatchObject({ state: 'done', failed: 0 });
      expect(filesIn(place.root)).toEqual(before);
      expect(await held()).toEqual(wanted);
      expect(readdirSync(far)).toEqual([]);
    } finally {
      execFileSync('umount', [far]);
    }
  });

  it('during the writing of records: every file whole, every record written in the end', async () => {
    const place = await placeNamed(archive, 'Shelf');
    const ids = (await findIds(archive.house.db, HOUSE, parseQuery('order name'))).slice(0, 60);
    await changeRecords(archive.house.db, null, asSeen(ids), {
      title: 'Written through',
      creditLine: 'Saltreach Kites',
    });
    await killUntilDone(47, 5, [30, 500]);
    expect(
      (await readRecords(archive.house.db, ids)).every(
        ({ values }) => values.title === 'Written through',
      ),
    ).toBe(true);
    const tiles = (await findTiles(archive.house.db, HOUSE, parseQuery('order name'), 0, 60)).map(
      ({ name }) => join(place.root, name),
    );
    for (const path of tiles) expect(exiv2(path)[older('Credit')]).toBe('Saltreach Kites');
    for (const tile of await findTiles(archive.house.db, HOUSE, parseQuery('order name'), 0, 60)) {
      const file = await archive.house.db
        .selectFrom('file')
        .select('contentHash')
        .where('itemId', '=', tile.id)
        .executeTakeFirstOrThrow();
      expect(await hashFile(join(place.root, tile.name))).toBe(file.contentHash);
    }
    expect(readdirSync(place.root).filter((name) => name.startsWith('.mindful-'))).toEqual([]);
    const doing = await archive.house.db
      .selectFrom('operation')
      .select('id')
      .where('state', '=', 'doing')
      .execute();
    expect(doing).toEqual([]);
  });

  it('of one of two workers during a move with second copies: no byte is ever nowhere', async () => {
    const source = join(archive.folder, 'to move');
    for (let at = 0; at < 80; at += 1)
      await writeJpeg(join(source, `m${String(at).padStart(2, '0')}.jpg`), 9000 + at);
    const place = await placeNamed(archive, 'Moved');
    const second = await placeNamed(archive, 'Moved twice');
    const wanted = await Promise.all(filesIn(source).map((name) => hashFile(join(source, name))));
    const { id } = await startAccession(archive.house, {
      title: 'Move',
      source: { kind: 'folder', name: source },
      root: source,
      mode: 'move',
      place,
      plan: { filing: '', naming: '{name}', secondCopyId: second.id },
      files: await filesToBring(source),
      actorId: null,
    });
    const wholeIn = async (folder: string): Promise<string[]> => {
      const found: string[] = [];
      for (const name of filesIn(folder))
        if (!name.startsWith('.mindful-'))
          // A file may go between the list and the reading: then it is in the other place already.
          found.push(await hashFile(join(folder, name)).catch(() => ''));
      return found;
    };
    const { between } = random(77);
    const pair = [spawnWorker(), spawnWorker()];
    let kills = 0;
    while ((await open()) > 0 && kills < 12) {
      await new Promise((done) => setTimeout(done, between(900, 1900)));
      // Work that is cut off three times before it got any further is given up, as it should be.
      await until(async () => (await cutOff()) < 2, 'the work to get further', 60);
      const victim = kills % 2;
      await killed(pair[victim]!);
      kills += 1;
      const there = new Set([...(await wholeIn(source)), ...(await wholeIn(place.root))]);
      expect(wanted.filter((hash) => !there.has(hash))).toEqual([]);
      pair[victim] = spawnWorker();
    }
    await until(async () => (await open()) === 0, 'the move to end', 200);
    await Promise.all(pair.map(killed));
    expect(kills).toBeGreaterThan(1);
    expect(filesIn(source)).toEqual([]);
    expect((await wholeIn(place.root)).sort()).toEqual([...wanted].sort());
    expect((await wholeIn(second.root)).sort()).toEqual([...wanted].sort());
    const [line] = await accessions(archive.house.db, 1, id);
    expect(line).toMatchObject({ state: 'done', done: 80, skipped: 0, failed: 0 });
  });

  it('while files are discarded and given back: every file in one of two places, and all of them back', async () => {
    const place = await placeNamed(archive, 'Shelf');
    const { db } = archive.house;
    const ids = await findIds(db, HOUSE, parseQuery('order name'));
    const before = filesIn(place.root).filter((name) => name !== WASTEBASKET);
    const operation = await letGo(db, null, ids);
    await killUntilDone(53, 4, [0, 60]);
    expect(await findIds(db, HOUSE, parseQuery(''))).toEqual([]);
    expect((await wasted(db)).lines).toMatchObject([{ id: operation, items: ids.length }]);
    expect(filesIn(join(place.root, WASTEBASKET))).toHaveLength(before.length);
    await undo(db, null, operation);
    await killUntilDone(59, 4, [0, 60]);
    expect((await ledger(db))[0]).toMatchObject({ state: 'done', failed: 0 });
    expect(filesIn(place.root).filter((name) => name !== WASTEBASKET)).toEqual(before);
    expect(await findIds(db, HOUSE, parseQuery('order name'))).toEqual(ids);
  });
});
