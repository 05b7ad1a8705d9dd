import { HOUSE } from '#core/sight/viewer';
import { copyFileSync, existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { planSchema } from '#core/intake/plan';
import { COLUMNS } from '#core/sheets/columns';
import { templateCsv } from '#server/sheets/templateCsv';
import { report } from '#server/intake/report/report';
import { itemByNumber, showItem } from '#server/catalogue/show';
import { readSheet } from '#server/sheets/read';
import { dryRun, fetchForSheet, startSheet } from '#server/sheets/sheets';
import { templateXlsx } from '#server/sheets/template';
import { unzip } from '#server/sheets/unzip';
import { newParcel, parcelFiles, readParcel } from '#server/uploads/parcels';
import { KEEPER, idle, placeNamed, useArchive } from '../support/archive';
import { jpeg } from '../support/pictures';
import { hex, writeZip, type ZipEntry } from '../support/zip';

const archive = useArchive();
let made = 0;

async function parcel(files: Record<string, Buffer | string>): Promise<string> {
  const { id } = await newParcel(archive.house, { kind: 'sheet', title: 'Agency', by: null });
  for (const [name, bytes] of Object.entries(files)) {
    const path = join(parcelFiles(archive.house, id), name);
    mkdirSync(join(path, '..'), { recursive: true });
    writeFileSync(path, bytes);
  }
  return id;
}
function zip(entries: ZipEntry[]): Buffer {
  made += 1;
  const path = join(archive.folder, `made-${made}.zip`);
  writeZip(path, entries);
  return readFileSync(path);
}
const unpack = (id: string, name: string) =>
  unzip({
    uploads: archive.house.folders.uploads,
    parcel: id,
    path: join(parcelFiles(archive.house, id), name),
  });

describe('the template', () => {
  it('explains every column, and reads back empty', async () => {
    const path = join(archive.folder, 'template.xlsx');
    writeFileSync(path, await templateXlsx());
    const book = new ExcelJS.Workbook();
    await book.xlsx.readFile(path);
    expect(book.worksheets.map(({ name }) => name)).toEqual(['Items', 'Columns']);
    const explained = book.getWorksheet('Columns')!.getColumn(1).values.slice(2);
    expect(explained).toEqual(COLUMNS.map(({ label }) => label));
    const needs = book.getWorksheet('Columns')!.getColumn(2).values.slice(2);
    expect(new Set(needs)).toEqual(new Set(['required', 'optional', 'must stay empty']));
    expect(await readSheet(path)).toEqual({ rows: [], unknown: [] });
    const csv = join(archive.folder, 'template.csv');
    writeFileSync(csv, templateCsv());
    expect(readFileSync(csv).subarray(0, 3)).toEqual(Buffer.from([0xef, 0xbb, 0xbf]));
    expect(await readSheet(csv)).toEqual({ rows: [], unknown: [] });
  });
});

describe('reading sheets', () => {
  const csv = async (bytes: Buffer | string) => {
    made += 1;
    const path = join(archive.folder, `sheet-${made}.csv`);
    writeFileSync(path, bytes);
    return readSheet(path);
  };

  it('takes commas, semicolons and tabs, any order and case, a byte order mark, old encodings', async () => {
    for (const mark of [',', ';', '\t']) {
      const { rows } = await csv(
        `\ufeffTITLE${mark}file\r\n"Käthe, ""red""; sail"${mark}a.jpg\r\n${mark}\r\nx${mark}b.jpg\r\n`,
      );
      expect(rows).toEqual([
        { line: 2, cells: { title: 'Käthe, "red"; sail', file: 'a.jpg' } },
        { line: 4, cells: { title: 'x', file: 'b.jpg' } },
      ]);
    }
    const text = 'File;Title\r\na.jpg;Käthe 凧\r\n';
    expect((await csv(Buffer.from(`\ufeff${text}`, 'utf16le'))).rows[0]!.cells.title).toBe(
      'Käthe 凧',
    );
    expect(
      (await csv(Buffer.from('File;Title\na.jpg;K\xe4the\n', 'latin1'))).rows[0]!.cells.title,
    ).toBe('Käthe');
    expect((await csv('Colour;File\nred;a.jpg\n')).unknown).toEqual(['colour']);
  });

  it('takes date cells, formulas’ results, rich text and links from .xlsx', async () => {
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet('Anything');
    sheet.addRow(['File', 'Taken', 'Title', 'Rating', 'Caption', 'Address']);
    sheet.addRow([
      'a.jpg',
      new Date('2026-09-12T19:42:00Z'),
      { richText: [{ text: 'Red ' }, { text: 'sail', font: { bold: true } }] },
      { formula: '2+2', result: 4 },
      '=cmd|calc',
      { text: 'https://example.com/a', hyperlink: 'https://example.com/a' },
    ]);
    const path = join(archive.folder, 'kinds.xlsx');
    await book.xlsx.writeFile(path);
    expect((await readSheet(path)).rows).toEqual([
      {
        line: 2,
        cells: {
          file: 'a.jpg',
          taken: new Date('2026-09-12T19:42:00Z'),
          title: 'Red sail',
          rating: 4,
          caption: '=cmd|calc',
          address: 'https://example.com/a',
        },
      },
    ]);
  });

  it('says in words what it cannot read', async () => {
    await expect(csv('a;b\n1;2\n')).rejects.toThrow('begin with the template');
    await expect(csv('')).rejects.toThrow('begin with the template');
    const broken = join(archive.folder, 'broken.xlsx');
    writeFileSync(broken, 'PK not really');
    await expect(readSheet(broken)).rejects.toMatchObject({ code: 'file-unreadable' });
    const bomb = join(archive.folder, 'bomb.xlsx');
    writeFileSync(
      bomb,
      zip(
        [{ name: 'xl/worksheets/sheet1.xml', bytes: '20'.repeat(450_000_00) }].map((one) => ({
          ...one,
          bytes: one.bytes.slice(0, 90_000_000),
        })),
      ),
    );
    copyFileSync(bomb, `${bomb}.copy`);
    await expect(readSheet(bomb)).rejects.toMatchObject({ code: 'file-unreadable' });
  });
});

describe('ZIPs', () => {
  it('are unpacked below their parcel; links are refused, clutter is left', async () => {
    const id = await parcel({
      'all.zip': zip([
        { name: 'Dunes/a.jpg', bytes: hex('one') },
        { name: 'Dunes/A.JPG', bytes: hex('two') },
        { name: '__MACOSX/._a.jpg', bytes: hex('x') },
        { name: '.DS_Store', bytes: hex('x') },
        { name: 'link', bytes: hex('/etc/passwd'), mode: 0o120777 },
      ]),
    });
    const found = await unpack(id, 'all.zip');
    expect(found.paths.sort()).toEqual(['Dunes/A-2.JPG', 'Dunes/a.jpg']);
    expect(found.refused).toEqual([{ path: 'link', reason: 'it is a link' }]);
  });

  it('that lead outside, lie or grow like bombs are refused in words', async () => {
    const outside = zip([{ name: '../../outside.txt', bytes: hex('x') }]);
    const bomb = zip([{ name: 'zeros', bytes: '00'.repeat(80_000_000) }]);
    const cut = zip([{ name: 'a.jpg', bytes: hex('x'.repeat(5000)) }]).subarray(0, 80);
    for (const bytes of [outside, bomb, cut, Buffer.from('no zip at all')]) {
      const id = await parcel({ 'bad.zip': bytes, 'sheet.csv': 'File\nx.jpg\n' });
      await expect(unpack(id, 'bad.zip')).rejects.toMatchObject({ code: 'file-unreadable' });
      expect(existsSync(join(archive.house.folders.uploads, 'outside.txt'))).toBe(false);
      const run = await dryRun(archive.house, id);
      expect(run.problems[0]!.problem).toContain('bad.zip');
    }
  });
});

describe('an agency’s sheet', () => {
  let server: Server;
  let site = '';
  beforeAll(async () => {
    const picture = await jpeg(7001, 300, 200);
    server = createServer((request, response) => {
      response.writeHead(request.url === '/sail.jpg' ? 200 : 404, { 'content-type': 'image/jpeg' });
      response.end(request.url === '/sail.jpg' ? picture : 'no');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    site = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    archive.house.settings.standIns.push(new URL(site).host);
  });
  afterAll(() => server.close());

  it('is run dry, then its good rows come in with what they say', async () => {
    const id = await parcel({
      'Agency.csv': [
        'File;Address;Title;Creator;Terms;Rating;Taken;Stage',
        'kite-1.jpg;;Red sail;Bea Lund;Kite;4;12.09.2026;Shortlist',
        'kite-2.jpg;;Blue sail;;Kite;9;;',
        `;${site}/sail.jpg;From the web;;;;2026-09;`,
        `;${site}/gone.jpg;Lost;;;;;`,
        'kite-9.jpg;;Not there;;;;;',
      ].join('\r\n'),
      'pictures.zip': zip([
        { name: 'set/kite-1.jpg', bytes: hex(await jpeg(7002)) },
        { name: 'set/kite-2.jpg', bytes: hex(await jpeg(7003)) },
      ]),
    });
    const first = await dryRun(archive.house, id);
    expect(first.good.map(({ line }) => line)).toEqual([2, 4, 5]);
    expect(first.problems.map(({ line, column }) => [line, column])).toEqual([
      [3, 'Rating'],
      [6, 'File'],
    ]);
    expect(first.toFetch).toBe(2);
    const place = await placeNamed(archive, 'Agency');
    const plan = planSchema.parse({ filing: '', naming: '{title}', terms: ['Agency'] });
    const wish = { parcel: id, title: 'Agency', place, plan };
    await expect(startSheet(archive.house, null, wish)).rejects.toMatchObject({ code: 'conflict' });
    await fetchForSheet(archive.house, null, id);
    await idle(archive);
    const second = await dryRun(archive.house, id);
    expect(second).toMatchObject({ toFetch: 0, good: [{ line: 2 }, { line: 4 }] });
    expect(second.problems.find(({ line }) => line === 5)).toMatchObject({ column: 'Address' });
    const { id: accession } = await startSheet(archive.house, null, wish);
    await idle(archive);
    const told = await report(archive.house.db, accession);
    expect(told).toMatchObject({ done: 2, failed: 0 });
    expect(told.lines.map(({ to }) => to)).toEqual(['Red sail.jpg', 'From the web.jpg']);
    const items = await Promise.all(
      told.lines.map(async ({ number }) =>
        showItem(archive.house.db, KEEPER, await itemByNumber(archive.house.db, HOUSE, number!)),
      ),
    );
    expect(items.map(({ record }) => [record.title, record.taken?.edtf, record.rating])).toEqual([
      ['Red sail', '2026-09-12', 4],
      ['From the web', '2026-09', 0],
    ]);
    expect(items[0]!.record).toMatchObject({
      creator: ['Bea Lund'],
      stage: 'Shortlist',
      terms: ['Agency', 'Kite'],
    });
  });

  it('needs one sheet, no more', async () => {
    await expect(dryRun(archive.house, await parcel({ 'a.jpg': 'x' }))).rejects.toMatchObject({
      code: 'not-found',
    });
    await expect(
      dryRun(archive.house, await parcel({ 'a.csv': 'File\n', 'b.csv': 'File\n' })),
    ).rejects.toMatchObject({ code: 'value-refused' });
    expect((await readParcel(archive.house, await parcel({}))).files).toEqual([]);
  });
});
