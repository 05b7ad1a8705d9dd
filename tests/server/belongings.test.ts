import {
  existsSync,
  mkdirSync,
  readFileSync,
  renameSync,
  unlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import { findIds } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { bundled, filesToBring } from '#server/intake/sources/files';
import { pictureFile } from '#server/renditions/store';
import { askToCompare } from '#server/watching/compare';
import { addPlace, type Place } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { KEEPER, bringIn, idle, until, useArchive } from '../support/archive';
import { exiv2, jpeg, setTags, writeJpeg, xmpSidecar } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;

async function kept(name: string, bundles: string[] = []): Promise<Place> {
  const root = join(archive.folder, name);
  const place = await addPlace(archive.house, name, root);
  await bringIn(archive, root, {
    mode: 'in-place',
    place,
    files: bundled(await filesToBring(root), bundles),
  });
  await until(async () => {
    const row = await db()
      .selectFrom('place')
      .select('lookedAt')
      .where('id', '=', place.id)
      .executeTakeFirst();
    return Boolean(row?.lookedAt);
  }, 'the first comparison');
  await idle(archive);
  return place;
}

const oneIn = async (query: string) => {
  const ids = await findIds(db(), HOUSE, parseQuery(query));
  expect(ids).toHaveLength(1);
  return showItem(db(), KEEPER, ids[0]!);
};

/** A sidecar as another program writes it. */
const sidecar = async (path: string, title: string, more: Record<string, string> = {}) => {
  writeFileSync(path, xmpSidecar());
  await setTags(path, { 'XMP-dc:Title': title, ...more });
};

describe('a sidecar that another program adds', () => {
  it('joins its item, which learns what it says; later changes are learnt as well', async () => {
    const root = join(archive.folder, 'Sheds');
    await writeJpeg(join(root, 'north.jpg'), 1, { 'XMP-dc:Title': 'In the file' });
    await writeJpeg(join(root, 'south.jpg'), 2);
    await kept('Sheds');
    await sidecar(join(root, 'north.xmp'), 'Beside the file');
    await until(
      async () => (await oneIn('in Sheds; words north')).record.title === 'Beside the file',
      'the sidecar to be read',
      40,
    );
    const north = await oneIn('in Sheds; words north');
    expect(north.files.map(({ role, name }) => [role, name])).toEqual([
      ['original', 'north.jpg'],
      ['sidecar', 'north.xmp'],
    ]);
    await setTags(join(root, 'north.xmp'), { 'XMP-dc:Title': 'Said again' });
    await until(
      async () => (await oneIn('in Sheds; words north')).record.title === 'Said again',
      'its change to be read',
      40,
    );
    // It never became an item, nor did the other picture get it.
    expect(await findIds(db(), HOUSE, parseQuery('in Sheds'))).toHaveLength(2);
    expect((await oneIn('in Sheds; words south')).files).toHaveLength(1);
  });

  it('does not put away what was told here', async () => {
    const root = join(archive.folder, 'Told');
    await writeJpeg(join(root, 'a.jpg'), 3);
    await kept('Told');
    const { id } = await oneIn('in Told');
    await changeRecords(db(), null, asSeen([id]), { title: 'Told here' });
    await idle(archive);
    await sidecar(join(root, 'a.jpg.xmp'), 'Told elsewhere', { 'XMP-dc:Description': 'New' });
    await until(
      async () => (await showItem(db(), KEEPER, id)).record.caption === 'New',
      'the rest',
      40,
    );
    expect((await showItem(db(), KEEPER, id)).record.title).toBe('Told here');
    await idle(archive);
    expect(exiv2(join(root, 'a.jpg'))['Xmp.dc.title']).toContain('Told here');
    // Which of the two it is to be is asked.
    expect((await showItem(db(), KEEPER, id)).disputes).toMatchObject({
      title: { theirs: 'Told elsewhere' },
    });
  });

  it('goes with its file when both move, and is missing when it alone goes', async () => {
    const root = join(archive.folder, 'Moved');
    await writeJpeg(join(root, 'a.jpg'), 4);
    await kept('Moved');
    await sidecar(join(root, 'a.xmp'), 'Beside');
    await until(async () => (await oneIn('in Moved')).record.title === 'Beside', 'its title', 40);
    mkdirSync(join(root, 'deeper'));
    renameSync(join(root, 'a.jpg'), join(root, 'deeper/a.jpg'));
    renameSync(join(root, 'a.xmp'), join(root, 'deeper/a.xmp'));
    await until(
      async () => (await oneIn('in Moved')).files.every(({ path }) => path.includes('/deeper/')),
      'both to be followed',
      40,
    );
    unlinkSync(join(root, 'deeper/a.xmp'));
    await until(
      async () =>
        (await oneIn('in Moved')).files.some(
          ({ role, state }) => role === 'sidecar' && state === 'missing',
        ),
      'the sidecar to be missing',
      40,
    );
    expect((await oneIn('in Moved')).record.title).toBe('Beside');
    // Another takes its place, whatever its name.
    await sidecar(join(root, 'deeper/a.jpg.xmp'), 'Beside again');
    await until(
      async () => (await oneIn('in Moved')).record.title === 'Beside again',
      'the next sidecar',
      40,
    );
    expect(
      (await oneIn('in Moved')).files.map(({ role, name, state }) => [role, name, state]),
    ).toEqual([
      ['original', 'a.jpg', 'present'],
      ['sidecar', 'a.jpg.xmp', 'present'],
    ]);
  });
});

describe('a file that is added to a bundle’s folder', () => {
  it('becomes a part of it, not an item; and can be its picture', async () => {
    const root = join(archive.folder, 'Layouts');
    mkdirSync(join(root, 'Poster/Links'), { recursive: true });
    writeFileSync(join(root, 'Poster/poster.doc'), 'a document nobody here can draw');
    writeFileSync(join(root, 'Poster/Links/list.txt'), 'names');
    await kept('Layouts', ['Poster']);
    const before = await oneIn('in Layouts');
    expect(before.kind).toBe('bundle');
    writeFileSync(join(root, 'Poster/Links/sail.jpg'), await jpeg(5, 300, 200));
    await writeJpeg(join(root, 'beside.jpg'), 6);
    await until(
      async () => (await findIds(db(), HOUSE, parseQuery('in Layouts; words beside'))).length === 1,
      'the file beside it',
      40,
    );
    await idle(archive);
    const after = await showItem(db(), KEEPER, before.id);
    expect(after.files.map(({ role, name }) => `${role} ${name}`).sort()).toEqual([
      'original poster.doc',
      'part list.txt',
      'part sail.jpg',
    ]);
    expect(await findIds(db(), HOUSE, parseQuery('in Layouts'))).toHaveLength(2);
    const { pictureKey } = await db()
      .selectFrom('file')
      .select('pictureKey')
      .where('itemId', '=', before.id)
      .where('role', '=', 'original')
      .executeTakeFirstOrThrow();
    expect(existsSync(pictureFile(archive.house, pictureKey, 'small'))).toBe(true);
    unlinkSync(join(root, 'Poster/Links/list.txt'));
    await until(
      async () =>
        (await showItem(db(), KEEPER, before.id)).files.some(
          ({ name, state }) => name === 'list.txt' && state === 'missing',
        ),
      'the part to be missing',
      40,
    );
    expect(readFileSync(join(root, 'Poster/poster.doc'), 'utf8')).toContain('nobody');
  });
});

describe('a file that cannot be read', () => {
  it('does not keep the others from being found, and is tried again only once it changed', async () => {
    const root = join(archive.folder, 'Locked');
    await writeJpeg(join(root, 'a.jpg'), 7);
    const place = await kept('Locked');
    const failing = join(root, 'failing.jpg');
    writeFileSync(failing, 'x');
    const accessions = () =>
      db().selectFrom('accession').select('id').where('placeId', '=', place.id).execute();
    await until(
      async () => (await findIds(db(), HOUSE, parseQuery('in Locked'))).length === 2,
      'the new file',
      40,
    );
    await idle(archive);
    const [entry] = await db()
      .selectFrom('accessionEntry')
      .select(['id', 'itemId'])
      .where('sourcePath', '=', 'failing.jpg')
      .execute();
    // As if it had failed: no item, and the entry says so.
    await db().deleteFrom('file').where('itemId', '=', entry!.itemId).execute();
    await db()
      .updateTable('accessionEntry')
      .set({ state: 'failed', itemId: null })
      .where('id', '=', entry!.id)
      .execute();
    const before = (await accessions()).length;
    await askToCompare(archive.house, place);
    await idle(archive);
    expect(await accessions()).toHaveLength(before);
    writeFileSync(failing, 'mended');
    await askToCompare(archive.house, place);
    await idle(archive);
    expect(await accessions()).toHaveLength(before + 1);
  });
});
