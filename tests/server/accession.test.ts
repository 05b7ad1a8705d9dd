import { execFileSync } from 'node:child_process';
import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { sql } from 'kysely';
import sharp from 'sharp';
import { describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { parseChain, parseManifest } from '#core/manifest/mhl';
import { findTiles } from '#server/catalogue/find';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { hashFile } from '#server/files/hash';
import { startAccession } from '#server/intake/plan/accession';
import { bundled, filesToBring, type WishedFile } from '#server/intake/sources/files';
import { resetCounters } from '#server/intake/plan/counters';
import {
  forgetPlan,
  lastPlan,
  rememberPlan,
  savedPlans,
  savePlan,
} from '#server/intake/plan/plans';
import { previewPlan } from '#server/intake/plan/targets';
import { measuredSpeed } from '#server/intake/report/accessions';
import { alikeIn, report, reportCsv } from '#server/intake/report/report';
import { verify } from '#server/intake/report/verify';
import { retryFailed } from '#server/intake/run/job';
import { readScan, startScan } from '#server/intake/look/scan';
import { emptyingOf, startEmptying } from '#server/intake/run/release';
import { addPerson } from '#server/auth/people';
import { wishJob } from '#server/jobs/queue';
import { undo } from '#server/deeds/undo';
import { addPlace } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { KEEPER, bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { exiv2, jpeg, setTags, writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let made = 0;

/** A folder of new pictures that nobody holds yet. */
async function card(count: number, tags: (at: number) => Record<string, string> = () => ({})) {
  made += 1;
  const folder = join(archive.folder, `card-${made}`);
  for (let at = 0; at < count; at += 1)
    await writeJpeg(join(folder, `HRN_${at + 1}.JPG`), made * 100 + at, tags(at));
  return folder;
}
const hashes = async (folder: string): Promise<Record<string, string>> =>
  Object.fromEntries(
    await Promise.all(
      filesIn(folder).map(async (name) => [name, await hashFile(join(folder, name))] as const),
    ),
  );

describe('moving', () => {
  it('asks before it leaves one copy only', async () => {
    const source = await card(1);
    const place = await placeNamed(archive, 'Moved');
    const wish = {
      title: 'Move',
      source: { kind: 'folder' as const, name: source },
      root: source,
      mode: 'move' as const,
      place,
      plan: { filing: '', naming: '{name}' },
      files: await filesToBring(source),
      actorId: null,
    };
    await expect(startAccession(archive.house, wish)).rejects.toMatchObject({
      code: 'confirm-needed',
      message: expect.stringContaining('one copy only') as string,
    });
    const second = await placeNamed(archive, 'Second shelf');
    await startAccession(archive.house, {
      ...wish,
      plan: { ...wish.plan, secondCopyId: second.id },
    });
    await idle(archive);
    expect(readdirSync(source)).toEqual([]);
    expect(filesIn(place.root)).toEqual(filesIn(second.root));
  });

  it('deletes each source only after its own verified copy stands, with its sidecar', async () => {
    const source = await card(3);
    writeFileSync(
      join(source, 'HRN_2.JPG.xmp'),
      xmpSidecar(
        '<rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="3"/>',
      ),
    );
    const before = await hashes(source);
    const place = await placeNamed(archive, 'Moved alone');
    const id = await bringIn(archive, source, { mode: 'move', place, singleCopy: true });
    expect(readdirSync(source)).toEqual([]);
    const after = await hashes(place.root);
    expect(Object.values(after).sort()).toEqual(Object.values(before).sort());
    expect(await report(db(), id)).toMatchObject({ done: 3, removed: 3, refused: 0, checked: 3 });
  });

  it('leaves what it skips, what fails, and what changed meanwhile', async () => {
    const source = await card(3);
    const held = await placeNamed(archive, 'Held before');
    mkdirSync(join(archive.folder, 'early'));
    cpSync(join(source, 'HRN_1.JPG'), join(archive.folder, 'early/HRN_1.JPG'));
    await bringIn(archive, join(archive.folder, 'early'), { mode: 'copy', place: held });
    const place = await placeNamed(archive, 'Moved in part');
    await archive.worker.stop();
    const { id } = await startAccession(archive.house, {
      title: 'Move',
      source: { kind: 'folder', name: source },
      root: source,
      mode: 'move',
      place,
      plan: { filing: '', naming: '{name}' },
      files: [...(await filesToBring(source)), { path: 'gone.jpg', size: 5 }],
      actorId: null,
      singleCopy: true,
    });
    const { startWorker } = await import('#server/work/worker');
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    const lines = (await report(db(), id)).lines;
    expect(lines.map(({ from, state, sourceState }) => [from, state, sourceState])).toEqual([
      ['HRN_1.JPG', 'skipped', 'kept'],
      ['HRN_2.JPG', 'done', 'removed'],
      ['HRN_3.JPG', 'done', 'removed'],
      ['gone.jpg', 'failed', 'kept'],
    ]);
    expect(readdirSync(source)).toEqual(['HRN_1.JPG']);
  });
});

describe('emptying a card', () => {
  it('is a step of its own, seen before it is done, and spares what changed', async () => {
    const source = await card(4);
    const place = await placeNamed(archive, 'From the card');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    expect(filesIn(source)).toHaveLength(4);
    expect(await emptyingOf(archive.house, id)).toMatchObject({ files: 4, stay: 0, single: 4 });
    await expect(startEmptying(archive.house, id, null, false)).rejects.toMatchObject({
      code: 'confirm-needed',
      message: expect.stringContaining('one copy only') as string,
    });
    await writeJpeg(join(source, 'HRN_5.JPG'), 999);
    appendFileSync(join(source, 'HRN_3.JPG'), 'edited meanwhile');
    // A copy that went bad must not be the last one.
    const bad = join(place.root, 'HRN_2.jpg');
    const bytes = readFileSync(bad);
    bytes[bytes.length >> 1]! ^= 0xff;
    writeFileSync(bad, bytes);
    await startEmptying(archive.house, id, null, true);
    await idle(archive);
    expect(readdirSync(source).sort()).toEqual(['HRN_2.JPG', 'HRN_3.JPG', 'HRN_5.JPG']);
    const lines = (await report(db(), id)).lines;
    expect(lines.map(({ sourceReason }) => sourceReason)).toEqual([
      null,
      'its copy does not read as it should',
      'it changed since it was copied',
      null,
    ]);
    await expect(
      startEmptying(archive.house, '00000000-0000-0000-0000-000000000000', null, true),
    ).rejects.toMatchObject({ code: 'not-found' });
  });

  it('never happens to files that are kept in place', async () => {
    const own = await card(1);
    const id = await bringIn(archive, own, {
      mode: 'in-place',
      place: await addPlace(archive.house, 'Kept here', own),
    });
    await expect(startEmptying(archive.house, id, null, true)).rejects.toMatchObject({
      code: 'conflict',
    });
    expect(filesIn(own)).toEqual(['HRN_1.JPG']);
  });
});

describe('second copies', () => {
  it('are verified; one that fails says why and is tried again', async () => {
    const source = await card(2);
    const place = await placeNamed(archive, 'First of two');
    const second = await placeNamed(archive, 'Second of two');
    renameSync(second.root, `${second.root} away`);
    const id = await bringIn(archive, source, {
      mode: 'copy',
      place,
      plan: { secondCopyId: second.id },
    });
    const first = await report(db(), id);
    expect(first).toMatchObject({ done: 2, failed: 0, seconds: { done: 0, failed: 2 } });
    expect(first.lines[0]!.secondReason).toContain('is away');
    renameSync(`${second.root} away`, second.root);
    await retryFailed(archive.house, id);
    await idle(archive);
    expect((await report(db(), id)).seconds).toEqual({ done: 2, failed: 0 });
    expect(await hashes(second.root)).toEqual(await hashes(place.root));
    const [tile] = await findTiles(db(), HOUSE, parseQuery('in "First of two"'), 0, 1);
    const item = await showItem(db(), KEEPER, tile!.id);
    expect(item.files.map(({ role }) => role).sort()).toEqual(['original', 'second-copy']);
  });
});

describe('plans', () => {
  it('stamp what comes in: blanks, over, or added', async () => {
    const place = await placeNamed(archive, 'Stamped');
    const values = {
      title: 'Wind Week',
      creator: ['Tomas Ekwueme'],
      creditLine: 'Saltreach Kites',
    };
    const brought = async (way: 'fill blanks' | 'overwrite' | 'add') => {
      const source = await card(1, () => ({
        'XMP-dc:Title': 'Red sail',
        'EXIF:Artist': 'Bea Lund',
      }));
      const id = await bringIn(archive, source, {
        mode: 'copy',
        place,
        plan: { stamp: { way, values }, terms: ['Kite'] },
      });
      const [line] = (await report(db(), id)).lines;
      const { record } = await showItem(
        db(),
        KEEPER,
        await itemByNumber(db(), HOUSE, line!.number!),
      );
      const { title, creator, creditLine, terms } = record;
      expect(terms).toEqual(['Kite']);
      return { title, creator, creditLine, file: join(place.root, line!.to!) };
    };
    expect(await brought('fill blanks')).toMatchObject({
      title: 'Red sail',
      creator: ['Bea Lund'],
      creditLine: 'Saltreach Kites',
    });
    const over = await brought('overwrite');
    expect(over).toMatchObject({ title: 'Wind Week', creator: ['Tomas Ekwueme'] });
    expect(exiv2(over.file)['Xmp.dc.title']).toContain('Wind Week');
    expect(await brought('add')).toMatchObject({
      title: 'Red sail\nWind Week',
      creator: ['Bea Lund', 'Tomas Ekwueme'],
    });
  });

  it('let counters go on across accessions, or begin again', async () => {
    const place = await placeNamed(archive, 'Counted');
    const bring = async (countersGoOn: boolean): Promise<string[]> => {
      const before = filesIn(place.root);
      await bringIn(archive, await card(2), {
        mode: 'copy',
        place,
        naming: 'SLT-{counter 001}',
        plan: { countersGoOn },
      });
      return filesIn(place.root).filter((name) => !before.includes(name));
    };
    expect(await bring(true)).toEqual(['SLT-001.jpg', 'SLT-002.jpg']);
    expect(await bring(true)).toEqual(['SLT-003.jpg', 'SLT-004.jpg']);
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: await card(2) });
    await idle(archive);
    const plan = { filing: '', naming: 'SLT-{counter 001}' };
    const names = async (over: object): Promise<string[]> =>
      (await previewPlan(db(), scanId, [0, 1], place.id, { ...plan, ...over })).lines.map(
        ({ name }) => name,
      );
    expect(await names({})).toEqual(['SLT-005.jpg', 'SLT-006.jpg']);
    expect(await names({ countersGoOn: false })).toEqual(['SLT-001-2.jpg', 'SLT-002-2.jpg']);
    expect(await resetCounters(db(), place.id, plan.naming)).toBe(1);
    expect(await bring(true)).toEqual(['SLT-001-2.jpg', 'SLT-002-2.jpg']);
  });

  it('keep the first name in the record and in XMP', async () => {
    const place = await placeNamed(archive, 'Renamed');
    const id = await bringIn(archive, await card(1), {
      mode: 'copy',
      place,
      naming: 'SLT-{counter 1}',
    });
    const [line] = (await report(db(), id)).lines;
    expect(
      (await showItem(db(), KEEPER, await itemByNumber(db(), HOUSE, line!.number!))).originalName,
    ).toBe('HRN_1.JPG');
    expect(exiv2(join(place.root, 'SLT-1.jpg'))['Xmp.xmpMM.PreservedFileName']).toBe('HRN_1.JPG');
  });

  it('are saved by name, replaced, forgotten, and the last one is remembered for its source', async () => {
    const actor = await addPerson(db(), {
      name: 'Odile',
      email: 'odile@example.org',
      password: 'long enough 1',
      role: 'keeper',
    });
    const kept = {
      mode: 'copy' as const,
      placeId: (await placeNamed(archive, 'Counted')).id,
      plan: (await import('#core/intake/plan')).planSchema.parse({ filing: 'a', naming: '{name}' }),
    };
    await savePlan(db(), actor, 'Cards', kept);
    const id = await savePlan(db(), actor, 'cards', { ...kept, mode: 'move' });
    expect(await savedPlans(db())).toEqual([{ id, name: 'cards', ...kept, mode: 'move' }]);
    await forgetPlan(db(), actor, id);
    await expect(forgetPlan(db(), actor, id)).rejects.toMatchObject({ code: 'not-found' });
    const source = { kind: 'device' as const, name: 'card-b' };
    expect(await lastPlan(db(), actor, source)).toBeNull();
    await rememberPlan(db(), actor, source, kept);
    await rememberPlan(db(), actor, source, { ...kept, mode: 'move' });
    expect(await lastPlan(db(), actor, source)).toEqual({ ...kept, mode: 'move' });
    expect(await lastPlan(db(), actor, { ...source, name: 'other' })).toBeNull();
  });
});

describe('clocks', () => {
  it('are set right on the way in, in record, name and EXIF; what they said is kept', async () => {
    const source = await card(2, (at) => ({
      'EXIF:Model': at === 0 ? 'Tern X' : 'Heron 5',
      'EXIF:DateTimeOriginal': '2026:09:12 23:30:00',
    }));
    const place = await placeNamed(archive, 'Clocks');
    const id = await bringIn(archive, source, {
      mode: 'copy',
      place,
      filing: '{taken yyyy-MM-dd}',
      naming: '{taken HHmm}-{name}',
      plan: { clocks: { 'Tern X': 3780 } },
    });
    expect(filesIn(join(place.root, '2026-09-13'))).toEqual(['0033-HRN_1.jpg']);
    expect(filesIn(join(place.root, '2026-09-12'))).toEqual(['2330-HRN_2.jpg']);
    const tags = exiv2(join(place.root, '2026-09-13/0033-HRN_1.jpg'));
    expect(tags['Exif.Photo.DateTimeOriginal']).toBe('2026:09:13 00:33:00');
    const { lines } = await report(db(), id);
    expect(lines.map(({ clockShift }) => clockShift)).toEqual([3780, null]);
    const item = await showItem(db(), KEEPER, await itemByNumber(db(), HOUSE, lines[0]!.number!));
    expect(item.record.taken!.from).toBe('2026-09-13T00:33:00.000');
    expect(item.technical.clockSaid).toBe('2026-09-12T23:30:00.000');
  });
});

describe('what is known of a file', () => {
  it('is written into its copy before that is put in place: once, to the same picture', async () => {
    const source = await card(2);
    const place = await placeNamed(archive, 'Written once');
    const id = await bringIn(archive, source, {
      mode: 'copy',
      place,
      naming: 'SLT-{counter 01}',
      plan: { stamp: { way: 'overwrite', values: { title: 'Wind', creditLine: 'Saltreach' } } },
    });
    const { lines, manifests } = await report(db(), id);
    expect(lines.map(({ to }) => to)).toEqual(['SLT-01.jpg', 'SLT-02.jpg']);
    const jobs = await db()
      .selectFrom('job as j')
      .innerJoin('accessionEntry as e', 'e.itemId', 'j.itemId')
      .select('j.task')
      .where('e.accessionId', '=', id)
      .execute();
    expect(jobs.map(({ task }) => task)).toEqual(['pictures', 'pictures']);
    const listed = parseManifest(readFileSync(manifests[0]!, 'utf8')).hashes;
    for (const [at, { to, from, xxh128 }] of lines.entries()) {
      const path = join(place.root, to!);
      const [now, before] = [readFileSync(path), readFileSync(join(source, from))];
      expect((await sharp(now).raw().toBuffer()).equals(await sharp(before).raw().toBuffer())).toBe(
        true,
      );
      expect(xxh128).toBe(await hashFile(join(source, from)));
      expect(listed[at]).toMatchObject({ xxh128: await hashFile(path), source: xxh128, path: to });
      expect(listed[at]!.size).toBe(now.length);
      const told = execFileSync('exiv2', ['-K', 'Xmp.dc.title', '-Pt', path]).toString();
      expect(told).toContain('Wind');
      const first = execFileSync('exiv2', ['-K', 'Xmp.xmpMM.PreservedFileName', '-Pt', path]);
      expect(first.toString()).toContain(from);
    }
    const item = await showItem(db(), KEEPER, await itemByNumber(db(), HOUSE, lines[0]!.number!));
    expect(item.writing).toBe('written');
    expect(await verify(archive.house, lines[0]!.number!.slice(0, 8))).toMatchObject({
      good: 2,
      described: 0,
      damaged: [],
    });
    // The card is known again by its own bytes.
    const again = await bringIn(archive, source, { mode: 'copy', place });
    expect((await report(db(), again)).lines.map(({ reason }) => reason)).toEqual(
      lines.map(({ number }) => `already held as ${number}`),
    );
  });

  it('is what a look read of it, while it stays the file that was looked at', async () => {
    const source = await card(2);
    const place = await placeNamed(archive, 'Looked at');
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: source });
    await idle(archive);
    const names = readdirSync(source).sort();
    await setTags(join(source, names[1]!), { 'XMP-dc:Title': 'Changed since' });
    const told = { record: { title: 'From the look' } };
    await sql`update scan_file set looked = jsonb_set(looked, '{facts,record,title}', ${JSON.stringify(told.record.title)}::jsonb)
      where scan_id = ${scanId}::uuid`.execute(db());
    const id = await bringIn(archive, source, { mode: 'copy', place, scanId });
    const titles = await Promise.all(
      (await report(db(), id)).lines.map(async ({ number }) => {
        const { record } = await showItem(db(), KEEPER, await itemByNumber(db(), HOUSE, number!));
        return record.title;
      }),
    );
    expect(titles).toEqual(['From the look', 'Changed since']);
  });
});

describe('what was held', () => {
  it('is known although only its metadata differ; it may come again, or as a version', async () => {
    const source = await card(1);
    const place = await placeNamed(archive, 'Held');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    const [first] = (await report(db(), id)).lines;
    const other = join(archive.folder, 'described');
    mkdirSync(other);
    cpSync(join(source, 'HRN_1.JPG'), join(other, 'HRN_1.JPG'));
    await setTags(join(other, 'HRN_1.JPG'), { 'XMP-dc:Title': 'Told elsewhere' });
    const bring = async (decision?: WishedFile['decision']) => {
      const next = await bringIn(archive, other, {
        mode: 'copy',
        place,
        files: [{ path: 'HRN_1.JPG', size: 1, decision }],
      });
      return report(db(), next);
    };
    const skipped = await bring();
    expect(skipped).toMatchObject({ done: 0, skipped: 1 });
    expect(skipped.lines[0]!.reason).toBe(
      `already held as ${first!.number}: the same picture, described differently (title)`,
    );
    const held = await itemByNumber(db(), HOUSE, first!.number!);
    const version = await bring({ versionOf: held });
    expect(version).toMatchObject({ done: 1, skipped: 0 });
    const item = await showItem(
      db(),
      KEEPER,
      await itemByNumber(db(), HOUSE, version.lines[0]!.number!),
    );
    expect(item.lineage).toMatchObject([{ kind: 'version of', number: first!.number }]);
    expect((await bring('again')).done).toBe(1);
  });

  it('takes over what another copy of its picture says, undone like any change', async () => {
    const source = await card(1);
    const place = await placeNamed(archive, 'Taken over');
    const { lines } = await report(db(), await bringIn(archive, source, { mode: 'copy', place }));
    const id = await itemByNumber(db(), HOUSE, lines[0]!.number!);
    await changeRecords(db(), null, asSeen([id]), { creditLine: 'Ours', addTerms: ['Dune'] });
    await idle(archive);
    const other = join(archive.folder, 'told');
    mkdirSync(other);
    cpSync(join(source, 'HRN_1.JPG'), join(other, 'HRN_1.JPG'));
    const told = { 'XMP-dc:Title': 'Told', 'XMP-dc:Subject': 'Told term' };
    await setTags(join(other, 'HRN_1.JPG'), told);
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: other });
    await idle(archive);
    const [seen] = (await readScan(db(), scanId)).files;
    expect(seen).toMatchObject({ held: lines[0]!.number, heldDiffers: ['title', 'terms'] });
    const bring = async () =>
      report(
        db(),
        await bringIn(archive, other, {
          mode: 'copy',
          place,
          files: [{ path: 'HRN_1.JPG', size: 1, decision: 'describe' }],
        }),
      );
    expect((await bring()).lines[0]).toMatchObject({
      state: 'skipped',
      reason: `already held as ${lines[0]!.number}: the same picture; title, terms taken over from this file`,
    });
    const record = async () => (await showItem(db(), KEEPER, id)).record;
    expect(await record()).toMatchObject({
      title: 'Told',
      creditLine: 'Ours',
      terms: ['Dune', 'Told term'],
    });
    expect((await bring()).lines[0]!.reason).toMatch(/described alike$/);
    const last = await db()
      .selectFrom('operation')
      .select('id')
      .where('kind', '=', 'record')
      .orderBy('createdAt', 'desc')
      .executeTakeFirstOrThrow();
    await undo(db(), null, last.id);
    await idle(archive);
    expect(await record()).toMatchObject({ title: '', terms: ['Dune'] });
  });
});

describe('manifests', () => {
  it('list what each accession brought, generation after generation', async () => {
    const place = await placeNamed(archive, 'Listed');
    const [one, two] = [await card(2), await card(1)];
    await bringIn(archive, one, { mode: 'copy', place, filing: 'a b' });
    await bringIn(archive, two, { mode: 'copy', place });
    const folder = join(place.root, 'ascmhl');
    const chain = parseChain(readFileSync(join(folder, 'ascmhl_chain.xml'), 'utf8'));
    expect(chain.map(({ sequence }) => sequence)).toEqual([1, 2]);
    expect(readdirSync(folder).sort()).toEqual(
      [...chain.map(({ path }) => path), 'ascmhl_chain.xml'].sort(),
    );
    const manifests = chain.map(({ path }) =>
      parseManifest(readFileSync(join(folder, path), 'utf8')),
    );
    expect(manifests.map(({ hashes }) => hashes.map(({ path }) => path))).toEqual([
      ['a b/HRN_1.jpg', 'a b/HRN_2.jpg'],
      ['HRN_1.jpg'],
    ]);
    for (const { hashes: listed } of manifests)
      for (const { path, size, xxh128 } of listed) {
        expect(statSync(join(place.root, path)).size).toBe(size);
        expect(await hashFile(join(place.root, path))).toBe(xxh128);
      }
    // Another reader of XML finds them well formed.
    for (const { path } of chain) execFileSync('xmllint', ['--noout', join(folder, path)]);
    execFileSync('xmllint', ['--noout', join(folder, 'ascmhl_chain.xml')]);
  });

  it('of files kept in place lie outside their folder, which is not touched', async () => {
    const own = await card(1);
    utimesSync(own, 1_600_000_000, 1_600_000_000);
    const id = await bringIn(archive, own, {
      mode: 'in-place',
      place: await addPlace(archive.house, 'Untouched', own),
    });
    expect(readdirSync(own)).toEqual(['HRN_1.JPG']);
    expect(statSync(own).mtimeMs).toBe(1_600_000_000_000);
    const [manifest] = (await report(db(), id)).manifests;
    expect(manifest!.startsWith(archive.house.folders.manifests)).toBe(true);
    expect(parseManifest(readFileSync(manifest!, 'utf8'))).toMatchObject({ process: 'in-place' });
  });
});

describe('a source that goes away', () => {
  it('pauses the whole with its reason; nothing is marked failed, and it goes on when it is back', async () => {
    const source = await card(30);
    const place = await placeNamed(archive, 'Pulled out');
    // Nothing can be catalogued meanwhile: those in hand wait, the others are not begun.
    const holding = await archive.house.pool.connect();
    await holding.query('begin; lock table file in exclusive mode');
    const { id, jobId } = await startAccession(archive.house, {
      title: 'Card',
      source: { kind: 'folder', name: source },
      root: source,
      mode: 'copy',
      place,
      plan: { filing: '', naming: '{name}' },
      files: await filesToBring(source),
      actorId: null,
    });
    await until(async () => filesIn(place.root).length > 0, 'some files to be there');
    renameSync(source, `${source}-out`);
    await holding.query('commit');
    holding.release();
    await idle(archive);
    const away = await report(db(), id);
    expect(away).toMatchObject({ state: 'paused', failed: 0 });
    expect(away.reason).toContain('away');
    expect(away.done).toBeLessThan(30);
    renameSync(`${source}-out`, source);
    await wishJob(db(), KEEPER, jobId, 'run');
    await idle(archive);
    expect(await report(db(), id)).toMatchObject({ state: 'done', done: 30, failed: 0 });
    expect(filesIn(place.root).filter((name) => name.startsWith('.'))).toEqual([]);
  });

  it('fails one file that cannot be read, and one click tries it again', async () => {
    const source = await card(2);
    rmSync(join(source, 'HRN_2.JPG'));
    mkdirSync(join(source, 'HRN_2.JPG'));
    const place = await placeNamed(archive, 'Tried again');
    const id = await bringIn(archive, source, {
      mode: 'copy',
      place,
      files: [
        { path: 'HRN_1.JPG', size: 1 },
        { path: 'HRN_2.JPG', size: 1 },
      ],
    });
    const first = await report(db(), id);
    expect(first).toMatchObject({ done: 1, failed: 1 });
    expect(first.lines[1]!.reason).toBeTruthy();
    rmSync(join(source, 'HRN_2.JPG'), { recursive: true });
    writeFileSync(join(source, 'HRN_2.JPG'), await jpeg(7777));
    await retryFailed(archive.house, id);
    await idle(archive);
    expect(await report(db(), id)).toMatchObject({ done: 2, failed: 0, state: 'done' });
    expect(existsSync(join(place.root, 'HRN_2.jpg'))).toBe(true);
  });
});

describe('bundles', () => {
  const layout = async (name: string): Promise<string> => {
    const root = join(archive.folder, name);
    await writeJpeg(join(root, 'Chapter 2/Links/opening.jpg'), 6000 + name.length);
    writeFileSync(join(root, 'Chapter 2/Chapter 2.html'), '<img src="Links/opening.jpg">');
    mkdirSync(join(root, 'Chapter 2/Fonts'));
    writeFileSync(join(root, 'Chapter 2/Fonts/News.otf'), `font of ${name}`);
    await writeJpeg(join(root, 'loose.jpg'), 6100 + name.length);
    return root;
  };
  const asOne = async (root: string) => bundled(await filesToBring(root), ['Chapter 2']);

  it('are one item with its parts and its own picture, filed and named by their folder', async () => {
    const root = await layout('bundle copy');
    const place = await placeNamed(archive, 'Bundles');
    const id = await bringIn(archive, root, {
      mode: 'copy',
      place,
      filing: 'Books',
      naming: '{name} of 2026',
      files: await asOne(root),
    });
    const told = await report(db(), id);
    expect(told).toMatchObject({ done: 2, failed: 0 });
    const base = join(place.root, 'Books/Chapter 2 of 2026');
    expect(readdirSync(base).sort()).toEqual(['Chapter 2.html', 'Fonts', 'Links']);
    const [bundle] = await findTiles(db(), HOUSE, parseQuery('in Bundles; kind bundle'), 0, 5);
    expect(bundle).toMatchObject({ name: 'Chapter 2.html', pictureState: 'ready' });
    const item = await showItem(db(), KEEPER, bundle!.id);
    expect(
      item.files
        .filter(({ role }) => role === 'part')
        .map(({ name }) => name)
        .sort(),
    ).toEqual(['News.otf', 'opening.jpg']);
    expect((await findTiles(db(), HOUSE, parseQuery('in Bundles'), 0, 9)).length).toBe(2);
    const manifest = parseManifest(readFileSync(told.manifests[0]!, 'utf8'));
    expect(manifest.hashes.map(({ path }) => path).sort()).toEqual([
      'Books/Chapter 2 of 2026/Chapter 2.html',
      'Books/Chapter 2 of 2026/Fonts/News.otf',
      'Books/Chapter 2 of 2026/Links/opening.jpg',
      'Books/loose of 2026.jpg',
    ]);
    await changeRecords(db(), null, asSeen([bundle!.id]), { rating: 4, title: 'Chapter two' });
    await idle(archive);
    expect((await showItem(db(), KEEPER, bundle!.id)).record.rating).toBe(4);
  });

  it('kept in place stay as they lie; moved they leave nothing behind', async () => {
    const own = await layout('bundle kept');
    const place = await addPlace(archive.house, 'Bundle kept', own);
    await bringIn(archive, own, { mode: 'in-place', place, files: await asOne(own) });
    const [kept] = await findTiles(db(), HOUSE, parseQuery('in "Bundle kept"; kind bundle'), 0, 5);
    expect((await showItem(db(), KEEPER, kept!.id)).files.map(({ path }) => path).sort()).toEqual(
      ['Chapter 2.html', 'Fonts/News.otf', 'Links/opening.jpg'].map((name) =>
        join(own, 'Chapter 2', name),
      ),
    );
    const moved = await layout('bundle to move');
    const target = await placeNamed(archive, 'Bundle moved');
    await bringIn(archive, moved, {
      mode: 'move',
      place: target,
      singleCopy: true,
      files: await asOne(moved),
    });
    expect(await filesToBring(moved)).toEqual([]);
    expect(existsSync(join(target.root, 'Chapter 2/Links/opening.jpg'))).toBe(true);
  });
});

describe('reports', () => {
  it('tell sizes, speed and checks, and are safe to open as a spreadsheet', async () => {
    const source = await card(1);
    writeFileSync(join(source, '=cmd|x.jpg'), await jpeg(4321));
    const place = await placeNamed(archive, 'Reported');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    const told = await report(db(), id);
    expect(told.bytes).toBe(told.lines.reduce((sum, { size }) => sum + size, 0));
    expect(told.speed).toBeGreaterThan(0);
    expect(told).toMatchObject({ checked: 2, placeRoot: place.root, root: source });
    const latest = await db()
      .selectFrom('accession')
      .select('id')
      .where('state', '=', 'done')
      .where('mode', '<>', 'in-place')
      .whereRef('finishedAt', '>', 'startedAt')
      .orderBy('finishedAt', 'desc')
      .limit(5)
      .execute();
    const spans = await Promise.all(latest.map((one) => report(db(), one.id)));
    const brought = spans.filter(({ bytes }) => bytes > 0);
    const seconds = brought.reduce((sum, { bytes, speed }) => sum + bytes / speed!, 0);
    const bytes = brought.reduce((sum, one) => sum + one.bytes, 0);
    expect(await measuredSpeed(db())).toBeCloseTo(bytes / seconds, -1);
    const csv = reportCsv(told);
    const rows = csv.trimEnd().split('\r\n');
    expect(rows).toHaveLength(3);
    expect(rows.find((row) => row.includes('cmd'))).toContain("'=cmd|x.jpg");
    expect(rows[0]).toMatch(/^accession,item,from,to,bytes,state/);
    await expect(report(db(), '00000000-0000-0000-0000-000000000000')).rejects.toMatchObject({
      code: 'not-found',
    });
  });
});

describe('twins and lookalikes', () => {
  it('are found before anything is copied: in the archive and within the source', async () => {
    const { takePicture } = await import('../../demo/paint/render');
    const { library } = await import('../../demo/library');
    const [one, , , , other] = library(true).shelf;
    const paint = (picture: typeof one): Promise<Buffer> =>
      takePicture(picture!.scene, { ...picture!.shot, width: 600, height: 400 });
    const [red, blue] = [await paint(one), await paint(other)];
    const held = join(archive.folder, 'painted');
    mkdirSync(held);
    writeFileSync(join(held, 'red.jpg'), red);
    await bringIn(archive, held, { mode: 'copy', place: await placeNamed(archive, 'Painted') });
    const source = join(archive.folder, 'alike');
    mkdirSync(source);
    const put = (name: string, bytes: Buffer): void => writeFileSync(join(source, name), bytes);
    put('1-exact.jpg', red);
    put('2-metadata.jpg', red);
    await setTags(join(source, '2-metadata.jpg'), { 'XMP-dc:Title': 'Another title' });
    put('3-smaller.jpg', await sharp(red).resize(200).jpeg({ quality: 60 }).toBuffer());
    put('4-turned.jpg', await sharp(red).rotate(90).jpeg().toBuffer());
    put('5-other.jpg', blue);
    put('6-other-again.jpg', blue);
    put('7-mirrored.png', await sharp(blue).flop().png().toBuffer());
    const scanId = await startScan(archive.house, null, { kind: 'folder', name: source });
    await idle(archive);
    const scan = await readScan(db(), scanId);
    expect(scan.alikeDone).toBe(true);
    const by = Object.fromEntries(scan.files.map((file) => [file.path[0]!, file] as const));
    expect([by['1']!.held, by['2']!.held].every(Boolean)).toBe(true);
    expect(by['3']!.held).toBeNull();
    for (const key of ['3', '4'])
      expect(by[key]!.alike.some(({ number }) => number === by['1']!.held)).toBe(true);
    expect(by['5']).toMatchObject({ held: null, twinPosition: null });
    expect(by['6']!.twinPosition).toBe(by['5']!.position);
    expect(by['5']!.alike.find(({ kind }) => kind === 'twin')!.position).toBe(by['6']!.position);
    expect(by['7']!.alike.some(({ position }) => position === by['5']!.position)).toBe(true);
    expect(by['5']!.alike.some(({ number }) => number === by['1']!.held)).toBe(false);
  });

  it('are tied in the archive whatever way they came in: cropped and brighter ones too', async () => {
    const { takePicture } = await import('../../demo/paint/render');
    const { library } = await import('../../demo/library');
    const shot = library(true).shelf[2]!;
    const kite = await takePicture(shot.scene, { ...shot.shot, width: 600, height: 400 });
    const source = join(archive.folder, 'tied');
    mkdirSync(source);
    writeFileSync(join(source, 'a.jpg'), kite);
    const cut = sharp(kite).extract({ left: 24, top: 16, width: 576, height: 384 });
    writeFileSync(join(source, 'b.jpg'), await cut.linear(1.3, 0).jpeg().toBuffer());
    writeFileSync(join(source, 'c.jpg'), await sharp(kite).resize(300).jpeg().toBuffer());
    const id = await bringIn(archive, source, {
      mode: 'copy',
      place: await placeNamed(archive, 'Tied'),
    });
    const ties = await alikeIn(db(), id);
    expect(ties.every(({ kind }) => kind === 'lookalike of')).toBe(true);
    const numbers = [1, 2, 3].map((item) => `${ties[0]!.number.slice(0, -4)}000${item}`);
    for (const [one, other] of [
      [0, 1],
      [0, 2],
    ] as const)
      expect(
        ties.filter(({ number, of }) =>
          [numbers[one], numbers[other]].every((each) => each === number || each === of),
        ),
      ).toHaveLength(1);
    const shown = await archive.house.db
      .selectFrom('item')
      .select('id')
      .where('number', '=', numbers[0]!)
      .executeTakeFirstOrThrow();
    const { lineage } = await showItem(db(), KEEPER, shown.id);
    expect(lineage.map(({ number }) => number)).toEqual([numbers[1], numbers[2]]);
  });
});
