import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { choicesOf, holdings } from '#server/catalogue/facets';
import { findIds, findTiles, neighboursOf, stretchOf, wallOf } from '#server/catalogue/find';
import { newId } from '#server/house/ids';
import { ensureFolder } from '#server/places/folderRows';
import { Stopped, type Progress } from '#server/jobs/attempt';
import { reporting } from '#server/jobs/reporting';
import { changeRecords, readRecords } from '#server/records/records';
import { asSeen } from '#server/sight/seen';
import { placeNamed, useArchive } from '../support/archive';

/** An archive of a hundred thousand items, made by arithmetic: what each holds is plain from its number. */
const archive = useArchive({ worker: false });
const db = () => archive.house.db;
const COUNT = 100_003;
const FOLDERS = 211;
const TERMS = 97;

/** The same arithmetic as in the statements below. */
const made = (n: number) => ({
  kind: ['photo', 'footage', 'sound'][n % 3]!,
  rating: (n % 7) - 1,
  hasTitle: n % 5 !== 0,
  folder: n % FOLDERS,
  month: n % 24,
  hasDate: n % 11 !== 0,
  terms: [n % TERMS, (n * 7 + 1) % TERMS],
});
const all = Array.from({ length: COUNT }, (_, n) => made(n));
const count = (holds: (one: ReturnType<typeof made>) => boolean): number =>
  all.filter(holds).length;

beforeAll(async () => {
  const place = await placeNamed(archive, 'Many');
  const accession = newId();
  await db()
    .insertInto('accession')
    .values({
      ...{ id: accession, year: 2098, number: 1, title: 'Many', source: '{}', plan: '{}' },
      ...{ root: '/', mode: 'copy', placeId: place.id, createdBy: null },
    })
    .execute();
  const first = await ensureFolder(db(), place.id, 'f0');
  await sql`insert into folder (id, place_id, parent_id, path, name)
    select gen_random_uuid(), place_id, parent_id, 'f' || g, 'f' || g
    from folder, generate_series(1, ${FOLDERS - 1}) g where id = ${first}::uuid`.execute(db());
  await sql`insert into term (id, label) select gen_random_uuid(), 'term ' || g from generate_series(0, ${TERMS - 1}) g`.execute(
    db(),
  );
  await sql`insert into item (id, number, accession_id, kind, media_type, format, original_name, rating, title,
      taken_edtf, taken_from, taken_to)
    select gen_random_uuid(), '2098.001.' || to_char(n, 'FM000000'), ${accession}::uuid,
      (array['photo', 'footage', 'sound'])[n % 3 + 1], 'image/jpeg', 'jpeg', 'n' || n, n % 7 - 1,
      case when n % 5 = 0 then '' else 'Title ' || n end,
      case when n % 11 = 0 then null else to_char(d, 'YYYY-MM') end,
      case when n % 11 = 0 then null else d end,
      case when n % 11 = 0 then null else d + interval '1 month' - interval '1 millisecond' end
    from generate_series(0, ${COUNT - 1}) n,
      lateral (select timestamp '2025-01-01' + (n % 24) * interval '1 month' as d) dated`.execute(
    db(),
  );
  await sql`insert into file (id, item_id, place_id, folder_id, name, role, size, modified_ns, inode, content_hash,
      picture_key)
    select gen_random_uuid(), i.id, d.place_id, d.id, i.original_name || '.jpg', 'original', 1000, 1, 1, i.number, i.number
    from item i join folder d on d.path = 'f' || substr(i.original_name, 2)::int % ${FOLDERS}
    where i.accession_id = ${accession}::uuid`.execute(db());
  await sql`insert into item_term (item_id, term_id)
    select distinct i.id, t.id from item i
    join term t on t.label in ('term ' || substr(i.original_name, 2)::int % ${TERMS},
      'term ' || (substr(i.original_name, 2)::int * 7 + 1) % ${TERMS})
    where i.accession_id = ${accession}::uuid`.execute(db());
  await sql`analyze`.execute(db());
}, 180_000);

describe('a hundred thousand items', () => {
  const everything = parseQuery('');

  it('are found whole: the wall, the ids, the last page; nothing is cut off', async () => {
    const { total, groups } = await wallOf(db(), HOUSE, everything);
    expect(total).toBe(COUNT);
    expect(await stretchOf(db(), HOUSE, everything, COUNT - 10, 500)).toHaveLength(10);
    expect(groups.reduce((sum, group) => sum + group.count, 0)).toBe(COUNT);
    const ids = await findIds(db(), HOUSE, everything);
    expect(new Set(ids).size).toBe(COUNT);
    const last = await findTiles(db(), HOUSE, everything, COUNT - 2, 60);
    expect(last.map(({ id }) => id)).toEqual(ids.slice(-2));
    expect(await neighboursOf(db(), HOUSE, everything, ids[COUNT - 1]!)).toMatchObject({
      index: COUNT - 1,
      total: COUNT,
      next: null,
    });
  }, 60_000);

  it('are counted on every sheet as a plain filter counts them', async () => {
    const choices = async (field: string, text = '') => {
      const found = await choicesOf(db(), HOUSE, parseQuery(text), { field });
      const counts = new Map<string | number, number>(
        found.choices.map((one) => [field === 'terms' ? one.label : one.value, one.count]),
      );
      return counts.set('unknown', found.lacking);
    };
    const kinds = await choices('kind', 'rated 2..');
    for (const kind of ['photo', 'footage', 'sound'])
      expect([kind, kinds.get(kind)]).toEqual([
        kind,
        count((one) => one.kind === kind && one.rating >= 2),
      ]);
    const rated = await choices('rating', 'kind photo; lacking title');
    for (const rating of [-1, 0, 1, 2, 3, 4, 5])
      expect([rating, rated.get(rating) ?? 0]).toEqual([
        rating,
        count((one) => one.rating === rating && one.kind === 'photo' && !one.hasTitle),
      ]);
    const taken = await choices('taken', 'kind sound');
    const dated = (one: ReturnType<typeof made>) => one.hasDate && one.kind === 'sound';
    expect(taken.get('2025')).toBe(count((one) => dated(one) && one.month < 12));
    expect(taken.get('2026-03')).toBe(count((one) => dated(one) && one.month === 14));
    expect(taken.get('unknown')).toBe(count((one) => !one.hasDate && one.kind === 'sound'));
    const terms = await choices('terms', 'kind footage');
    for (const term of [0, 50, TERMS - 1])
      expect([term, terms.get(`term ${term}`)]).toEqual([
        term,
        count((one) => one.kind === 'footage' && one.terms.includes(term)),
      ]);
    const folders = await holdings(db(), HOUSE, parseQuery('rated 5'));
    for (const folder of [0, 100, FOLDERS - 1])
      expect([folder, folders.find(({ path }) => path === `f${folder}`)!.here]).toEqual([
        folder,
        count((one) => one.folder === folder && one.rating === 5),
      ]);
  }, 120_000);

  it('go through statements that name each of them', async () => {
    const ids = await findIds(db(), HOUSE, everything);
    expect(await readRecords(db(), ids)).toHaveLength(COUNT);
  }, 120_000);
});

describe('a change of a hundred thousand', () => {
  it('stopped half-way has changed nothing, and is no line of the ledger', async () => {
    const ids = asSeen(await findIds(db(), HOUSE, parseQuery('')));
    const told: number[] = [];
    const progress: Progress = {
      report: (done) => Promise.resolve(void told.push(done)),
      checkWish: () =>
        told.at(-1)! < COUNT / 2 ? Promise.resolve() : Promise.reject(new Stopped('cancelled')),
    };
    const change = () => changeRecords(db(), null, ids, { creditLine: 'Everybody' });
    await expect(reporting(progress, change)).rejects.toBeInstanceOf(Stopped);
    expect(told.length).toBeGreaterThan(10);
    const { rows } =
      await sql`select (select count(*)::int from item where credit_line <> '') as given,
      (select count(*)::int from operation) as noted`.execute(db());
    expect(rows).toEqual([{ given: 0, noted: 0 }]);
  }, 60_000);
});
