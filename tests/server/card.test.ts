import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import type { RecordChange } from '#core/records/fields';
import { FIRST_FIELDS } from '#core/records/sections';
import { linesOf } from '#core/records/column';
import { findIds } from '#server/catalogue/find';
import { pickedInOrder } from '#server/catalogue/picked';
import { undo } from '#server/deeds/undo';
import { linesOf as linesIn } from '#server/ledger/ledger';
import { chooseFirstFields, firstFields } from '#server/records/card';
import { columnPreview, layColumn } from '#server/records/column';
import { changeEach, changeRecords, readRecords, type Seen } from '#server/records/records';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { exiv2, writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
const recordOf = async (at: number) => (await readRecords(db(), [ids[at]!]))[0]!;
/** What a card shows of an item, as somebody has it before them. */
async function seenOf(at: number, ...fields: ('title' | 'city' | 'persons')[]): Promise<Seen> {
  const { id, version, values } = await recordOf(at);
  return {
    versions: { [id]: version },
    base: Object.fromEntries(fields.map((key) => [key, values[key]])),
  };
}

beforeAll(async () => {
  const source = join(archive.folder, 'card');
  mkdirSync(source);
  for (const at of [1, 2, 3, 4]) await writeJpeg(join(source, `c${at}.jpg`), at);
  await bringIn(archive, source, { mode: 'copy', place: await placeNamed(archive, 'Cards') });
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
});

describe('two people at one record', () => {
  it('change different fields side by side', async () => {
    const [mine, theirs] = [await seenOf(0, 'title'), await seenOf(0, 'city')];
    await changeRecords(db(), null, asSeen([ids[0]!]), { city: 'Wick' }, theirs);
    await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Dunes' }, mine);
    expect((await recordOf(0)).values).toMatchObject({ title: 'Dunes', city: 'Wick' });
  });

  it('clash in one field: the later one is told how it is now, nothing is overwritten', async () => {
    const [mine, theirs] = [await seenOf(0, 'title'), await seenOf(0, 'title')];
    await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Theirs' }, theirs);
    await expect(
      changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Mine' }, mine),
    ).rejects.toMatchObject({ code: 'conflict', data: { field: 'title', theirs: 'Theirs' } });
    expect((await recordOf(0)).values.title).toBe('Theirs');
    // Who wants what is there already is in nobody's way.
    expect(
      await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Theirs' }, mine),
    ).toBeNull();
  });

  it('add to and take from one list together', async () => {
    await changeRecords(db(), null, asSeen([ids[0]!]), { persons: ['Ida', 'Bo'] });
    const [mine, theirs] = [await seenOf(0, 'persons'), await seenOf(0, 'persons')];
    await changeRecords(db(), null, asSeen([ids[0]!]), { remove: { persons: ['Bo'] } }, theirs);
    await changeRecords(db(), null, asSeen([ids[0]!]), { add: { persons: ['Zoë', 'Ida'] } }, mine);
    expect((await recordOf(0)).values.persons).toEqual(['Ida', 'Zoë']);
  });

  it('without the values that were seen any change of another is a clash', async () => {
    const { versions } = await seenOf(0);
    await changeRecords(db(), null, asSeen([ids[0]!]), { city: 'Elsewhere' });
    await expect(
      changeRecords(db(), null, asSeen([ids[0]!]), { addTerms: ['Kite'] }, { versions }),
    ).rejects.toMatchObject({ code: 'conflict' });
  });
});

describe('elements of lists over many', () => {
  it('are given to all and taken from all; what else each has stays; one step gives it back', async () => {
    await changeRecords(db(), null, asSeen([ids[1]!]), { persons: ['Ada'] });
    const before = await readRecords(db(), ids);
    const { operationId } = (await changeRecords(db(), null, asSeen(ids), {
      add: { persons: ['Everyone'] },
      remove: { persons: ['Ida'] },
    }))!;
    const after = (await readRecords(db(), ids)).map(({ values }) => values.persons.join());
    expect(after.sort()).toEqual(['Ada,Everyone', 'Everyone', 'Everyone', 'Zoë,Everyone']);
    await undo(db(), null, operationId);
    const persons = (records: typeof before) =>
      records.map(({ id, values }) => [id, values.persons]).sort();
    expect(persons(await readRecords(db(), ids))).toEqual(persons(before));
  });
});

describe('a column laid over items', () => {
  it('goes in the order of the sentence, is shown before, set as one step, and written', async () => {
    const order = await pickedInOrder(archive.house, HOUSE, [ids[2]!, ids[0]!], 'order name down');
    expect(order).toEqual([ids[2], ids[0]]);
    const chosen = await pickedInOrder(
      archive.house,
      HOUSE,
      [ids[3]!, ids[1]!, ids[2]!],
      'order name',
    );
    expect(chosen).toEqual([ids[1], ids[2], ids[3]]);
    const cells = linesOf('First\nSecond\n');
    const seen = await columnPreview(db(), chosen, 'genre', cells);
    expect(seen).toMatchObject({ cells: 2, changed: 2, problems: 0 });
    expect((await recordOf(1)).values.genre).toBe('');
    const done = await layColumn(db(), null, chosen, 'genre', cells, seen.fingerprint);
    expect(done!.changed).toBe(2);
    const now = await Promise.all([1, 2, 3].map(recordOf));
    expect(now.map(({ values }) => values.genre)).toEqual(['First', 'Second', '']);
    await idle(archive);
    expect(exiv2(join(archive.folder, 'Cards/c2.jpg'))['Xmp.iptc.IntellectualGenre']).toBe('First');
    await undo(db(), null, done!.operationId);
    expect((await recordOf(1)).values.genre).toBe('');
  });

  it('is bound to what was shown; lines that are no value are left out and told', async () => {
    const cells = linesOf('2026-09-12\nsoon\n1987~');
    const seen = await columnPreview(db(), asSeen(ids), 'taken', cells);
    expect([seen.problems, seen.lines[1]!.problem]).toEqual([
      1,
      '“soon” is no value of this field',
    ]);
    await changeRecords(db(), null, asSeen([ids[0]!]), { title: 'Meanwhile' });
    await expect(
      layColumn(db(), null, asSeen(ids), 'taken', cells, seen.fingerprint),
    ).rejects.toMatchObject({ code: 'conflict' });
    const again = await columnPreview(db(), asSeen(ids), 'taken', cells);
    await layColumn(db(), null, asSeen(ids), 'taken', cells, again.fingerprint);
    expect((await recordOf(2)).values.taken!.edtf).toBe('1987~');
  });
});

describe('the fields a team wants first', () => {
  it('are kept for everybody; before that, the usual ones', async () => {
    expect(await firstFields(db())).toEqual(FIRST_FIELDS);
    await chooseFirstFields(db(), ['jobId', 'event']);
    expect(await firstFields(db())).toEqual(['jobId', 'event']);
    await chooseFirstFields(db(), []);
    expect(await firstFields(db())).toEqual([]);
  });
});

describe('the same values for many', () => {
  it('set by the database, are what they are where each record is read, in record and ledger', async () => {
    const changes: RecordChange[] = [
      { title: 'Same', rating: 3 },
      { event: 'Wind Week', creator: ['Bea Lund', 'Zoë Ångström'] },
      { stage: 'Approved', caption: 'One “quoted” caption \\ of all' },
      { event: '', persons: [], creditLine: '' },
      { rating: -1, event: 'Wind Week', title: 'Same' },
    ];
    // Unlike each other, so that some differ in one field and some in another.
    await changeRecords(db(), null, asSeen([ids[0]!]), {
      title: 'Same',
      event: 'Other',
      persons: ['Ida'],
    });
    await changeRecords(db(), null, asSeen([ids[1]!]), {
      creator: ['Bea Lund'],
      creditLine: 'Lund',
    });
    const stepsOf = (operationId: string) =>
      db()
        .selectFrom('operationStep')
        .select(['position', 'itemId', 'action', 'state', 'before', 'after'])
        .where('operationId', '=', operationId)
        .orderBy('position')
        .execute();
    const told = async (change: RecordChange, each: boolean) => {
      const done = each
        ? await changeEach(db(), null, [{ itemIds: ids, change }])
        : await changeRecords(db(), null, asSeen(ids), change);
      const { operationId } = done!;
      const summary = (await linesIn(db(), [operationId]))[0]!.summary.split(/ |, /).sort();
      const records = await readRecords(db(), ids);
      const values = ids.map((id) => records.find((one) => one.id === id)!.values);
      return { operationId, changed: done!.changed, summary, values };
    };
    for (const change of changes) {
      const { operationId: one, ...fast } = await told(change, false);
      const steps = await stepsOf(one);
      await undo(db(), null, one);
      const { operationId: other, ...slow } = await told(change, true);
      expect(fast).toEqual(slow);
      expect(steps).toEqual(await stepsOf(other));
      expect(await changeRecords(db(), null, asSeen(ids), change)).toBeNull();
    }
  });
});
