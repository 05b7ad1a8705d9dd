import { existsSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { parse as parseCsv } from 'csv-parse/sync';
import { beforeAll, describe, expect, it } from 'vitest';
import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { addPerson } from '#server/auth/people';
import { undo } from '#server/deeds/undo';
import {
  ledger,
  ledgerCount,
  ledgerPeople,
  operationSteps,
  type LedgerWish,
} from '#server/ledger/ledger';
import type { Actor } from '#server/auth/people';
import { laterChanges, undoable, undoAll } from '#server/deeds/many';
import { ledgerCsv } from '#server/ledger/export';
import { listedSpots, saveSpot } from '#server/lists/spots';
import { AS_WISHED } from '../support/naming';
import { startRename } from '#server/naming/rename';
import { changeRecords, readRecords } from '#server/records/records';
import { random } from '../../demo/paint/random';
import type { Place } from '#server/places/places';
import { bringIn, filesIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
const COUNT = 6;
let place: Place;
let ids: string[] = [];

beforeAll(async () => {
  const source = join(archive.folder, 'source');
  for (let at = 0; at < COUNT; at += 1) await writeJpeg(join(source, `p${at}.jpg`), 300 + at);
  place = await placeNamed(archive, 'Shelf');
  await bringIn(archive, source, { mode: 'copy', place });
  // Nobody else looks while names change: what is left is the ledger's work alone.
  await db().updateTable('place').set({ watched: false }).execute();
  ids = await findIds(db(), HOUSE, parseQuery('order brought'));
});

interface State {
  names: string[];
  records: unknown[];
}
/** Names on the disk by item, and what the records say. */
async function state(): Promise<State> {
  const rows = await db()
    .selectFrom('file')
    .select(['itemId', 'name'])
    .where('role', '=', 'original')
    .execute();
  const names = ids.map((id) => rows.find(({ itemId }) => itemId === id)!.name);
  expect([...names].sort()).toEqual(filesIn(place.root));
  const records = await readRecords(db(), ids);
  return { names, records: ids.map((id) => records.find((one) => one.id === id)!.values) };
}

describe('the ledger', () => {
  it('takes any chain of changes back, step by step, to where it began', async () => {
    const { int, pick, next } = random(42);
    const states: State[] = [await state()];
    const done: string[] = [];
    for (let step = 0; step < 14; step += 1) {
      const some = ids.filter(() => next() < 0.6);
      const chosen = some.length > 0 ? some : [ids[0]!];
      try {
        if (next() < 0.5) {
          const pattern = pick(['{name}x', 'A-{counter 1}', '{original}', 'B{counter 01}-{name}']);
          done.push(
            await startRename(db(), null, {
              itemIds: asSeen(chosen),
              pattern,
              ...AS_WISHED,
              clash: next() < 0.5 ? 'number' : 'refuse',
            }),
          );
        } else {
          const change = pick([
            { title: `Title ${step}` },
            { rating: int(-1, 5) },
            { addTerms: [`Term ${int(0, 2)}`] },
            { creator: ['Bea Lund', `Number ${step}`] },
            { taken: `2026-0${int(1, 9)}` },
          ]);
          const changed = await changeRecords(db(), null, asSeen(chosen), change);
          if (!changed) continue;
          done.push(changed.operationId);
        }
      } catch (error) {
        // Names that would meet, or that all stand already, are refused before anything is done.
        if (!(error instanceof ArchiveError)) throw error;
        continue;
      }
      await idle(archive);
      states.push(await state());
    }
    expect(done.length).toBeGreaterThan(6);
    while (done.length > 0) {
      await undo(db(), null, done.pop()!);
      await idle(archive);
      states.pop();
      expect(await state()).toEqual(states.at(-1));
    }
  });

  it('does again what was undone, by undoing the undo', async () => {
    const before = await state();
    const operation = await startRename(db(), null, {
      itemIds: asSeen(ids),
      pattern: 'Again-{counter 1}',
      ...AS_WISHED,
    });
    await idle(archive);
    const after = await state();
    const back = await undo(db(), null, operation);
    await idle(archive);
    expect(await state()).toEqual(before);
    await undo(db(), null, back);
    await idle(archive);
    expect(await state()).toEqual(after);
    await expect(undo(db(), null, operation)).rejects.toMatchObject({ code: 'conflict' });
  });

  it('lists who changed what, newest first, page by page, with every step', async () => {
    const lines = await ledger(db(), 0, 500);
    const times = lines.map(({ at }) => at.getTime());
    expect(times.every(Number.isFinite)).toBe(true);
    expect([...times].sort((a, b) => b - a)).toEqual(times);
    const paged = [...(await ledger(db(), 0, 5)), ...(await ledger(db(), 1, 5))];
    expect(paged.map(({ id }) => id)).toEqual(lines.slice(0, 10).map(({ id }) => id));
    for (const line of lines.slice(0, 8)) {
      const steps = await operationSteps(db(), HOUSE, line.id);
      expect(steps.length).toBeGreaterThan(0);
      for (const { state: settled } of steps) expect(['done', 'undone']).toContain(settled);
    }
    await expect(undo(db(), null, randomUUID())).rejects.toMatchObject({ code: 'not-found' });
  });

  it('says which name could not be given back, and gives back the others', async () => {
    const names = (await state()).names;
    const operation = await startRename(db(), null, {
      itemIds: asSeen(ids),
      pattern: 'Other-{counter 1}',
      ...AS_WISHED,
    });
    await idle(archive);
    // Another program takes one of the old names meanwhile.
    const taken = join(place.root, names[2]!);
    writeFileSync(taken, 'somebody else’s');
    const back = await undo(db(), null, operation);
    await idle(archive);
    expect(readFileSync(taken, 'utf8')).toBe('somebody else’s');
    const [line] = await ledger(db());
    expect(line).toMatchObject({ id: back, failed: 1 });
    const failed = (await operationSteps(db(), HOUSE, back)).find(
      (step) => step.state === 'failed',
    )!;
    expect(failed.reason).toMatch(/there already/);
    const there = filesIn(place.root);
    for (const [at, name] of names.entries()) if (at !== 2) expect(there).toContain(name);
    expect(there).toContain('Other-3.jpg');
    rmSync(taken);
  });

  it('fails a file that is away alone, and leaves its row as it was', async () => {
    const [id] = await findIds(db(), HOUSE, parseQuery('words "Other 3"'));
    const path = join(place.root, 'Other-3.jpg');
    renameSync(path, `${path}.hidden`);
    const operation = await startRename(db(), null, {
      itemIds: asSeen([id!, ids[0]!]),
      pattern: 'Last-{counter 1}',
      ...AS_WISHED,
    });
    await idle(archive);
    const steps = await operationSteps(db(), HOUSE, operation);
    expect(steps.filter(({ state: settled }) => settled === 'failed')).toHaveLength(1);
    expect(steps.filter(({ state: settled }) => settled === 'done')).toHaveLength(1);
    expect(existsSync(path)).toBe(false);
    renameSync(`${path}.hidden`, path);
    expect(await findIds(db(), HOUSE, parseQuery('words "Other 3"'))).toEqual([id]);
  });
});

describe('the lines of the ledger', () => {
  it('are found by who, kind, day and what they are about, and counted so', async () => {
    const email = 'ledger@example.org';
    const who = await addPerson(db(), {
      name: 'Bea',
      email,
      password: 'long enough',
      role: 'keeper',
    });
    const before = await ledgerCount(db(), {});
    await changeRecords(db(), who, asSeen(ids.slice(0, 2)), { caption: 'Found by the ledger' });
    await changeRecords(db(), null, asSeen(ids.slice(2, 3)), { creditLine: '100% ours' });
    await idle(archive);
    const found = async (wish: LedgerWish) => {
      const lines = await ledger(db(), 0, 50, wish);
      expect(lines.length).toBe(Math.min(50, await ledgerCount(db(), wish)));
      return lines;
    };
    expect(await ledgerCount(db(), {})).toBe(before + 2);
    expect((await found({ who })).map(({ summary }) => summary)).toEqual(['Set caption']);
    expect((await found({ who: 'none' })).every(({ actor }) => actor === 'the command line')).toBe(
      true,
    );
    expect((await found({ kind: 'rename' })).every(({ kind }) => kind === 'rename')).toBe(true);
    const [{ number } = { number: '' }] = await readRecords(db(), [ids[0]!]);
    expect((await found({ who, about: number })).length).toBe(1);
    expect((await found({ who, about: '9999.' })).length).toBe(0);
    expect((await found({ about: 'CREDIT' })).length).toBeGreaterThan(0);
    expect((await found({ about: '%' })).length).toBe(0);
    const day = new Date().toISOString().slice(0, 10);
    const yesterday = new Date(Date.now() - 86_400_000).toISOString().slice(0, 10);
    expect((await found({ who, from: yesterday, to: day })).length).toBe(1);
    expect((await found({ who, to: yesterday })).length).toBe(0);
    expect((await ledgerPeople(db())).map(({ name }) => name)).toContain('Bea');
  });
});

describe('the ledger as a table', () => {
  it('has every step of what is asked for, the newest first, with what was before and after', async () => {
    await changeRecords(db(), null, asSeen(ids), { headline: '=1+1', persons: ['Ida', 'Bo'] });
    let text = '';
    for await (const part of ledgerCsv(db(), {})) text += part;
    const [head, ...rows] = parseCsv(text) as string[][];
    expect(head!.slice(0, 3)).toEqual(['When', 'Who', 'Change']);
    const steps = await db()
      .selectFrom('operationStep as s')
      .innerJoin('operation as o', 'o.id', 's.operationId')
      .select(({ fn }) => fn.countAll<string>().as('count'))
      .where('o.kind', '<>', 'rewrite')
      .executeTakeFirstOrThrow();
    expect(rows.length).toBe(Number(steps.count));
    const times = rows.map(([when]) => when!);
    expect(times).toEqual([...times].sort().reverse());
    const newest = rows.slice(0, COUNT);
    expect(new Set(newest.map((row) => row[6])).size).toBe(1);
    // A spreadsheet does not compute what is told.
    expect(newest.every((row) => row[9]!.includes('headline: =1+1'))).toBe(true);
    expect(newest.some((row) => row[9]!.startsWith('='))).toBe(false);
    expect(newest[0]![9]).toContain('persons shown: Ida; Bo');
    let none = '';
    for await (const part of ledgerCsv(db(), { about: 'nothing like this' })) none += part;
    expect(parseCsv(none).length).toBe(1);
  });
});

describe('several changes', () => {
  const titles = async (): Promise<string[]> =>
    (await readRecords(db(), ids)).map(({ values }) => values.title);
  it('are taken back at once, the newest first; later ones that stand in the way are told', async () => {
    const who = await addPerson(db(), {
      ...{ name: 'Many', email: 'many@example.com', role: 'keeper' },
      password: randomUUID(),
    });
    const viewer: Actor = { id: who, name: 'Many', email: 'many@example.com', role: 'keeper' };
    const before = await titles();
    const first = await changeRecords(db(), who, asSeen(ids), { title: 'First', caption: 'One' });
    const second = await changeRecords(db(), who, asSeen(ids.slice(0, 2)), { title: 'Second' });
    await changeRecords(db(), who, asSeen(ids), { headline: 'Beside it' });
    const third = await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Third' });
    const later = await laterChanges(db(), first!.operationId);
    expect(later.map(({ id }) => id)).toEqual([third!.operationId, second!.operationId]);
    await expect(undo(db(), null, first!.operationId)).rejects.toMatchObject({ code: 'conflict' });
    const all = [...later.map(({ id }) => id), first!.operationId].reverse();
    expect(await undoAll(archive.house, viewer, all)).toEqual({
      undone: [third!.operationId, second!.operationId, first!.operationId],
      stopped: null,
    });
    expect(await titles()).toEqual(before);
    expect(await laterChanges(db(), first!.operationId)).toEqual([]);
    // What is left of that person: one change; what took back is even with what it took back.
    const rest = await undoable(db(), { who });
    expect(rest.map(({ summary }) => summary)).toEqual(['Set headline']);
  });

  it('stop where something stands in the way, and say where', async () => {
    const one = await changeRecords(db(), null, asSeen([ids[1]!]), { title: 'A' });
    const two = await changeRecords(db(), null, asSeen([ids[2]!]), { title: 'B' });
    await changeRecords(db(), null, asSeen([ids[1]!]), { title: 'C' });
    const viewer = { id: null, role: 'keeper' } as unknown as Actor;
    const done = await undoAll(archive.house, viewer, [one!.operationId, two!.operationId]);
    expect(done.undone).toEqual([two!.operationId]);
    expect(done.stopped).toMatchObject({ id: one!.operationId });
    expect(done.stopped!.why).toContain('changed again since');
  });

  it('give names back in the right order, and lists with what was changed later in them', async () => {
    await idle(archive);
    const before = (await state()).names;
    const rename = (pattern: string) =>
      startRename(db(), null, { itemIds: asSeen(ids), pattern, ...AS_WISHED });
    const one = await rename('One {counter 1}');
    await idle(archive);
    const two = await rename('Two {counter 1}');
    await idle(archive);
    expect((await laterChanges(db(), one)).map(({ id }) => id)).toEqual([two]);
    const viewer = { id: null, role: 'keeper' } as unknown as Actor;
    expect((await undoAll(archive.house, viewer, [one, two])).undone).toEqual([two, one]);
    await idle(archive);
    expect((await state()).names).toEqual(before);
    const spot = {
      ...{ name: 'Groyne', latitude: 1, longitude: 1, radius: 5, note: '' },
      ...{ sublocation: '', city: '', state: '', country: '' },
    };
    const { id, done } = await saveSpot(db(), null, null, spot);
    const { done: later } = await saveSpot(db(), null, id, { ...spot, radius: 9 });
    expect((await laterChanges(db(), done!.operationId)).map((line) => line.id)).toEqual([
      later!.operationId,
    ]);
    await undoAll(archive.house, viewer, [done!.operationId, later!.operationId]);
    expect(await listedSpots(db())).toEqual([]);
  });

  it('ask for what each of them asked for itself', async () => {
    const operationId = await startRename(db(), null, {
      ...{ itemIds: asSeen([ids[3]!]), pattern: 'Named {counter 1}', ...AS_WISHED },
    });
    await idle(archive);
    const viewer = { id: null, role: 'guest' } as unknown as Actor;
    await expect(undoAll(archive.house, viewer, [operationId])).rejects.toMatchObject({
      code: 'not-allowed',
    });
  });
});
