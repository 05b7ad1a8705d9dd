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
import {
  changeSpan,
  clipOf,
  dropSpans,
  keepSpans,
  offsetSpans,
  spansOf,
} from '#server/spans/spans';
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
    const { moved, operation } = await offsetSpans(db(), by, clip, 25);
    expect(moved).toBe(before.length);
    expect((await spansOf(db(), HOUSE, clip)).map(({ from, to }) => [from, to])).toEqual([
      [100, 416],
      [820, 821],
      [6290, 6300],
    ]);
    await undo(db(), null, operation!);
    expect(await spansOf(db(), HOUSE, clip)).toEqual(before);
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
      () => offsetSpans(db(), their, clip, 1),
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
