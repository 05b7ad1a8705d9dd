import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { DEED_NAMES, DEEDS, deedNamed } from '#core/deeds/kinds';
import { ENTRIES } from '#core/entries/registry';
import { stepWords } from '#core/ledger/told';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { addPerson } from '#server/auth/people';
import {
  addCollection,
  addItems,
  collectionById,
  collections,
  editCollection,
  idsInOrder,
  moveItems,
  removeCollection,
  removeItems,
  restoreCollection,
} from '#server/collections/collections';
import { undo } from '#server/deeds/undo';
import { newId } from '#server/house/ids';
import { ledger, operationSteps, type LedgerLine } from '#server/ledger/ledger';
import { laterChanges } from '#server/deeds/many';
import { openRoom } from '#server/rooms/rooms';
import { asSeen } from '#server/sight/seen';
import { NOBODY, useArchive } from '../support/archive';
import { makeItems } from '../support/made';

/** Every change is in the ledger, told in words, and taken back: collections and what lies in them, too. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
let ids: string[] = [];
const some = (from: number, to: number) => asSeen(ids.slice(from, to));
const order = async (id: string): Promise<number[]> =>
  (await idsInOrder(db(), HOUSE, id)).map((one) => ids.indexOf(one));
const last = async (): Promise<LedgerLine> => (await ledger(db(), 0, 1))[0]!;
const undoLast = async (partly = false): Promise<string> =>
  undo(db(), null, (await last()).id, partly);
const clash = { code: 'conflict' };

beforeAll(async () => {
  ids = (await makeItems(archive)).map(({ id }) => id);
});

describe('kinds of change', () => {
  it('are told by one record each; the database knows no other', async () => {
    for (const name of DEED_NAMES) expect(deedNamed(name)).toMatchObject({ name, ...DEEDS[name] });
    expect(deedNamed('rewrite')).toBeNull();
    expect(deedNamed('toString')).toBeNull();
    expect(new Set(Object.values(DEEDS).map(({ of }) => of)).size).toBe(DEED_NAMES.length);
    for (const { deed } of Object.values(ENTRIES)) expect(DEED_NAMES).toContain(deed);
    const id = newId();
    await db()
      .insertInto('operation')
      .values({ id, kind: 'rewrite', summary: 'x', state: 'done', actorId: null, undoes: null })
      .execute();
    await expect(undo(db(), null, id)).rejects.toMatchObject({ code: 'not-found' });
  });
});

describe('a collection', () => {
  it('is made, called otherwise, filled, put in order, emptied and let go of: told each time, and all of it taken back', async () => {
    const before = (await collections(db(), HOUSE)).map(({ name }) => name);
    const told: string[] = [];
    const states: (number[] | null)[] = [];
    const id = await addCollection(db(), null, 'Chapter 3', 'for the printer');
    const note = async (): Promise<void> => {
      told.push((await last()).summary);
      states.push(
        await collectionById(db(), HOUSE, id).then(
          () => order(id),
          () => null,
        ),
      );
    };
    await note();
    await addItems(db(), NOBODY, id, some(0, 6));
    await note();
    await moveItems(db(), NOBODY, id, asSeen([ids[5]!, ids[3]!]), ids[0]!);
    await note();
    await editCollection(db(), null, id, { name: 'Chapter three' });
    await note();
    await removeItems(db(), NOBODY, id, some(1, 3));
    await note();
    await removeCollection(db(), NOBODY, id);
    await note();
    expect(told).toEqual([
      'Made the collection “Chapter 3”',
      'Put 6 items into the collection “Chapter 3”',
      'Moved 2 items in the collection “Chapter 3”',
      'Called the collection “Chapter 3” “Chapter three”',
      'Took 2 items out of the collection “Chapter three”',
      'Let go of the collection “Chapter three”',
    ]);
    expect(states).toEqual([
      [],
      [0, 1, 2, 3, 4, 5],
      [3, 5, 0, 1, 2, 4],
      [3, 5, 0, 1, 2, 4],
      [3, 5, 0, 4],
      null,
    ]);
    const lines = (await ledger(db(), 0, told.length)).map(({ id: operation }) => operation);
    for (const [at, operation] of lines.entries()) {
      await undo(db(), null, operation);
      const wished = states[states.length - 2 - at] ?? null;
      const now = await collectionById(db(), HOUSE, id).then(
        () => order(id),
        () => null,
      );
      expect([at, now]).toEqual([at, at === lines.length - 1 ? null : wished]);
    }
    expect((await collections(db(), HOUSE)).map(({ name }) => name)).toEqual(before);
    // Undoing an undo does it again.
    await undoLast();
    expect(await collectionById(db(), HOUSE, id)).toMatchObject({
      name: 'Chapter 3',
      note: 'for the printer',
    });
  });

  it('of many is put in order by writing what moves; where no room is left between two it is counted anew', async () => {
    const id = await addCollection(db(), null, 'Many');
    await addItems(db(), NOBODY, id, asSeen(ids));
    const placed = async () =>
      new Map(
        (
          await db()
            .selectFrom('collectionItem')
            .select(['itemId', 'position'])
            .where('collectionId', '=', id)
            .execute()
        ).map((row) => [row.itemId, row.position]),
      );
    const was = await placed();
    await moveItems(db(), NOBODY, id, some(100, 110), ids[4]!);
    const is = await placed();
    expect(
      [...is]
        .filter(([item, position]) => was.get(item) !== position)
        .map(([item]) => ids.indexOf(item))
        .sort((a, b) => a - b),
    ).toEqual(Array.from({ length: 10 }, (_, at) => 100 + at));
    expect((await last()).total).toBe(10);
    expect((await order(id)).slice(3, 16)).toEqual([
      3,
      ...Array.from({ length: 10 }, (_, at) => 100 + at),
      4,
      5,
    ]);
    // Always between the same two: the room halves each time.
    for (let round = 0; round < 60; round += 1)
      await moveItems(
        db(),
        NOBODY,
        id,
        asSeen([ids[round % 2 === 0 ? 200 : 201]!]),
        ids[round % 2 === 0 ? 201 : 200]!,
      );
    for (let round = 0; round < 30; round += 1) {
      const [, second] = await order(id);
      await moveItems(db(), NOBODY, id, asSeen([ids[210 + (round % 2)]!]), ids[second!]!);
    }
    const positions = [...(await placed()).values()];
    expect(new Set(positions).size).toBe(ids.length);
    expect((await order(id)).length).toBe(ids.length);
    await moveItems(db(), NOBODY, id, some(0, 1), null);
    expect((await order(id)).at(-1)).toBe(0);
  });

  it('has what was taken out back beside what came to stand in its place', async () => {
    const id = await addCollection(db(), null, 'Taken places');
    await addItems(db(), NOBODY, id, some(0, 4));
    await removeItems(db(), NOBODY, id, some(3, 4));
    const removal = await last();
    await addItems(db(), NOBODY, id, some(4, 5));
    await undo(db(), null, removal.id);
    expect((await order(id)).slice(0, 3)).toEqual([0, 1, 2]);
    expect(new Set((await order(id)).slice(3))).toEqual(new Set([3, 4]));
    // Between the two of one place there is room as well.
    const [, , , one, two] = (await order(id)) as [number, number, number, number, number];
    await moveItems(db(), NOBODY, id, some(0, 1), ids[two]!);
    expect(await order(id)).toEqual([1, 2, one, 0, two]);
  });

  it('clashes where others changed it since: by name, and item by item', async () => {
    const id = await addCollection(db(), null, 'Shared round');
    await addItems(db(), NOBODY, id, some(0, 4));
    const added = await last();
    await editCollection(db(), null, id, { note: 'first' });
    const first = await last();
    await editCollection(db(), null, id, { note: 'second' });
    await expect(undo(db(), null, first.id)).rejects.toMatchObject(clash);
    expect(await laterChanges(db(), first.id)).toMatchObject([
      { summary: 'Changed the collection “Shared round”' },
    ]);
    await moveItems(db(), NOBODY, id, some(3, 4), ids[0]!);
    await expect(undo(db(), null, added.id)).rejects.toMatchObject(clash);
    await undo(db(), null, added.id, true);
    expect(await order(id)).toEqual([3]);
    await removeCollection(db(), NOBODY, id);
    const gone = await last();
    await addCollection(db(), null, 'shared Round');
    await expect(undo(db(), null, gone.id)).rejects.toMatchObject(clash);
    await expect(restoreCollection(db(), null, id)).rejects.toMatchObject(clash);
  });

  it('which guests see is given back by those who open rooms alone', async () => {
    const person = await addPerson(db(), {
      name: 'Bea',
      email: 'bea@deeds.example',
      role: 'contributor',
      password: 'rope and canvas',
    });
    const actor = {
      id: person,
      role: 'contributor',
    } as const;
    const id = await addCollection(db(), actor.id, 'On show');
    await addItems(db(), actor, id, some(0, 3));
    const filled = await last();
    expect(filled).toMatchObject({ kind: 'collections', actor: 'Bea', total: 3 });
    await openRoom(db(), null, {
      collectionId: id,
      title: 'Round',
      greeting: '',
      sizes: [],
      expiresAt: new Date(Date.now() + 1e6),
    });
    await expect(undo(db(), actor.id, filled.id)).rejects.toMatchObject({ code: 'not-allowed' });
    await undo(db(), null, filled.id);
    expect(await order(id)).toEqual([]);
  });

  it('is told step by step, item by item', async () => {
    const id = await addCollection(db(), null, 'Told');
    await addItems(db(), NOBODY, id, some(0, 2));
    const steps = await operationSteps(db(), HOUSE, (await last()).id);
    expect(steps.map(({ number, before, after }) => [number, stepWords(before, after)])).toEqual([
      ['2026.007.0001', { before: 'not in it', after: 'in it' }],
      ['2026.007.0002', { before: 'not in it', after: 'in it' }],
    ]);
    await moveItems(db(), NOBODY, id, some(1, 2), ids[0]!);
    const [moved] = await operationSteps(db(), HOUSE, (await last()).id);
    expect(stepWords(moved!.before, moved!.after)).toEqual({
      before: 'in its place',
      after: 'put elsewhere in it',
    });
  });

  it('as an older release told it is given back: it knew its sentence alone', async () => {
    const [old, now] = [parseQuery('rated 3..'), parseQuery('rated 4..')];
    const id = await addCollection(db(), null, 'Of old', 'a note', now);
    const operation = newId();
    await db()
      .insertInto('operation')
      .values({
        id: operation,
        kind: 'lists',
        summary: 'Merged two terms',
        state: 'done',
        actorId: null,
        undoes: null,
        total: 1,
      })
      .execute();
    await sql`insert into operation_step (operation_id, position, action, before, after, state) values (${operation}::uuid, 0, 'entry',
      ${JSON.stringify({ list: 'collection', id, entry: { query: old } })}::jsonb,
      ${JSON.stringify({ list: 'collection', id, entry: { query: now } })}::jsonb, 'done')`.execute(
      db(),
    );
    await undo(db(), null, operation);
    expect(await collectionById(db(), HOUSE, id)).toMatchObject({
      name: 'Of old',
      note: 'a note',
      query: old,
    });
  });
});
