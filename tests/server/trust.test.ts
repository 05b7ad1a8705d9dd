import { mkdirSync, readFileSync, symlinkSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { EMPTY_RECORD } from '#core/records/fields';
import { HOUSE } from '#core/sight/viewer';
import { planSchema } from '#core/intake/plan';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { setDropZoneRule } from '#server/watching/dropzone';
import { leftOver } from '#server/intake/report/accessions';
import { readScan, startScan } from '#server/intake/look/scan';
import { pruneJobs } from '#server/work/worker';
import { undo } from '#server/deeds/undo';
import { findWords } from '#server/records/findWords';
import { changeRecords, readRecords } from '#server/records/records';
import { typedTerms } from '#server/terms/terms';
import { bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
const at = (...parts: string[]): string => join(archive.folder, ...parts);

/** A PNG whose head claims a size; the rest is that of a picture of one pixel. */
function lyingPng(width: number, height: number): Buffer {
  const chunk = (type: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const ends = Buffer.alloc(8);
    ends.writeUInt32BE(data.length);
    ends.writeUInt32BE(crc(body), 4);
    return Buffer.concat([ends.subarray(0, 4), body, ends.subarray(4)]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  const signature = Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a]);
  return Buffer.concat([signature, chunk('IHDR', head), chunk('IEND', Buffer.alloc(0))]);
}
const crc = (bytes: Buffer): number => crc32(bytes) >>> 0;

describe('one file that lies', () => {
  it('fails alone: all others come in, and it is told why it has no picture', async () => {
    mkdirSync(at('liar'));
    writeFileSync(at('liar', 'b wide.png'), lyingPng(2_348_816_904, 1));
    await writeJpeg(at('liar', 'a.jpg'), 1);
    await writeJpeg(at('liar', 'c.jpg'), 2);
    const place = await placeNamed(archive, 'Liar');
    const id = await bringIn(archive, at('liar'), { mode: 'copy', place });
    const row = await db()
      .selectFrom('accession')
      .select('state')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    expect(row.state).toBe('done');
    expect(filesIn(place.root)).toEqual(['a.jpg', 'b wide.png', 'c.jpg']);
    const wide = await db()
      .selectFrom('item')
      .select(['width', 'noPicture'])
      .where('originalName', '=', 'b wide.png')
      .executeTakeFirstOrThrow();
    expect(wide.width).toBeNull();
    expect(wide.noPicture).toMatch(/\.$/);
    expect(wide.noPicture).not.toContain('/');
  });
});

describe('a source', () => {
  it('is brought in, or what is not is listed with its reason', async () => {
    const source = at('odd source');
    mkdirSync(join(source, '.keys'), { recursive: true });
    writeFileSync(join(source, 'alone.xmp'), xmpSidecar());
    await writeJpeg(join(source, 'a.jpg'), 11);
    symlinkSync('/etc/passwd', join(source, 'way out.jpg'));
    const place = await placeNamed(archive, 'Odd source');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    expect(filesIn(place.root)).toEqual(['a.jpg']);
    const left = await leftOver(db(), id);
    expect(left.map(({ path }) => path).sort()).toEqual(['.keys', 'alone.xmp', 'way out.jpg']);
    expect(left.every(({ reason }) => reason && reason.length > 5)).toBe(true);
    const scan = await startScan(archive.house, null, { kind: 'folder', name: source });
    await idle(archive);
    const looked = await readScan(db(), scan);
    expect(looked.files).toHaveLength(1);
    expect(looked.leftOut.map(({ path }) => path).sort()).toEqual([
      '.keys',
      'alone.xmp',
      'way out.jpg',
    ]);
  });

  it('gives a sidecar to the one file it is the own of', async () => {
    const source = at('four of a name');
    const sidecar = (title: string) =>
      xmpSidecar(
        `<rdf:Description xmlns:photoshop="http://ns.adobe.com/photoshop/1.0/" photoshop:Credit="${title}"/>`,
      );
    for (const [index, name] of ['k.jpg', 'k.jpeg', 'l.jpg'].entries())
      await writeJpeg(join(source, name), 20 + index);
    writeFileSync(join(source, 'k.xmp'), sidecar('of nobody'));
    writeFileSync(join(source, 'l.jpg.xmp'), sidecar('of l'));
    const place = await placeNamed(archive, 'Four');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    const records = await readRecords(
      db(),
      await findIds(db(), HOUSE, parseQuery('in Four; order name')),
    );
    expect(records.map(({ values }) => values.creditLine).sort()).toEqual(['', '', 'of l']);
    expect((await leftOver(db(), id)).map(({ path }) => path)).toEqual(['k.xmp']);
    expect(filesIn(place.root)).toEqual(['k.jpeg', 'k.jpg', 'l.jpg', 'l.jpg.xmp']);
  });
});

describe('the drop zone', () => {
  it('takes another file of the same name and size, also while an accession is paused', async () => {
    const zone = archive.house.folders.dropZone;
    mkdirSync(zone, { recursive: true });
    const place = await placeNamed(archive, 'From the zone');
    await setDropZoneRule(archive.house, {
      mode: 'move',
      placeId: place.id,
      plan: planSchema.parse({ filing: '', naming: '{name}' }),
    });
    const old = new Date(Date.now() - 60_000);
    const drop = (text: string): void => {
      writeFileSync(join(zone, 'note.txt'), text);
      utimesSync(join(zone, 'note.txt'), old, old);
    };
    drop('first');
    const notes = (): string[] => filesIn(place.root).filter((name) => name.endsWith('.txt'));
    await until(async () => notes().length === 1, 'the first', 60);
    await idle(archive);
    await sql`insert into accession (id, year, number, title, source, plan, root, mode, place_id, state)
      select gen_random_uuid(), year, number + 500, title, source, plan, ${zone}, mode, place_id, 'paused'
      from accession where root = ${zone} limit 1`.execute(db());
    drop('other');
    await until(async () => notes().length === 2, 'the second', 60);
    await idle(archive);
    expect(
      notes()
        .map((name) => readFileSync(join(place.root, name), 'utf8'))
        .sort(),
    ).toEqual(['first', 'other']);
    await setDropZoneRule(archive.house, null);
  });
});

describe('ten thousand records', () => {
  let ids: string[] = [];
  beforeAll(async () => {
    // Nothing of theirs lies on disk: only what the database does is asked for here.
    await archive.worker.stop();
    archive.worker = { stop: async () => undefined };
    await sql`insert into item (id, number, accession_id, kind, media_type, format, original_name)
      select gen_random_uuid(), '2099.001.' || to_char(g, 'FM00000'), (select id from accession limit 1),
        'other', 'text/plain', 'text', 'note ' || g from generate_series(1, 10000) g`.execute(db());
    await sql`insert into file (id, item_id, place_id, folder_id, name, role, size, modified_ns, inode, content_hash, picture_key)
      select gen_random_uuid(), i.id, d.place_id, d.id, i.original_name, 'original', 1, 1, 1, i.number, i.number
      from item i, (select id, place_id from folder limit 1) d where i.number like '2099.%'`.execute(
      db(),
    );
    const { rows } = await sql<{ id: string }>`select id from item where number like '2099.%'
      order by number`.execute(db());
    ids = rows.map(({ id }) => id);
  });

  it('are changed in one step of few statements, with a job for their files and one for their words', async () => {
    expect(ids).toHaveLength(10_000);
    const change = { creditLine: 'Saltreach Kites', addTerms: ['Box kite under Kite'], rating: 3 };
    const done = (await changeRecords(db(), null, asSeen(ids), change))!;
    expect(done.changed).toBe(10_000);
    const records = await readRecords(db(), ids);
    expect(
      records.every(
        ({ values }) => values.creditLine === 'Saltreach Kites' && values.terms[0] === 'Box kite',
      ),
    ).toBe(true);
    const jobs = await db()
      .selectFrom('job')
      .select(['task', 'total'])
      .where('operationId', '=', done.operationId)
      .execute();
    expect(jobs.sort((a, b) => (a.task < b.task ? -1 : 1))).toEqual([
      { task: 'find-words', total: 10_000 },
      { task: 'write-records', total: 10_000 },
    ]);
    const words = await db()
      .selectFrom('job')
      .selectAll()
      .where('task', '=', 'find-words')
      .where('operationId', '=', done.operationId)
      .executeTakeFirstOrThrow();
    const calm = { checkWish: () => Promise.resolve(), report: () => Promise.resolve() };
    await findWords(archive.house, words as never, calm as never);
    expect(await findIds(db(), HOUSE, parseQuery('words "saltreach kites"'))).toHaveLength(10_000);
    await undo(db(), null, done.operationId);
    const [first] = await readRecords(db(), [ids[0]!]);
    expect(first!.values).toEqual(EMPTY_RECORD);
  });

  it('are given back where nothing was changed since; what was is told, and stays', async () => {
    const [one, two] = ids as [string, string];
    const first = (await changeRecords(db(), null, asSeen([one, two]), {
      title: 'First',
      caption: 'Said',
    }))!;
    await changeRecords(db(), null, asSeen([one]), { title: 'Later' });
    await expect(undo(db(), null, first.operationId)).rejects.toMatchObject({
      code: 'conflict',
      data: { standing: [{ field: 'title' }], rest: 2 },
    });
    const before = await readRecords(db(), [one]);
    expect(before[0]!.values).toMatchObject({ title: 'Later', caption: 'Said' });
    await undo(db(), null, first.operationId, true);
    const after = new Map(
      (await readRecords(db(), [one, two])).map(({ id, values }) => [id, values]),
    );
    expect(after.get(one)).toMatchObject({ title: 'Later', caption: '' });
    expect(after.get(two)).toMatchObject({ title: '', caption: '' });
  });

  it('keep what two set at one moment in different fields', async () => {
    const [one] = ids as [string];
    await Promise.all([
      changeRecords(db(), null, asSeen([one]), { title: 'By one' }),
      changeRecords(db(), null, asSeen([one]), { caption: 'By another' }),
      changeRecords(db(), null, asSeen([one]), { rating: 5 }),
    ]);
    const [record] = await readRecords(db(), [one]);
    expect(record!.values).toMatchObject({ title: 'By one', caption: 'By another', rating: 5 });
  });
});

describe('terms as people type them', () => {
  it('stand under a broader one; what is called so already is itself', async () => {
    expect(
      await typedTerms(db(), ['Lark under Bird under Animal', '"Tower under Repair"']),
    ).toEqual(['Lark', 'Tower under Repair']);
    expect(await typedTerms(db(), ['tower UNDER repair', 'Bird'])).toEqual([
      'Tower under Repair',
      'Bird',
    ]);
    const { rows } = await sql<{ label: string; broader: string | null }>`
      select t.label, b.label as broader from term t left join term_broader above on above.term_id = t.id
        left join term b on b.id = above.broader_id
      where t.label in ('Lark', 'Bird', 'Animal', 'Tower under Repair') order by 1`.execute(db());
    expect(rows).toEqual([
      { label: 'Animal', broader: null },
      { label: 'Bird', broader: 'Animal' },
      { label: 'Lark', broader: 'Bird' },
      { label: 'Tower under Repair', broader: null },
    ]);
  });
});

describe('jobs that ended', () => {
  it('are forgotten after two weeks; those of accessions and of open work stay', async () => {
    const count = async (): Promise<number> =>
      Number(
        (await sql<{ n: string }>`select count(*) as n from job where state = 'done'`.execute(db()))
          .rows[0]!.n,
      );
    await pruneJobs(archive.house);
    const before = await count();
    expect(before).toBeGreaterThan(3);
    await sql`update job set finished_at = now() - interval '15 days' where state = 'done'`.execute(
      db(),
    );
    await pruneJobs(archive.house);
    const { rows } = await sql<{
      task: string;
    }>`select distinct task from job where state = 'done'`.execute(db());
    expect(rows).toEqual([{ task: 'intake' }]);
  });
});
