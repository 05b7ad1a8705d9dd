import { execFileSync } from 'node:child_process';
import {
  mkdirSync,
  mkdtempSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { homedir, tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { checkGround, refusedRoots } from '#server/files/grounds';
import { APPLICATION } from '#server/house/application';
import { openHouse, closeHouse, type House } from '#server/house/house';
import { readSettings } from '#server/house/settings';
import { startAccession } from '#server/intake/plan/accession';
import { arrived } from '#server/watching/dropzone';
import { allowedRoots, lookInto, rootOfSource } from '#server/intake/sources/sources';
import { startScan } from '#server/intake/look/scan';
import { rootIsHere } from '#server/places/here';
import { pointPlace } from '#server/watching/manage';
import { addPlace, placeForSource } from '#server/places/places';
import { bringIn, filesIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';

const archive = useArchive();
const isRoot = process.getuid?.() === 0;
const shut = { code: 'outside-place' };
/** A house whose roots are as bad as a keeper's hurried setting can make them. */
let careless: House;
const folders: string[] = [];
const mounts: string[] = [];

function folder(): string {
  const made = mkdtempSync(join(tmpdir(), 'mindful-grounds-'));
  folders.push(made);
  return made;
}
const link = (target: string): string => {
  const path = join(folder(), 'link');
  symlinkSync(target, path);
  return path;
};

beforeAll(async () => {
  await writeJpeg(join(archive.folder, 'card', 'a.jpg'), 1);
  careless = openHouse(
    readSettings({
      MINDFUL_HOME: archive.home,
      DATABASE_URL: archive.databaseUrl,
      MINDFUL_LOG: 'silent',
      MINDFUL_ROOTS: [
        ...['/', '/etc', tmpdir(), archive.home, APPLICATION, archive.folder],
        ...[join(archive.home, 'cache'), link(archive.home), link('/etc')],
      ].join(':'),
    }),
  );
});
afterAll(async () => {
  for (const point of mounts) execFileSync('umount', [point]);
  await closeHouse(careless);
  for (const made of folders) rmSync(made, { recursive: true, force: true });
});

describe('closed ground', () => {
  it('is no root, however it is set; what is good stays', async () => {
    expect(allowedRoots(careless)).toEqual([careless.folders.incoming, archive.folder]);
    expect(refusedRoots(careless)).toHaveLength(8);
    expect((await lookInto(careless, null)).folders).toEqual(allowedRoots(careless));
  });

  it('is not among the defaults: no home folder is', () => {
    const { roots } = readSettings({});
    expect(roots).toEqual(['/mnt', '/media', '/srv']);
    expect(roots).not.toContain(homedir());
  });

  it('is looked into by no way', async () => {
    const hidden = join(archive.folder, '.hidden');
    mkdirSync(hidden);
    for (const path of [
      ...[archive.home, `${archive.home}/`, join(archive.home, 'cache')],
      ...[`${archive.folder}/../${archive.home.split('/').at(-1)}`, '/etc', '/proc/self', '/'],
      ...[APPLICATION, join(APPLICATION, 'src'), hidden, link(archive.home), link(APPLICATION)],
      ...[join(link(tmpdir()), archive.home.split('/').at(-1)!), '/no/such/folder'],
    ]) {
      await expect(lookInto(careless, path), path).rejects.toMatchObject(shut);
      const source = { kind: 'folder', name: path } as const;
      await expect(rootOfSource(careless, source), path).rejects.toMatchObject(shut);
      await expect(startScan(careless, null, source), path).rejects.toMatchObject(shut);
    }
    expect(await lookInto(careless, join(archive.folder, 'card'))).toMatchObject({ files: 1 });
  });

  it.runIf(isRoot)('is not opened by another mount of it', async () => {
    const point = folder();
    execFileSync('mount', ['--bind', archive.home, point]);
    mounts.push(point);
    const inside = join(folder(), 'deep');
    mkdirSync(inside);
    execFileSync('mount', ['--bind', join(archive.home, 'cache'), inside]);
    mounts.push(inside);
    for (const path of [point, join(point, 'cache'), inside, join(inside, '..')])
      expect(() => checkGround(archive.house, path), path).toThrow(/data folder/);
    await expect(addPlace(archive.house, 'Bound', point)).rejects.toMatchObject(shut);
    // Nor from within a room of ours, which is looked into by everybody who brings in.
    const within = join(archive.house.folders.incoming, 'bound');
    mkdirSync(within, { recursive: true });
    expect(checkGround(archive.house, within)).toBe(within);
    execFileSync('mount', ['--bind', archive.home, within]);
    try {
      for (const path of [within, join(within, 'cache'), archive.house.folders.incoming])
        expect(() => checkGround(archive.house, path), path).toThrow(/data folder/);
    } finally {
      execFileSync('umount', [within]);
    }
    expect(checkGround(archive.house, within)).toBe(within);
  });

  it('becomes no place, by no way, and no place is pointed to it', async () => {
    const place = await placeNamed(archive, 'Shelf');
    const keeper = { role: 'keeper' } as const;
    for (const path of [archive.home, link(archive.home), '/etc', APPLICATION, tmpdir()]) {
      await expect(addPlace(archive.house, 'Closed', path)).rejects.toMatchObject(shut);
      await expect(pointPlace(archive.house, place.id, path)).rejects.toMatchObject(shut);
      await expect(placeForSource(archive.house, keeper, path, 'Closed')).rejects.toMatchObject(
        shut,
      );
    }
    const open = folder();
    await expect(
      placeForSource(archive.house, { role: 'contributor' }, open, 'Mine'),
    ).rejects.toMatchObject({ code: 'not-allowed' });
    expect(await placeForSource(archive.house, keeper, open, 'Mine')).toMatchObject({ root: open });
  });

  it('is no source of an accession; one whose source was swapped for a link pauses', async () => {
    const place = await placeNamed(archive, 'Shelf');
    const plan = { filing: '', naming: '{name}' };
    const wish = { title: 'x', mode: 'copy', place, plan, actorId: null } as const;
    for (const root of [archive.home, '/etc', link(join(archive.folder, 'card'))])
      await expect(
        startAccession(archive.house, {
          ...wish,
          source: { kind: 'folder', name: root },
          root,
          files: [{ path: 'secrets.json', size: 1 }],
        }),
      ).rejects.toMatchObject(shut);
    const swapped = join(folder(), 'card');
    await writeJpeg(join(swapped, 'secrets.json.jpg'), 4);
    await archive.worker.stop();
    const { id } = await startAccession(archive.house, {
      ...wish,
      source: { kind: 'folder', name: swapped },
      root: swapped,
      files: [{ path: 'secrets.json.jpg', size: 1 }],
    });
    renameSync(swapped, `${swapped}-away`);
    symlinkSync(archive.home, swapped);
    const { startWorker } = await import('#server/work/worker');
    archive.worker = await startWorker(archive.house);
    await idle(archive);
    const row = await archive.house.db
      .selectFrom('accession')
      .select(['state', 'reason'])
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    expect(row).toMatchObject({ state: 'paused' });
    expect(row.reason).toMatch(/data folder/);
  });

  it('is not watched: a place that became a link is away, a drop zone that did is empty', async () => {
    const root = join(folder(), 'place');
    await writeJpeg(join(root, 'b.jpg'), 2);
    const place = await addPlace(archive.house, 'Led astray', root);
    await bringIn(archive, root, { mode: 'in-place', place });
    expect(await rootIsHere(archive.house, place)).toBe(true);
    renameSync(root, `${root}-away`);
    symlinkSync(archive.folder, root);
    expect(await rootIsHere(archive.house, place)).toBe(false);
    const zone = archive.house.folders.dropZone;
    mkdirSync(zone, { recursive: true });
    rmSync(zone, { recursive: true });
    symlinkSync(join(archive.folder, 'card'), zone);
    expect(await arrived(archive.house)).toEqual({ whole: [], growing: 0 });
    rmSync(zone);
  });

  it('begins with a data folder that is closed to others', () => {
    expect(statSync(archive.home).mode & 0o777).toBe(0o700);
  });
});

describe('hidden folders', () => {
  it('are left out of what a folder brings in', async () => {
    const source = join(archive.folder, 'with hidden');
    await writeJpeg(join(source, 'c.jpg'), 3);
    mkdirSync(join(source, '.keys'));
    writeFileSync(join(source, '.keys', 'id_rsa'), 'secret');
    const place = await placeNamed(archive, 'Second shelf');
    await bringIn(archive, source, { mode: 'copy', place });
    expect(filesIn(place.root)).toEqual(['c.jpg']);
  });
});
