import { beforeAll, describe, expect, it } from 'vitest';
import { FIELD_KEYS } from '#core/records/fields';
import { changeRecords, readRecords } from '#server/records/records';
import { summaryOfItems } from '#server/records/summary';
import { random } from '../../demo/paint/random';
import { useArchive } from '../support/archive';
import { makeItems } from '../support/made';
import { asSeen } from '#server/sight/seen';
import { mergeAll } from '../support/spread';

/** What the record card says of many is what reading every record says. */
const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];
beforeAll(async () => {
  ids = (await makeItems(archive)).map(({ id }) => id);
});

describe('what is said of chosen items', () => {
  it('is what all their records say, laid over each other', async () => {
    const { int, next } = random(11);
    for (let round = 0; round < 12; round += 1) {
      const few = int(1, 4);
      const chosen = round === 0 ? ids : ids.filter(() => next() < few / 40);
      const records = await readRecords(db(), chosen);
      const said = await summaryOfItems(db(), asSeen(chosen));
      expect(said.count).toBe(records.length);
      if (records.length === 0) continue;
      const plain = mergeAll(records.map(({ values }) => values));
      for (const key of FIELD_KEYS) {
        if (key === 'terms') continue;
        const [ours, theirs] = [said.merged![key], plain[key]];
        expect([key, ours.mixed]).toEqual([key, theirs.mixed]);
        if (!ours.mixed) expect([key, ours.value]).toEqual([key, theirs.value]);
        expect([key, ours.among.map(({ count }) => count)]).toEqual([
          ...[key, theirs.among.map(({ count }) => count)],
        ]);
      }
      for (const { term, count, all } of said.terms) {
        const given = records.filter(({ values }) => values.terms.includes(term)).length;
        expect([term, count, all]).toEqual([term, given, given === records.length]);
      }
      expect(said.lackCredit).toBe(records.filter(({ values }) => !values.creditLine).length);
      expect(Object.keys(said.versions).length).toBe(records.length);
      expect(said.bytes).toBeGreaterThan(0);
    }
  });

  it('leaves out what was let go meanwhile, its terms as well', async () => {
    const chosen = ids.slice(0, 2);
    await changeRecords(db(), null, asSeen(chosen), { addTerms: ['Only here'] });
    await db()
      .updateTable('item')
      .set({ deletedAt: new Date() })
      .where('id', '=', ids[0]!)
      .execute();
    const said = await summaryOfItems(db(), asSeen(chosen));
    expect([said.count, said.number === null]).toEqual([1, false]);
    expect(said.terms.find(({ term }) => term === 'Only here')).toEqual({
      ...{ term: 'Only here', count: 1, all: true },
    });
    expect(await summaryOfItems(db(), asSeen([ids[0]!]))).toMatchObject({
      count: 0,
      merged: null,
      terms: [],
    });
  });
});
