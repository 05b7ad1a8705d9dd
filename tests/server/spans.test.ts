import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { MOST_SPANS } from '#core/footage/span';
import { parseQuery } from '#core/query/grammar';
import { HOUSE, type Viewer } from '#core/sight/viewer';
import { addPerson } from '#server/auth/people';
import { findIds } from '#server/catalogue/find';
import { undo } from '#server/deeds/undo';
import { ledger } from '#server/ledger/ledger';
import { changeRecords } from '#server/records/records';
import { asSeen, letGoAt } from '#server/sight/seen';
import { clipsBeside } from '#server/spans/beside';
import {
  copySpans,
  doSpans,
  dropSpans,
  joinSpans,
  offsetSpans,
  splitSpan,
} from '#server/spans/deeds';
import { changeSpan, clipOf, keepSpans, spansOf } from '#server/spans/spans';
import type { NewSpan } from '#core/wire/spans';
import { useArchive } from '../support/archive';
import { makeItems } from '../support/made';

const archive = useArchive();
const db = () => archive.house.db;
const by = { id: null, viewer: HOUSE };
const TEAMMATE: Viewer = { role: 'teammate' };
const span = (first: number, last: number, rest: Partial<NewSpan> = {}): NewSpan => ({
  ...{ first, last, isMarker: false, mark: '', title: '', note: '' },
  ...rest,
});
let clip = '';
let photo = '';

beforeAll(async () => {
  const [one, other] = await makeItems(archive);
  [clip, photo] = [one!.id, other!.id];
  await sql`update item set kind = 'photo'`.execute(db());
  await sql`update item set kind = 'footage', duration = 252, creator = '{"Ida Storm"}',
    technical = technical || '{"frameRate": 25, "timecode": "10:42:00:00"}' where id = ${clip}::uuid`.execute(
    db(),
  );
});

describe('spans of a clip', () => {
  it('are kept as they were set, whichever end came first, within the clip, and found as items', async () => {
    const { ids } = await keepSpans(db(), by, clip, [
      span(390, 75, { title: 'Launch, wide', mark: 'pick' }),
      span(795, 900, { isMarker: true, title: 'Line snags', note: 'ask for another take' }),
      span(6290, 9000),
    ]);
    expect(await clipOf(db(), HOUSE, ids[0]!)).toMatchObject({
      ...{ id: clip, rate: 25, start: '10:42:00:00', frames: 6300 },
    });
    const all = await spansOf(db(), HOUSE, clip);
    expect(
      all.map(({ from, to, isMarker, title, mark }) => [from, to, isMarker, title, mark]),
    ).toEqual([
      [75, 391, false, 'Launch, wide', 'pick'],
      [795, 796, true, 'Line snags', ''],
      [6290, 6300, false, '', ''],
    ]);
    expect(new Set(all.map(({ number }) => number)).size).toBe(3);
    const found = await findIds(db(), HOUSE, parseQuery('kind span; creator "Ida Storm"'));
    expect([...found].sort()).toEqual([...ids].sort());
    expect(await findIds(db(), HOUSE, parseQuery('kind footage'))).toEqual([clip]);
    expect((await findIds(db(), HOUSE, parseQuery('kind span; duration 12..13'))).length).toBe(1);
  });

  it('let go of and undone come back with all they had', async () => {
    const [first] = await spansOf(db(), HOUSE, clip);
    await changeRecords(db(), null, asSeen([first!.id]), { rating: 4, addTerms: ['Hands'] });
    const { operation } = await dropSpans(db(), by, [first!.id]);
    expect((await spansOf(db(), HOUSE, clip)).map(({ id }) => id)).not.toContain(first!.id);
    await undo(db(), null, operation!);
    expect((await spansOf(db(), HOUSE, clip))[0]).toMatchObject({
      ...{
        id: first!.id,
        number: first!.number,
        title: 'Launch, wide',
        rating: 4,
        terms: ['Hands'],
      },
    });
  });

  it('go and come back with their clip, but those that had gone before stay gone', async () => {
    const before = await spansOf(db(), HOUSE, clip);
    const { operation } = await dropSpans(db(), by, [before[1]!.id]);
    await letGoAt(db(), 'item', [clip], new Date());
    expect(await findIds(db(), HOUSE, parseQuery('kind span'))).toEqual([]);
    // Its clip is gone: it cannot come back alone.
    await expect(undo(db(), null, operation!)).rejects.toMatchObject({ code: 'conflict' });
    await letGoAt(db(), 'item', [clip], null);
    expect((await spansOf(db(), HOUSE, clip)).map(({ id }) => id)).toEqual([
      before[0]!.id,
      before[2]!.id,
    ]);
    await undo(db(), null, operation!);
    expect(await spansOf(db(), HOUSE, clip)).toEqual(before);
  });

  it('are not moved where somebody else moved them meanwhile', async () => {
    const [first] = await spansOf(db(), HOUSE, clip);
    const seen = { from: first!.from, to: first!.to };
    const { operation } = await changeSpan(db(), by, first!.id, { from: 80, seen });
    await expect(changeSpan(db(), by, first!.id, { to: 300, seen })).rejects.toMatchObject({
      code: 'conflict',
    });
    await undo(db(), null, operation!);
  });

  it('are trimmed and moved, told in the ledger, and refused where they would turn round', async () => {
    const [first] = await spansOf(db(), HOUSE, clip);
    await expect(changeSpan(db(), by, first!.id, { to: 60 })).rejects.toMatchObject({
      code: 'value-refused',
    });
    const { operation } = await changeSpan(db(), by, first!.id, { to: 400, mark: 'ask' });
    expect((await spansOf(db(), HOUSE, clip))[0]).toMatchObject({ from: 75, to: 400, mark: 'ask' });
    const [line] = await ledger(db(), 0, 1);
    expect([line!.id, line!.summary, line!.canUndo]).toEqual([operation, 'Moved a span', true]);
    await undo(db(), null, operation!);
    expect((await spansOf(db(), HOUSE, clip))[0]).toMatchObject({
      from: 75,
      to: 391,
      mark: 'pick',
    });
  });

  it('move all together where the timecode was wrong, and stay within the clip', async () => {
    const before = await spansOf(db(), HOUSE, clip);
    const all = before.map(({ id }) => id);
    const { count, operation } = await offsetSpans(db(), by, all, 25);
    expect(count).toBe(before.length);
    expect((await spansOf(db(), HOUSE, clip)).map(({ from, to }) => [from, to])).toEqual([
      [100, 416],
      [820, 821],
      [6290, 6300],
    ]);
    await undo(db(), null, operation!);
    expect(await spansOf(db(), HOUSE, clip)).toEqual(before);
  });

  it('are joined and split with what they say, and given back as they were', async () => {
    const { ids } = await keepSpans(db(), by, clip, [
      span(1000, 1099, { title: 'One', note: 'first' }),
      span(1150, 1199, { title: 'Two' }),
    ]);
    await changeRecords(db(), null, asSeen([ids[1]!]), { addTerms: ['Dusk'], rating: 2 });
    const told = async () =>
      (await spansOf(db(), HOUSE, clip))
        .filter(({ from }) => from >= 1000 && from < 1300)
        .map((one) => [one.from, one.to, one.title, one.note, one.terms.join()]);
    const before = await told();
    const joined = await joinSpans(db(), by, ids);
    expect(await told()).toEqual([[1000, 1200, 'One', 'first', 'Dusk']]);
    const parted = await splitSpan(db(), by, joined.ids[0]!, 1150);
    expect(await told()).toEqual([
      [1000, 1150, 'One', 'first', 'Dusk'],
      [1150, 1200, 'One', 'first', 'Dusk'],
    ]);
    for (const at of [1000, 1150, 2000])
      await expect(splitSpan(db(), by, parted.ids[0]!, at)).rejects.toMatchObject({
        code: 'value-refused',
      });
    await expect(joinSpans(db(), by, [ids[0]!])).rejects.toMatchObject({ code: 'value-refused' });
    await undo(db(), null, parted.operation!);
    await undo(db(), null, joined.operation!);
    expect(await told()).toEqual(before);
    await dropSpans(db(), by, ids);
  });

  it('are marked together, what is gone left aside', async () => {
    const { ids } = await keepSpans(db(), by, clip, [span(2000, 2001), span(2003, 2004)]);
    const gone = '018f0000-0000-7000-8000-0000000000ff';
    const { count, operation } = await doSpans(db(), by, {
      ...{ does: 'mark', ids: [...ids, gone], mark: 'again' },
    });
    expect(count).toBe(2);
    const marks = async () =>
      (await spansOf(db(), HOUSE, clip)).flatMap(({ id, mark }) => (ids.includes(id) ? mark : []));
    expect(await marks()).toEqual(['again', 'again']);
    await undo(db(), null, operation!);
    expect(await marks()).toEqual(['', '']);
    await doSpans(db(), by, { does: 'drop', ids });
  });

  it('are copied to another clip of the same moment, as far as it ran then', async () => {
    const { rows } = await sql<{ id: string }>`update item set kind = 'footage', duration = 20,
      accession_id = (select accession_id from item where id = ${clip}::uuid),
      technical = technical || '{"frameRate": 50, "timecode": "10:42:10:00"}'
      where id = ${photo}::uuid returning id`.execute(db());
    const other = rows[0]!.id;
    const beside = await clipsBeside(db(), HOUSE, clip);
    expect(beside).toMatchObject([{ id: other, by: 'timecode', later: 10 }]);
    const { ids } = await keepSpans(db(), by, clip, [
      span(250, 274, { title: 'Wave' }),
      span(200, 299),
      span(3000, 3010),
    ]);
    await changeRecords(db(), null, asSeen([ids[0]!]), { rating: 3 });
    const done = await copySpans(db(), by, ids, other);
    expect([done.ids.length, done.count]).toEqual([2, 3]);
    const there = await spansOf(db(), HOUSE, other);
    expect(there.map((one) => [one.from, one.to, one.title, one.rating])).toEqual([
      [0, 50, 'Wave', 3],
      [0, 100, '', 0],
    ]);
    await undo(db(), null, done.operation!);
    expect(await spansOf(db(), HOUSE, other)).toEqual([]);
    await dropSpans(db(), by, ids);
    await sql`update item set kind = 'photo' where id = ${photo}::uuid`.execute(db());
  });

  it('tell of their clips what is asked about spans, to those who may see them', async () => {
    const { ids } = await keepSpans(db(), by, clip, [span(10, 20), span(30, 40)]);
    await changeRecords(db(), null, asSeen([ids[0]!]), { rating: 5 });
    await changeRecords(db(), null, asSeen([ids[1]!]), { rating: 2 });
    const clips = (text: string, viewer = HOUSE) => findIds(db(), viewer, parseQuery(text));
    expect(await clips('spans (rated 5)')).toEqual([clip]);
    expect(await clips('spans (rated 5; duration 10..)')).toEqual([]);
    expect(await clips('kind footage; not spans')).toEqual([]);
    await sql`insert into access_mark (id, item_id, state) values (gen_random_uuid(), ${ids[0]}::uuid, 'closed')`.execute(
      db(),
    );
    expect(await clips('spans (rated 5)', TEAMMATE)).toEqual([]);
    expect(await clips('spans (rated 2)', TEAMMATE)).toEqual([clip]);
    await sql`delete from access_mark`.execute(db());
    await dropSpans(db(), by, ids);
    expect(await clips('spans (rated 5)')).toEqual([]);
  });

  it('are seen and changed by nobody who may not see the clip', async () => {
    const [first] = await spansOf(db(), HOUSE, clip);
    await sql`insert into access_mark (id, item_id, state) values (gen_random_uuid(), ${clip}::uuid, 'closed')`.execute(
      db(),
    );
    await expect(clipOf(db(), TEAMMATE, first!.id)).rejects.toMatchObject({ code: 'not-found' });
    expect(await spansOf(db(), TEAMMATE, clip)).toEqual([]);
    const their = { id: null, viewer: TEAMMATE };
    for (const act of [
      () => changeSpan(db(), their, first!.id, { mark: 'ask' }),
      () => dropSpans(db(), their, [first!.id]),
      () => keepSpans(db(), their, clip, [span(1, 2)]),
      () => offsetSpans(db(), their, [first!.id], 1),
      () => splitSpan(db(), their, first!.id, 200),
      () => copySpans(db(), their, [first!.id], clip),
    ])
      await expect(act()).rejects.toMatchObject({ code: 'not-found' });
    await sql`delete from access_mark`.execute(db());
  });

  it('are of footage and sound only, not of spans, and have a bound', async () => {
    await expect(keepSpans(db(), by, photo, [span(0, 1)])).rejects.toMatchObject({
      code: 'not-found',
    });
    const held = (await spansOf(db(), HOUSE, clip)).length;
    const many = Array.from({ length: MOST_SPANS - held }, (_, at) => span(at, at + 5));
    const { ids, operation } = await keepSpans(db(), by, clip, many);
    expect(new Set(ids).size).toBe(many.length);
    await expect(keepSpans(db(), by, clip, [span(0, 1)])).rejects.toMatchObject({
      code: 'value-refused',
    });
    await undo(db(), null, operation!);
    expect((await spansOf(db(), HOUSE, clip)).length).toBe(held);
  });

  it('kept by two people at once are both there', async () => {
    const before = (await spansOf(db(), HOUSE, clip)).length;
    const two = await Promise.all(
      ['Ada', 'Bo'].map((name) =>
        addPerson(db(), {
          name,
          email: `${name}@saltreach.example`,
          role: 'keeper',
          password: 'rope and canvas',
        }),
      ),
    );
    await Promise.all(
      Array.from({ length: 10 }, (_, at) =>
        keepSpans(db(), { id: two[at % 2]!, viewer: HOUSE }, clip, [span(at * 100, at * 100 + 50)]),
      ),
    );
    const all = await spansOf(db(), HOUSE, clip);
    expect([all.length, new Set(all.map(({ number }) => number)).size]).toEqual([
      before + 10,
      before + 10,
    ]);
  });
});
