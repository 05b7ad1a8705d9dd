import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { isCut } from '#core/footage/sequence';
import { HOUSE, type Viewer } from '#core/sight/viewer';
import { undo } from '#server/deeds/undo';
import { newId } from '#server/house/ids';
import { ledger } from '#server/ledger/ledger';
import {
  addSequence,
  copySequence,
  dropSequence,
  editSequence,
  sequenceOf,
  sequences,
} from '#server/sequences/sequences';
import { keepSpans } from '#server/spans/spans';
import { useArchive } from '../support/archive';
import { makeItems } from '../support/made';

const archive = useArchive({ worker: false });
const db = () => archive.house.db;
const by = { id: null, viewer: HOUSE };
const TEAMMATE: Viewer = { role: 'teammate' };
let [clip, other, photo, span] = ['', '', '', ''];

beforeAll(async () => {
  const [one, two, three] = await makeItems(archive);
  [clip, other, photo] = [one!.id, two!.id, three!.id];
  await sql`update item set kind = 'photo', no_picture = null`.execute(db());
  for (const [id, rate] of [
    [clip, 25],
    [other, 50],
  ] as const)
    await sql`update item set kind = 'footage', duration = 10,
      technical = technical || ${JSON.stringify({ frameRate: rate, frames: rate * 10 })}::jsonb
      where id = ${id}::uuid`.execute(db());
  const { ids } = await keepSpans(db(), by, clip, [
    { ...{ first: 50, last: 99, isMarker: false, mark: '' }, title: 'Launch', note: '' },
  ]);
  span = ids[0]!;
});

const told = async (id: string, viewer = HOUSE) => {
  const { pieces, rate } = await sequenceOf(db(), viewer, id);
  return {
    rate,
    pieces: pieces.map(({ piece, kind }) => [
      kind,
      ...(isCut(piece) ? [piece.from, piece.to] : [piece.seconds]),
    ]),
  };
};

describe('a rough sequence', () => {
  it('takes spans, clips and stills in their length, in the rate most have, and gives every step back', async () => {
    const { id } = await addSequence(db(), by, { name: 'One minute', items: [span, photo, clip] });
    expect(await told(id)).toEqual({
      rate: 25,
      pieces: [
        ['span', 50, 100],
        ['still', 5],
        ['clip', 0, 250],
      ],
    });
    const [first] = (await sequenceOf(db(), HOUSE, id)).pieces;
    const { operation } = await editSequence(db(), by, id, {
      add: { items: [other], before: first!.piece.id },
    });
    expect((await told(id)).pieces[0]).toEqual(['clip', 0, 500]);
    await undo(db(), null, operation!);
    expect((await told(id)).pieces[0]).toEqual(['span', 50, 100]);
    expect((await ledger(db(), 0, 5)).map(({ summary }) => summary)).toContain(
      'Put 1 piece into the sequence “One minute”',
    );
    expect((await sequences(db(), HOUSE)).map(({ name, pieces }) => [name, pieces])).toEqual([
      ['One minute', 3],
    ]);
    const gone = await dropSequence(db(), by, id);
    await expect(sequenceOf(db(), HOUSE, id)).rejects.toMatchObject({ code: 'not-found' });
    await undo(db(), null, gone.operation!);
    expect((await told(id)).pieces).toHaveLength(3);
    await dropSequence(db(), by, id);
  });

  it('is ordered and trimmed as it was seen; what somebody else did meanwhile is told', async () => {
    const { id } = await addSequence(db(), by, { name: 'Order', items: [span, clip] });
    const pieces = (await sequenceOf(db(), HOUSE, id)).pieces.map(({ piece }) => piece);
    const turned = [...pieces].reverse();
    await editSequence(db(), by, id, { pieces: turned, seen: pieces });
    await expect(editSequence(db(), by, id, { pieces: [], seen: pieces })).rejects.toMatchObject({
      code: 'conflict',
    });
    const gap = { id: newId(), item: null, seconds: 2 };
    await editSequence(db(), by, id, { pieces: [...turned, gap], seen: turned, note: 'rough' });
    expect((await told(id)).pieces.at(-1)).toEqual(['gap', 2]);
    const copy = await copySequence(db(), by, id);
    expect(await told(copy.id)).toEqual(await told(id));
    await Promise.all([dropSequence(db(), by, id), dropSequence(db(), by, copy.id)]);
  });

  it('tells nothing of what one may not see, and takes nothing in that one may not play', async () => {
    const { id } = await addSequence(db(), by, { name: 'Closed', items: [span, other] });
    await sql`insert into access_mark (id, item_id, state) values (gen_random_uuid(), ${clip}::uuid, 'closed')`.execute(
      db(),
    );
    const [hidden, open] = (await sequenceOf(db(), TEAMMATE, id)).pieces;
    expect(hidden).toMatchObject({ kind: 'unseen', number: null, picture: null, name: 'A piece' });
    expect(open!.kind).toBe('clip');
    expect((await sequences(db(), TEAMMATE))[0]!.cover).toHaveLength(1);
    const their = { id: null, viewer: TEAMMATE };
    const pieces = (await sequenceOf(db(), TEAMMATE, id)).pieces.map(({ piece }) => piece);
    // What others put in may be put elsewhere, and stays.
    await editSequence(db(), their, id, { pieces: [...pieces].reverse(), seen: pieces });
    await expect(
      editSequence(db(), their, id, {
        pieces: [{ id: newId(), item: clip, from: 0, to: 5 }],
      }),
    ).rejects.toMatchObject({ code: 'not-found' });
    expect(await editSequence(db(), their, id, { add: { items: [clip], before: null } })).toEqual({
      ...{ operation: null, left: 1 },
    });
    await sql`delete from access_mark`.execute(db());
    await dropSequence(db(), by, id);
  });

  it('has a bound', async () => {
    const { id } = await addSequence(db(), by, { name: 'Long', items: [] });
    const pieces = Array.from({ length: 501 }, () => ({ id: newId(), item: null, seconds: 1 }));
    await expect(editSequence(db(), by, id, { pieces })).rejects.toMatchObject({
      code: 'value-refused',
    });
  });
});
