import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { IPTC_OLDER } from '#core/fields/namespaces';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { undo } from '#server/deeds/undo';
import { changeRecords, readRecords } from '#server/records/records';
import { settleDisputes } from '#server/records/settle';
import { startWorker } from '#server/work/worker';
import { bringIn, idle, KEEPER, placeNamed, until, useArchive } from '../support/archive';
import { exiv2, setTags, writeJpeg, older } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

/** Records and files that were changed on both sides: by people here, and by other programs there. */
const archive = useArchive();
const db = () => archive.house.db;
let root = '';
const NAMES = ['both', 'bare', 'asked', 'pair'];
const idOf = async (name: string): Promise<string> =>
  (await findIds(db(), HOUSE, parseQuery(`name "${name}.jpg"`)))[0]!;
const valuesOf = async (id: string) => (await readRecords(db(), [id]))[0]!.values;
const pathOf = (name: string): string => join(root, `${name}.jpg`);
/** Another program writes; wait until it was read. */
async function elsewhere(name: string, write: () => unknown): Promise<void> {
  const id = await idOf(name);
  const hash = async () =>
    (await showItem(db(), KEEPER, id)).files.find(({ role }) => role === 'original')!.contentHash;
  const before = await hash();
  await write();
  await until(async () => (await hash()) !== before, `${name} to be read again`);
  await idle(archive);
}

beforeAll(async () => {
  const source = join(archive.folder, 'settle');
  for (const [at, name] of NAMES.entries())
    await writeJpeg(join(source, `${name}.jpg`), at + 1, {
      'XMP-dc:Title': 'From the camera',
      [`${IPTC_OLDER}:Headline`]: 'Their headline',
    });
  const place = await placeNamed(archive, 'Settled');
  root = place.root;
  await bringIn(archive, source, { mode: 'copy', place });
  for (const name of NAMES)
    await changeRecords(db(), null, asSeen([await idOf(name)]), {
      creditLine: 'Ours',
      addTerms: ['Kite', 'Dusk'],
      taken: '2026-09~',
    });
  await idle(archive);
});

describe('what another program changed', () => {
  it('is read back, also of fields that were set here, and one that was emptied', async () => {
    const id = await idOf('both');
    await elsewhere('both', () =>
      setTags(pathOf('both'), {
        [`${IPTC_OLDER}:Credit`]: 'Theirs',
        [`${IPTC_OLDER}:Headline`]: '',
      }),
    );
    expect(await valuesOf(id)).toMatchObject({
      creditLine: 'Theirs',
      headline: '',
      title: 'From the camera',
      terms: ['Dusk', 'Kite'],
    });
    // A file can say less of a date than the record knows: that is no change.
    expect((await valuesOf(id)).taken?.edtf).toBe('2026-09~');
    expect(await showItem(db(), KEEPER, id)).toMatchObject({ writing: 'written', disputes: {} });
  });

  it('takes nothing away where it threw all description out: the file is written again', async () => {
    const id = await idOf('bare');
    await elsewhere('bare', () =>
      execFileSync('exiv2', ['-da', 'rm', pathOf('bare')], { stdio: 'ignore' }),
    );
    expect(await valuesOf(id)).toMatchObject({ creditLine: 'Ours', title: 'From the camera' });
    await until(
      async () => exiv2(pathOf('bare'))[older('Credit')] === 'Ours',
      'the record to be in the file again',
    );
  });
});

describe('what was changed on both sides', () => {
  /** Set a credit and a headline here that is not written yet, while another program writes others. */
  async function both(name: string): Promise<string> {
    const id = await idOf(name);
    await archive.worker.stop();
    await changeRecords(db(), null, asSeen([id]), { creditLine: 'Mine', headline: 'Mine' });
    await setTags(pathOf(name), {
      [`${IPTC_OLDER}:Credit`]: 'Theirs',
      [`${IPTC_OLDER}:Headline`]: 'Also theirs',
      'XMP-dc:Title': 'Another title',
    });
    archive.worker = await startWorker(archive.house);
    await until(
      async () => (await showItem(db(), KEEPER, id)).writing === 'differs',
      'both sides to be seen',
    );
    await idle(archive);
    return id;
  }

  it('is shown and found, and written over on neither side; the rest merges', async () => {
    const id = await both('asked');
    expect((await showItem(db(), KEEPER, id)).disputes).toEqual({
      creditLine: { theirs: 'Theirs', before: 'Ours' },
      headline: { theirs: 'Also theirs', before: 'Their headline' },
    });
    expect(await valuesOf(id)).toMatchObject({ creditLine: 'Mine', title: 'Another title' });
    expect(exiv2(pathOf('asked'))[older('Credit')]).toBe('Theirs');
    expect(await findIds(db(), HOUSE, parseQuery('writing differs'))).toEqual([id]);
    // What is written here meanwhile waits as well.
    await changeRecords(db(), null, asSeen([id]), { caption: 'Later' });
    await idle(archive);
    expect(exiv2(pathOf('asked'))['Xmp.dc.description']).toBeUndefined();
  });

  it('is settled field by field, once, and then written', async () => {
    const id = await idOf('asked');
    const { version } = await showItem(db(), KEEPER, id);
    const wish = { creditLine: 'ours', headline: 'theirs' } as const;
    const settle = (seen: number) => settleDisputes(db(), null, id, wish, seen);
    await expect(settle(version - 1)).rejects.toMatchObject({ code: 'conflict' });
    const done = await settle(version);
    expect(done.left).toBe(0);
    await idle(archive);
    expect(exiv2(pathOf('asked'))).toMatchObject({
      [older('Credit')]: 'Mine',
      [older('Headline')]: 'Also theirs',
      'Xmp.dc.description': 'lang="x-default" Later',
    });
    expect((await showItem(db(), KEEPER, id)).writing).toBe('written');
    const after = (await showItem(db(), KEEPER, id)).version;
    await expect(settle(after)).rejects.toMatchObject({ code: 'conflict' });
    await undo(db(), null, done.operationId!);
    expect((await valuesOf(id)).headline).toBe('Mine');
  });

  it('is settled by saying here what the file says', async () => {
    const id = await both('pair');
    await changeRecords(db(), null, asSeen([id]), {
      creditLine: 'Theirs',
      headline: 'Also theirs',
    });
    await idle(archive);
    expect(await showItem(db(), KEEPER, id)).toMatchObject({ writing: 'written', disputes: {} });
  });
});

describe('a place whose records go beside its files', () => {
  it('has its files left alone', async () => {
    await db().updateTable('place').set({ beside: true }).execute();
    const id = await idOf('both');
    const before = exiv2(pathOf('both'));
    await changeRecords(db(), null, asSeen([id]), { title: 'Beside' });
    await idle(archive);
    expect(exiv2(pathOf('both'))).toEqual(before);
    expect(exiv2(`${pathOf('both')}.xmp`)['Xmp.dc.title']).toContain('Beside');
  });
});
