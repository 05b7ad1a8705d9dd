import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { hashFile } from '#server/files/hash';
import { filesOf } from '#server/files/located';
import { newId } from '#server/house/ids';
import { undo } from '#server/deeds/undo';
import { linesOf, operationSteps } from '#server/ledger/ledger';
import { startFiling } from '#server/naming/filing';
import { startRename } from '#server/naming/rename';
import { addPlace } from '#server/places/places';
import { startWorker } from '#server/work/worker';
import { random } from '../../demo/paint/random';
import { bringIn, placeNamed, useArchive } from '../support/archive';
import { killing } from '../support/killing';
import { AS_WISHED } from '../support/naming';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive({ worker: false });
const { killUntilDone } = killing(archive);
/** Some hundreds where somebody has the time: each takes about two seconds. */
const KILLS = Number(process.env['MINDFUL_KILLS'] ?? 12);

it(`${KILLS} kills and more during renames, plans, copies and their undoing: rows and disks agree after each`, async () => {
  const { db } = archive.house;
  const place = await placeNamed(archive, 'Shelf');
  const source = join(archive.folder, 'card');
  for (let at = 0; at < 60; at += 1) await writeJpeg(join(source, `HRN_${at}.jpg`), at);
  const worker = await startWorker(archive.house);
  await bringIn(archive, source, { mode: 'copy', place, filing: 'In' });
  await worker.stop();
  const far = join(archive.folder, 'Moving');
  mkdirSync(far);
  execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64m', 'tmpfs', far]);
  try {
    const other = await addPlace(archive.house, 'Moving', far);
    await db.updateTable('place').set({ watched: false }).execute();
    const ids = await findIds(db, HOUSE, parseQuery('in Shelf; order name'));
    const contents = async (): Promise<string[]> =>
      (await filesOf(db, ids))
        .filter(({ role }) => role === 'original')
        .map(({ contentHash }) => contentHash)
        .sort();
    const wanted = await contents();
    const { int, pick } = random(97);
    const plan = { viewer: HOUSE, itemIds: ids, missing: 'leave', fallback: '-' } as const;
    const into = (placeId: string) => ({ into: { placeId, path: `Round ${int(0, 3)}` } });
    const file = (over: object) =>
      startFiling(db, null, {
        ...{ ...plan, pattern: '{number, last 1}', clash: 'number', removeEmptied: true },
        ...into(pick([place.id, other.id])),
        ...over,
      });
    let last: string = newId();
    const moves: (() => Promise<string>)[] = [
      () => file({}),
      () => file({ copies: true, ...into(other.id), pattern: `C${int(0, 99)}` }),
      () => file({ naming: { pattern: '{counter 001 by folder}', extension: 'keep' } }),
      () => {
        const first = int(1, 59);
        const order = [...ids.slice(first), ...ids.slice(0, first)];
        return startRename(db, null, {
          ...AS_WISHED,
          itemIds: asSeen(order),
          pattern: 'M{counter 001}',
        });
      },
      () => undo(db, null, last),
    ];
    let kills = 0;
    for (let round = 0; kills < KILLS; round += 1) {
      // As it happens all of them lie there already, or were given back.
      const operation = await pick(moves)().catch((error: unknown) => {
        if (error instanceof ArchiveError) return null;
        throw error;
      });
      if (operation === null) continue;
      kills += await killUntilDone(round + 101, 4, [0, 90]);
      const wrong = (await operationSteps(db, HOUSE, operation)).flatMap(
        ({ reason }) => reason ?? [],
      );
      expect([round, wrong]).toEqual([round, []]);
      expect((await linesOf(db, [operation]))[0]).toMatchObject({ state: 'done', failed: 0 });
      last = operation;
      for (const one of await filesOf(db, ids))
        expect([round, one.path, await hashFile(one.path)]).toEqual([
          ...[round, one.path, one.contentHash],
        ]);
      expect(await contents()).toEqual(wanted);
      const parked = [place.root, far].flatMap((root) =>
        readdirSync(root, { recursive: true, encoding: 'utf8' }),
      );
      expect(parked.filter((path) => path.endsWith('.part'))).toEqual([]);
    }
    expect(kills).toBeGreaterThanOrEqual(KILLS);
  } finally {
    execFileSync('umount', [far]);
  }
}, 3_600_000);
