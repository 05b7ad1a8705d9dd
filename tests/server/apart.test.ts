import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { join } from 'node:path';
import ExcelJS from 'exceljs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picturesOfPage } from '#core/uploads/pagePictures';
import { HOUSE } from '#core/sight/viewer';
import { endApart, runApart } from '#server/apart/apart';
import { sendFile } from '#server/edge/send';
import { copyVerified } from '#server/files/disk';
import { hashFile } from '#server/files/hash';
import { originalOf } from '#server/files/located';
import { openPlain, withToolPath } from '#server/files/open';
import { findIds } from '#server/catalogue/find';
import { parseQuery } from '#core/query/grammar';
import { isOpenAddress } from '#server/intake/sources/fetch';
import { listPage, PAGE, startFetching, fetchState } from '#server/intake/sources/web';
import { readTags } from '#server/metadata/exiftool';
import { probe } from '#server/renditions/probe';
import { DRAWING, withPrepared } from '#server/renditions/prepared';
import { SHEET } from '#server/sheets/apart';
import { bringIn, idle, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';

const archive = useArchive();
const at = (...parts: string[]): string => join(archive.folder, ...parts);
const work = (): string => archive.house.folders.work;

afterAll(endApart);

/** The longest time in which this process did nothing else while something ran, as a part of it: worked here, it is nearly all. */
async function lateness(run: () => Promise<unknown>): Promise<number> {
  let most = 0;
  const began = performance.now();
  let last = began;
  const timer = setInterval(() => {
    const now = performance.now();
    most = Math.max(most, now - last - 10);
    last = now;
  }, 10);
  await run().catch(() => undefined);
  clearInterval(timer);
  return most / (performance.now() - began);
}

describe('pages of others', () => {
  const nested = `${'<div>'.repeat(600_000)}<img src="/a.jpg">${'</div>'.repeat(600_000)}`;

  it('may be nested without end: their time is that of their length', async () => {
    expect(picturesOfPage(nested, 'http://x/').map(({ address }) => address)).toEqual([
      'http://x/a.jpg',
    ]);
    const wish = { html: nested, base: 'http://x/', most: 10 };
    await runApart(PAGE, { ...wish, html: '' }, 20);
    const late = await lateness(async () => {
      expect(await runApart(PAGE, wish, 20)).toEqual([{ address: 'http://x/a.jpg', alt: '' }]);
    });
    expect(late).toBeLessThan(0.5);
  });

  it('are read as before: the largest of a set, links to larger ones, entities, bases', () => {
    const html = `<base href="/deep/"><meta property="og:image" content="cover.jpg">
      <a href="big.jpg?a=1&amp;b=2" title="Big"><img src="thumb.jpg" alt="Kite &amp; sail"></a>
      <IMG SRCSET='s.jpg 1x, l.jpg 2x' alt=Two><img src="javascript:alert(1)"><img src=data:,x>
      <script>document.write('<img src="never.jpg">')</script><video src="clip.mp4"/>`;
    expect(picturesOfPage(html, 'http://x/')).toEqual([
      { address: 'http://x/deep/cover.jpg', alt: '' },
      { address: 'http://x/deep/big.jpg?a=1&b=2', alt: 'Big' },
      { address: 'http://x/deep/l.jpg', alt: 'Two' },
      { address: 'http://x/deep/clip.mp4', alt: '' },
    ]);
  });
});

describe('spreadsheets of others', () => {
  const sheetOf = async (rows: number, columns: number): Promise<string> => {
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet('Items');
    sheet.addRow(['File', 'Title', ...Array.from({ length: columns - 2 }, (_, k) => `C${k}`)]);
    for (let row = 0; row < rows; row += 1)
      sheet.addRow([
        `${row}.jpg`,
        ...Array.from({ length: columns - 1 }, (_, k) => `value ${row} ${k}`),
      ]);
    const path = at(`sheet ${rows}.xlsx`);
    await book.xlsx.writeFile(path);
    return path;
  };

  it('with cells in the last column are refused before room is made for all between', async () => {
    const book = new ExcelJS.Workbook();
    const sheet = book.addWorksheet('Items');
    for (let row = 1; row <= 400; row += 1) sheet.getCell(row, 16_384).value = 'x';
    const path = at('wide.xlsx');
    await book.xlsx.writeFile(path);
    await expect(runApart(SHEET, { path, files: [], stages: [] }, 20)).rejects.toMatchObject({
      code: 'file-unreadable',
      message: expect.stringContaining('column'),
    });
    const long = new ExcelJS.Workbook();
    long.addWorksheet('Items').getCell(1_000_000, 1).value = 'x';
    const far = at('long.xlsx');
    await long.xlsx.writeFile(far);
    await expect(runApart(SHEET, { path: far, files: [], stages: [] }, 20)).rejects.toMatchObject({
      message: expect.stringContaining('rows'),
    });
  });

  it('that are honest and large keep this process free', async () => {
    const path = await sheetOf(20_000, 40);
    let good = 0;
    const late = await lateness(async () => {
      const files = Array.from({ length: 20_000 }, (_, row) => `${row}.jpg`);
      const found = await runApart(SHEET, { path, files, stages: [] }, 60);
      good = found.good.length;
    });
    expect(good).toBe(20_000);
    expect(late).toBeLessThan(0.5);
  });

  it('of too many rows or columns say so also as CSV, and are not cut', async () => {
    writeFileSync(at('long.csv'), `File\n${'a.jpg\n'.repeat(20_002)}`);
    writeFileSync(at('wide.csv'), `File${',x'.repeat(300)}\n`);
    for (const name of ['long.csv', 'wide.csv'])
      await expect(
        runApart(SHEET, { path: at(name), files: [], stages: [] }, 20),
      ).rejects.toMatchObject({ code: 'file-unreadable' });
  });
});

describe('what runs without end, or grows', () => {
  const uses = (levels: number): string => {
    const group = (level: number): string =>
      `<g id="a${level}">${`<use href="#a${level - 1}"/>`.repeat(10)}</g>`;
    const all = Array.from({ length: levels }, (_, level) => group(level + 1)).join('');
    return `<svg xmlns="http://www.w3.org/2000/svg" width="2000" height="2000"><defs>
      <g id="a0"><circle r="900" cx="1000" cy="1000" opacity=".1" filter="url(#f)"/></g>
      <filter id="f"><feGaussianBlur stdDeviation="80"/></filter>${all}</defs><use href="#a${levels}"/></svg>`;
  };

  it('is killed at its limit, and the next one is drawn', async () => {
    writeFileSync(at('endless.svg'), uses(5));
    writeFileSync(at('good.svg'), '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="6"/>');
    const began = Date.now();
    await expect(
      runApart(DRAWING, { path: at('endless.svg'), target: at('endless.png') }, 3),
    ).rejects.toMatchObject({ code: 'file-unreadable' });
    expect(Date.now() - began).toBeLessThan(8000);
    await runApart(DRAWING, { path: at('good.svg'), target: at('good.png') }, 20);
    expect(readFileSync(at('good.png')).subarray(1, 4).toString()).toBe('PNG');
    // Nothing of ours goes on behind our back.
    const left = execFileSync('sh', ['-c', 'pgrep -f apart/process.ts | wc -l']).toString();
    expect(Number(left)).toBeLessThanOrEqual(3);
  });

  it('gives each drawing nothing but its bytes: no files, no scripts, no addresses', async () => {
    await writeJpeg(at('beside.jpg'), 9);
    writeFileSync(
      at('curious.svg'),
      `<svg xmlns="http://www.w3.org/2000/svg" width="60" height="40">      <image href="beside.jpg" width="60" height="40"/><script>while(true){}</script></svg>`,
    );
    await runApart(DRAWING, { path: at('curious.svg'), target: at('curious.png') }, 20);
    const { default: sharp } = await import('sharp');
    const { channels } = await sharp(at('curious.png')).stats();
    expect(channels.every(({ min }) => min === 255)).toBe(true);
  });
});

describe('playlists that look like sound', () => {
  it('are not followed: FFmpeg reads by the reader of the format we recognised', async () => {
    const secret = at('secret.wav');
    execFileSync('ffmpeg', [
      ...['-v', 'error', '-y', '-f', 'lavfi', '-i', 'sine=duration=2'],
      secret,
    ]);
    const id3 = Buffer.from([0x49, 0x44, 0x33, 3, 0, 0, 0, 0, 0, 0]);
    const list = `#EXTM3U\n#EXT-X-TARGETDURATION:2\n#EXTINF:2,\n${secret}\n#EXT-X-ENDLIST\n`;
    writeFileSync(at('list.mp3'), Buffer.concat([id3, Buffer.from(list)]));
    await expect(probe(at('list.mp3'), 'mp3')).rejects.toMatchObject({ code: 'tool-failed' });
    const source = { path: at('list.mp3'), kind: 'sound', orientation: 1 };
    await expect(
      withPrepared({ ...source, format: 'mp3', work: work() }, (made) => Promise.resolve(made)),
    ).rejects.toMatchObject({ code: 'tool-failed' });
    writeFileSync(at('list.wav'), `ffconcat version 1.0\nfile '${secret}'\n`);
    await expect(probe(at('list.wav'), 'wav')).rejects.toMatchObject({ code: 'tool-failed' });
    await expect(probe(at('list.wav'), 'text')).rejects.toMatchObject({ code: 'file-unreadable' });
  });
});

describe('links', () => {
  let root = '';
  let outside = '';
  beforeAll(async () => {
    const place = await placeNamed(archive, 'Linked');
    ({ root } = place);
    await writeJpeg(at('source', 'Day', 'a.jpg'), 5);
    await bringIn(archive, at('source'), { mode: 'copy', place, filing: 'Day/{taken yyyy}' });
    outside = at('outside');
    mkdirSync(outside);
    await writeJpeg(join(outside, 'a.jpg'), 6);
  });

  it('are followed by nothing that opens an original, at its end or on the way', async () => {
    const [id] = await findIds(archive.house.db, HOUSE, parseQuery('in Linked'));
    const { path, folder } = await originalOf(archive.house.db, id!);
    const request = new Request('http://archive/');
    const opens = async (): Promise<string[]> => {
      const tried: Record<string, () => Promise<unknown>> = {
        send: () => sendFile(request, path, { type: 'x/y' }),
        hash: () => hashFile(path),
        copy: () => copyVerified(path, at('stolen.jpg')),
        tags: () => readTags(path, true),
        tool: () => withToolPath(path, async () => 1),
        picture: () =>
          withPrepared(
            { path, format: 'jpeg', kind: 'photo', orientation: 1, work: work() },
            (made) => Promise.resolve(made),
          ),
      };
      const done = await Promise.all(
        Object.entries(tried).map(([name, run]) =>
          run().then(
            async (answer) => {
              if (answer instanceof Response) await answer.body?.cancel();
              return name;
            },
            () => '',
          ),
        ),
      );
      return done.filter(Boolean);
    };
    expect(await opens()).toHaveLength(6);
    renameSync(path, `${path}.kept`);
    symlinkSync(join(outside, 'a.jpg'), path);
    expect(await opens()).toEqual([]);
    renameSync(path, at('link'));
    const whole = join(root, folder.split('/')[0]!);
    renameSync(whole, `${whole} kept`);
    symlinkSync(outside, whole);
    expect(await opens()).toEqual([]);
  });

  it('hand the opened file on: what is swapped afterwards is not read', async () => {
    const path = at('steady.txt');
    writeFileSync(path, 'as it was');
    const handle = await openPlain(path);
    renameSync(path, at('steady-old.txt'));
    writeFileSync(path, 'swapped');
    expect(await handle.readFile('utf8')).toBe('as it was');
    await handle.close();
    const text = await withToolPath(at('steady-old.txt'), async (plain) => {
      renameSync(at('steady-old.txt'), at('steady-older.txt'));
      return readFileSync(plain, 'utf8');
    });
    expect(text).toBe('as it was');
  });

  it('and pipes keep nobody waiting', async () => {
    execFileSync('mkfifo', [at('pipe.jpg')]);
    await expect(hashFile(at('pipe.jpg'))).rejects.toMatchObject({ code: 'file-unreadable' });
  });
});

describe('web sites', () => {
  let site: Server;
  let base = '';
  beforeAll(async () => {
    site = createServer((request, response) => {
      const to = (location: string): void => void response.writeHead(302, { location }).end();
      if (request.url === '/odd') return to('gopher://127.0.0.1/');
      if (request.url === '/nonsense') return to('http://[');
      if (request.url === '/named') return to(base.replace('http://', 'http://me:secret@'));
      if (request.url === '/breaks') {
        response.writeHead(200, { 'content-type': 'text/html', 'content-length': 1000 });
        response.write('<img src="a.jpg">');
        setTimeout(() => response.destroy(), 50);
        return;
      }
      if (request.url === '/a.jpg') {
        response.writeHead(200, { 'content-type': 'image/jpeg' });
        return void response.end(readFileSync(at('beside.jpg')));
      }
      response.writeHead(404).end();
    });
    await new Promise<void>((done) => site.listen(0, '127.0.0.1', done));
    const { port } = site.address() as AddressInfo;
    base = `http://127.0.0.1:${port}`;
    archive.house.settings.standIns.push(`127.0.0.1:${port}`);
  });
  afterAll(() => site.close());

  it.each(['/odd', '/nonsense', '/named'])(
    'that send on to %s are answered clearly',
    async (path) => {
      await expect(listPage(archive.house, base + path)).rejects.toMatchObject({
        code: 'value-refused',
      });
    },
  );

  it('that break off answer, soon', async () => {
    const began = Date.now();
    await expect(listPage(archive.house, `${base}/breaks`)).rejects.toMatchObject({
      code: 'value-refused',
      message: expect.stringContaining('broke off'),
    });
    expect(Date.now() - began).toBeLessThan(5000);
  });

  it('do not stop the rest by one odd address', async () => {
    const addresses = ['/odd', '/nonsense', '/a.jpg', '/breaks'].map((path) => base + path);
    const { parcel } = await startFetching(archive.house, null, 'Odd', addresses);
    await idle(archive);
    const state = (await fetchState(archive.house, parcel))!;
    expect(Object.keys(state.fetched)).toEqual([`${base}/a.jpg`]);
    expect(state.failed).toHaveLength(3);
  });

  it.each([
    ['::', false],
    ['::1', false],
    ['::127.0.0.1', false],
    ['::ffff:10.0.0.1', false],
    ['fec0::1', false],
    ['fe80::1', false],
    ['2606:4700::1111', true],
    ['8.8.8.8', true],
  ])('at %s are of the open Internet: %s', (address, open) => {
    expect(isOpenAddress(address)).toBe(open);
  });
});
