import { mkdirSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { nameProblem } from '#core/naming/names';
import { HOUSE } from '#core/sight/viewer';
import { planSchema } from '#core/intake/plan';
import { parseQuery } from '#core/query/grammar';
import { findIds, findTiles } from '#server/catalogue/find';
import { showItem } from '#server/catalogue/show';
import { setDropZoneRule } from '#server/watching/dropzone';
import { readScan, startScan } from '#server/intake/look/scan';
import { report } from '#server/intake/report/report';
import { addPlace } from '#server/places/places';
import { KEEPER, bringIn, filesIn, idle, placeNamed, until, useArchive } from '../support/archive';
import { jpeg } from '../support/pictures';

/** Names and contents that nobody wishes for, through each way in. */
const archive = useArchive();
const db = () => archive.house.db;
const digest = (bytes: Buffer): string => createHash('sha256').update(bytes).digest('hex');

const NAMES: (string | Buffer)[] = [
  'plain.jpg',
  'new\nline.jpg',
  'tab\there.jpg',
  'bell\x07.jpg',
  'back\\slash.jpg',
  'colon:star*?.jpg',
  '<angle>|pipe".jpg',
  '-rf.jpg',
  '--help.jpg',
  '~user.jpg',
  '$(touch pwned).jpg',
  '`id`.jpg',
  '%2e%2e%2fetc.jpg',
  '..jpg',
  '...jpg',
  'trailing dot..jpg.',
  'trailing space .jpg ',
  ' leading.jpg',
  'con.jpg',
  'NUL.jpg',
  'lpt1.jpg',
  'é composed.jpg',
  'e\u0301 decomposed.jpg',
  'é same.jpg',
  'e\u0301 same.jpg',
  'CASE.jpg',
  'case.jpg',
  'Case.JPG',
  '\u202egpj.exe.jpg',
  '\u200bzero.jpg',
  '凧 🪁.jpg',
  'עברית.jpg',
  `${'n'.repeat(251)}.jpg`,
  `${'é'.repeat(125)}.jpg`,
  'no extension',
  '.hidden.jpg',
  "quote'.jpg",
  'semi;colon.jpg',
  'a.jpg.exe',
  '=cmd|calc.jpg',
  '@at.jpg',
  'percent%s%n.jpg',
  Buffer.from('caf\xe9.jpg', 'latin1'),
  Buffer.from([0xff, 0xfe, 0x2e, 0x6a, 0x70, 0x67]),
  Buffer.from('mixed \xc3\x28.jpg', 'latin1'),
];

let whole: Buffer;
/** Contents that lie or break off, with whether a picture can come of them. */
async function contents(): Promise<[name: string, bytes: Buffer, pictured: boolean][]> {
  const png = await sharp({ create: { width: 64, height: 48, channels: 3, background: '#c33' } })
    .png()
    .toBuffer();
  const tiff = await sharp(png).tiff().toBuffer();
  const bomb = await sharp({
    create: { width: 24_000, height: 24_000, channels: 3, background: '#fff' },
    limitInputPixels: false,
  })
    .png({ palette: true, colours: 2 })
    .toBuffer();
  const broken = Buffer.from(whole);
  broken.fill(0, 700, 900);
  return [
    ['empty.jpg', Buffer.alloc(0), false],
    ['one byte.jpg', Buffer.from([0xff]), false],
    ['head only.jpg', whole.subarray(0, 20), false],
    ['half.jpg', whole.subarray(0, whole.length >> 1), false],
    ['zeros.jpg', Buffer.alloc(5000), false],
    ['text.jpg', Buffer.from('I am no picture at all'), false],
    ['png as.jpg', png, true],
    ['jpeg as.png', whole, true],
    ['jpeg as.txt', whole, true],
    ['tiff cut.tif', tiff.subarray(0, 40), false],
    ['bomb.png', bomb, false],
    ['trailing.jpg', Buffer.concat([whole, Buffer.from('PK and more behind the end')]), true],
    ['page.html', Buffer.from('<script>alert(1)</script>'), false],
    [
      'loop.svg',
      Buffer.from(
        `<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><g id="a"><use href="#a"/></g></svg>`,
      ),
      true,
    ],
    [
      'cut.mp4',
      Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from('ftypisom'), Buffer.alloc(200, 7)]),
      false,
    ],
    ['cut.wav', Buffer.from('RIFF\x24\0\0\0WAVEfmt '), false],
    ['cut.pdf', Buffer.from('%PDF-1.7\n1 0 obj <<'), false],
    ['cut.dng', Buffer.from('II*\0\x08\0\0\0\xff\xff', 'latin1'), false],
    ['cut.otf', Buffer.from('OTTO\0\x01'), false],
    [
      'cut.heic',
      Buffer.concat([Buffer.from([0, 0, 0, 24]), Buffer.from('ftypheic'), Buffer.alloc(40)]),
      false,
    ],
  ];
}

/** Write files of all names, each with a picture of its own; a disk may refuse some names. */
async function putNames(folder: string, seed: number): Promise<Set<string>> {
  mkdirSync(folder, { recursive: true });
  const written = new Set<string>();
  for (const [at, name] of NAMES.entries()) {
    const bytes = await jpeg(seed + at, 96 + at, 64);
    const path = Buffer.concat([Buffer.from(`${folder}/`), Buffer.from(name)]);
    writeFileSync(path, bytes);
    written.add(digest(bytes));
  }
  return written;
}
const digestsIn = (folder: string): string[] =>
  filesIn(folder)
    .filter((name) => !name.endsWith('.xmp'))
    .map((name) => digest(readFileSync(join(folder, name))));

beforeAll(async () => {
  whole = await jpeg(1, 400, 300);
});

describe('hostile names', () => {
  it('from a folder come in under names that every disk takes, all of them, none twice', async () => {
    const source = join(archive.folder, 'names');
    await putNames(source, 10_000);
    symlinkSync('/etc/passwd', join(source, 'link.jpg'));
    mkdirSync(join(source, 'ascmhl'));
    writeFileSync(join(source, 'ascmhl/x.mhl'), 'x');
    const place = await placeNamed(archive, 'Names');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    const told = await report(db(), id);
    expect(told).toMatchObject({ done: NAMES.length, failed: 0, skipped: 1 });
    const names = filesIn(place.root).filter((name) => !name.endsWith('.xmp'));
    expect(names).toHaveLength(NAMES.length);
    for (const name of names) expect([name, nameProblem(name)]).toEqual([name, null]);
    const keys = names.map((name) => name.normalize('NFC').toLowerCase());
    expect(new Set(keys).size).toBe(keys.length);
    expect(readdirSync(archive.folder)).not.toContain('pwned');
  });

  it('can be looked through before, each with its picture', async () => {
    const scanId = await startScan(archive.house, null, {
      kind: 'folder',
      name: join(archive.folder, 'names'),
    });
    await idle(archive);
    const { files, state } = await readScan(db(), scanId);
    expect(state).toBe('done');
    expect(files).toHaveLength(NAMES.length);
    expect(files.filter(({ problem }) => problem !== null)).toEqual([]);
    expect(files.every(({ held }) => held !== null)).toBe(true);
  });

  it('kept in place stay as they are, byte for byte, and lead to their items', async () => {
    const own = join(archive.folder, 'own names');
    const wished = await putNames(own, 20_000);
    const before = readdirSync(own, { encoding: 'buffer' }).map((name) => name.toString('hex'));
    const id = await bringIn(archive, own, {
      mode: 'in-place',
      place: await addPlace(archive.house, 'Own names', own),
    });
    expect(await report(db(), id)).toMatchObject({ done: NAMES.length, failed: 0 });
    expect(readdirSync(own, { encoding: 'buffer' }).map((name) => name.toString('hex'))).toEqual(
      before,
    );
    const found = await findTiles(db(), HOUSE, parseQuery('in "Own names"'), 0, 500);
    expect(found).toHaveLength(NAMES.length);
    expect(found.filter(({ pictureState }) => pictureState !== 'ready')).toEqual([]);
    expect(wished.size).toBe(NAMES.length);
  });

  it('through the drop zone arrive whole', async () => {
    const zone = archive.house.folders.dropZone;
    const place = await placeNamed(archive, 'Zone');
    const wished = await putNames(zone, 30_000);
    await setDropZoneRule(archive.house, {
      mode: 'move',
      placeId: place.id,
      plan: planSchema.parse({ filing: '', naming: 'zone-{counter 001}' }),
    });
    await until(async () => readdirSync(zone).length === 0, 'the drop zone to be empty', 90);
    await idle(archive);
    await setDropZoneRule(archive.house, null);
    // Their first names were written into them: the pictures are the same, the bytes are not.
    expect(filesIn(place.root)).toHaveLength(NAMES.length);
    expect(wished.size).toBe(NAMES.length);
    expect(await findIds(db(), HOUSE, parseQuery('in Zone'))).toHaveLength(NAMES.length);
  });
});

describe('hostile contents', () => {
  it('are brought in as they are, with a picture or the reason why not, and no work gets stuck', async () => {
    const source = join(archive.folder, 'contents');
    mkdirSync(source);
    const list = await contents();
    for (const [name, bytes] of list) writeFileSync(join(source, name), bytes);
    const place = await placeNamed(archive, 'Contents');
    const id = await bringIn(archive, source, { mode: 'copy', place });
    const told = await report(db(), id);
    expect(told).toMatchObject({ failed: 0, done: list.length });
    for (const line of told.lines) {
      const [, bytes, pictured] = list.find(([name]) => name === line.from)!;
      const { itemId } = await db()
        .selectFrom('accessionEntry')
        .select('itemId')
        .where('accessionId', '=', id)
        .where('position', '=', line.position)
        .executeTakeFirstOrThrow();
      const item = await showItem(db(), KEEPER, itemId!);
      expect([line.from, digest(readFileSync(item.files[0]!.path))]).toEqual([
        line.from,
        digest(bytes),
      ]);
      if (!pictured) {
        expect([line.from, item.noPicture]).toEqual([line.from, expect.stringMatching(/\w/)]);
        expect(item.noPicture).not.toMatch(/\bat .*\.(js|ts):\d|\/tmp\//);
      } else expect([line.from, item.noPicture]).toEqual([line.from, null]);
      expect(item.jobs.filter(({ state }) => state === 'failed')).toEqual([]);
    }
    expect(digestsIn(place.root).sort()).toEqual(list.map(([, bytes]) => digest(bytes)).sort());
    rmSync(source, { recursive: true });
  });
});
