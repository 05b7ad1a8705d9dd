import { createServer, type Server } from 'node:http';
import { randomUUID } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { AddressInfo } from 'node:net';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { picturesOfPage } from '#core/uploads/pagePictures';
import { uploadPath } from '#core/uploads/path';
import { isOpenAddress, webAddress } from '#server/intake/sources/fetch';
import { readScan, startScan } from '#server/intake/look/scan';
import { fetchState, listPage, startFetching } from '#server/intake/sources/web';
import { heldNamesOf } from '#server/uploads/names';
import { dropParcel, newParcel, parcelFiles, readParcel } from '#server/uploads/parcels';
import { answerTus } from '#server/uploads/tus';
import { KEEPER, bringIn, filesIn, idle, placeNamed, useArchive } from '../support/archive';
import { jpeg, writeJpeg } from '../support/pictures';

const archive = useArchive();
const VERSION = '1.0.0';
const base = 'http://127.0.0.1/api/uploads';
const encode = (fields: Record<string, string>): string =>
  Object.entries(fields)
    .map(([key, value]) => `${key} ${Buffer.from(value).toString('base64')}`)
    .join(',');

async function tus(
  method: string,
  address: string,
  headers: Record<string, string> = {},
  body?: Uint8Array,
): Promise<Response> {
  return answerTus(
    archive.house,
    KEEPER.id,
    new Request(new URL(address, base), {
      method,
      headers: { 'tus-resumable': VERSION, ...headers },
      ...(body ? { body: new Uint8Array(body), duplex: 'half' } : {}),
    } as RequestInit),
  );
}
const create = async (parcel: string, path: string, size: number): Promise<Response> =>
  tus('POST', base, {
    'upload-length': String(size),
    'upload-metadata': encode({ parcel, path }),
  });
const patch = (address: string, offset: number, bytes: Uint8Array): Promise<Response> =>
  tus(
    'PATCH',
    address,
    { 'upload-offset': String(offset), 'content-type': 'application/offset+octet-stream' },
    bytes,
  );
const parcel = async (): Promise<string> =>
  (await newParcel(archive.house, { kind: 'upload', title: 'Test', by: KEEPER.id })).id;

/** Send a file whole. */
async function send(into: string, path: string, bytes: Buffer): Promise<void> {
  const made = await create(into, path, bytes.length);
  expect(made.status).toBe(201);
  const answer = await patch(made.headers.get('location')!, 0, bytes);
  expect(answer.status).toBe(204);
}

describe('uploads by tus 1.0.0', () => {
  it('say what the server can', async () => {
    const answer = await answerTus(
      archive.house,
      KEEPER.id,
      new Request(base, { method: 'OPTIONS' }),
    );
    expect(answer.status).toBe(204);
    expect(answer.headers.get('tus-version')).toContain(VERSION);
    expect(answer.headers.get('tus-extension')).toContain('creation');
    expect(answer.headers.get('tus-extension')).toContain('termination');
  });

  it('answer another version with 412 and the version that is known', async () => {
    for (const told of ['0.2.2', '2.0.0']) {
      const answer = await tus('POST', base, { 'tus-resumable': told, 'upload-length': '3' });
      expect([answer.status, answer.headers.get('tus-version')]).toEqual([412, VERSION]);
    }
  });

  it('go on from the offset that the server tells, in pieces of any size', async () => {
    const id = await parcel();
    const bytes = Buffer.from(await jpeg(1, 400, 300));
    const made = await create(id, 'DCIM/HRN_1.JPG', bytes.length);
    const address = made.headers.get('location')!;
    expect(address.startsWith('/api/uploads/')).toBe(true);
    let offset = 0;
    for (const piece of [1, 1000, 17, bytes.length]) {
      const head = await tus('HEAD', address);
      expect(head.headers.get('upload-offset')).toBe(String(offset));
      expect(head.headers.get('cache-control')).toBe('no-store');
      const next = Math.min(bytes.length, offset + piece);
      const answer = await patch(address, offset, bytes.subarray(offset, next));
      expect([answer.status, answer.headers.get('upload-offset')]).toEqual([204, String(next)]);
      offset = next;
    }
    expect((await readParcel(archive.house, id)).files).toEqual([
      { path: 'DCIM/HRN_1.JPG', size: bytes.length },
    ]);
    expect(readFileSync(join(parcelFiles(archive.house, id), 'DCIM/HRN_1.JPG')).equals(bytes)).toBe(
      true,
    );
  });

  it('refuse a wrong offset, a wrong type, an unknown upload, too much', async () => {
    const id = await parcel();
    const address = (await create(id, 'a.bin', 10)).headers.get('location')!;
    expect((await patch(address, 5, Buffer.alloc(5))).status).toBe(409);
    expect(
      (
        await tus(
          'PATCH',
          address,
          { 'upload-offset': '0', 'content-type': 'text/plain' },
          Buffer.alloc(5),
        )
      ).status,
    ).toBe(415);
    expect((await tus('HEAD', `${base}/${randomUUID()}`)).status).toBe(404);
    expect((await patch(`${base}/${randomUUID()}`, 0, Buffer.alloc(1))).status).toBe(404);
    expect((await create(id, 'huge', 2 ** 50)).status).toBe(413);
    expect((await tus('POST', base, { 'upload-length': '-3' })).status).toBe(400);
    const more = await patch(address, 0, Buffer.alloc(50));
    expect(more.status).toBeGreaterThanOrEqual(400);
    expect((await readParcel(archive.house, id)).files).toEqual([]);
  });

  it('need a parcel that is there and a path', async () => {
    expect((await create(randomUUID(), 'a.jpg', 3)).status).toBe(404);
    expect((await tus('POST', base, { 'upload-length': '3' })).status).toBe(400);
    const bad = await tus('POST', base, {
      'upload-length': '3',
      'upload-metadata': encode({ parcel: '../../etc', path: 'x' }),
    });
    expect(bad.status).toBe(400);
  });

  it('are given up whole', async () => {
    const id = await parcel();
    const address = (await create(id, 'a.bin', 10)).headers.get('location')!;
    await patch(address, 0, Buffer.alloc(4));
    expect((await tus('DELETE', address)).status).toBe(204);
    expect([404, 410]).toContain((await tus('HEAD', address)).status);
    await dropParcel(archive.house, id);
    expect(existsSync(parcelFiles(archive.house, id))).toBe(false);
  });

  it('keep files of hostile and colliding names, all of them below their parcel', async () => {
    const id = await parcel();
    const names = [
      '../../../etc/passwd',
      '..\\..\\windows\\win.ini',
      '/absolute/a.jpg',
      'a\nb.jpg',
      `${'x'.repeat(300)}.jpg`,
      'é.jpg',
      'e\u0301.jpg',
      'CASE.JPG',
      'case.jpg',
      '-rf',
      '.',
      '....//....//x.jpg',
      'nul\0byte.jpg',
      '   ',
    ];
    for (const [at, name] of names.entries()) await send(id, name, Buffer.from(`file ${at}`));
    const { files } = await readParcel(archive.house, id);
    expect(files).toHaveLength(names.length);
    const texts = files.map(({ path }) =>
      readFileSync(join(parcelFiles(archive.house, id), path), 'utf8'),
    );
    expect(texts.sort()).toEqual(names.map((_, at) => `file ${at}`).sort());
    expect(existsSync(join(archive.house.folders.uploads, 'etc'))).toBe(false);
    const scanId = await startScan(archive.house, null, { kind: 'upload', name: id });
    await idle(archive);
    const scan = await readScan(archive.house.db, scanId);
    expect(scan.files).toHaveLength(names.length);
    const place = await placeNamed(archive, 'Hostile');
    await bringIn(archive, parcelFiles(archive.house, id), {
      mode: 'copy',
      place,
      files: scan.files.map(({ path, size }) => ({ path, size })),
    });
    const kept = filesIn(place.root).filter((name) => !name.endsWith('.xmp'));
    expect(kept).toHaveLength(names.length);
    for (const name of kept) expect(name).not.toMatch(/[\n\0/\\]|^\.|^-$/);
  });
});

describe('paths that browsers tell', () => {
  it('never leave their folder and always are names', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string({ unit: 'binary', maxLength: 400 }),
          fc
            .array(fc.constantFrom('..', '.', '', 'a', '\0', '\\', 'x'.repeat(300), '\ud800'))
            .map((parts) => parts.join('/')),
        ),
        (told) => {
          const parts = uploadPath(told).split('/');
          for (const part of parts) {
            expect(['', '.', '..']).not.toContain(part);
            expect(part.includes('\0')).toBe(false);
            expect(Buffer.byteLength(part)).toBeLessThanOrEqual(255);
          }
          expect(uploadPath(parts.join('/'))).toBe(parts.join('/'));
        },
      ),
    );
  });

  it('are told apart from what is held under the same name, before a byte is sent', async () => {
    const source = join(archive.folder, 'held');
    await writeJpeg(join(source, 'Known.JPG'), 500);
    const place = await placeNamed(archive, 'Held names');
    await bringIn(archive, source, { mode: 'copy', place, naming: 'Other-{counter 1}' });
    const { size } = (await archive.house.db
      .selectFrom('file')
      .select('size')
      .where('name', '=', 'Other-1.jpg')
      .executeTakeFirst())!;
    const found = await heldNamesOf(archive.house.db, [
      { path: 'x/known.jpg', size },
      { path: 'OTHER-1.JPG', size: size + 1 },
      { path: 'new.jpg', size },
    ]);
    expect(found.map(({ path, sameSize, place: at }) => [path, sameSize, at])).toEqual([
      ['x/known.jpg', true, 'Held names'],
      ['OTHER-1.JPG', false, 'Held names'],
    ]);
  });
});

describe('a web address', () => {
  let server: Server;
  let site = '';
  let asked: string[] = [];

  beforeAll(async () => {
    const picture = await jpeg(900, 300, 200);
    const pages: Record<string, [string, string | Buffer]> = {
      '/': [
        'text/html',
        `<html><head><meta property="og:image" content="/cover.jpg"></head><body>
          <a href="/large.jpg"><img src="/thumb.jpg" alt="Red sail"></a>
          <img srcset="/small.jpg 300w, /wide.jpg 1200w" src="/small.jpg" alt="Wide">
          <img src="/wide.jpg"><img src="data:image/png;base64,AAAA"><a href="/about.html">About</a>
          <script>document.write('<img src=/never.jpg>')</script></body></html>`,
      ],
      '/empty.html': ['text/html', '<p>Nothing here'],
      '/big.jpg': ['image/jpeg', Buffer.alloc(3_000_000)],
    };
    for (const name of ['cover', 'large', 'wide']) pages[`/${name}.jpg`] = ['image/jpeg', picture];
    server = createServer((request, response) => {
      asked.push(request.url!);
      if (request.url === '/away') response.writeHead(302, { location: 'http://169.254.169.254/' });
      else if (request.url === '/round') response.writeHead(302, { location: '/round' });
      else if (request.url === '/moved') response.writeHead(301, { location: '/large.jpg' });
      else {
        const page = pages[request.url!];
        response.writeHead(page ? 200 : 404, { 'content-type': page?.[0] ?? 'text/plain' });
        response.end(page?.[1] ?? 'no');
        return;
      }
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    site = `http://127.0.0.1:${port}`;
  });
  afterAll(() => server.close());

  it('into private networks is never asked', async () => {
    for (const address of [
      '127.0.0.1',
      '10.1.2.3',
      '172.20.0.1',
      '192.168.1.1',
      '169.254.169.254',
      '0.0.0.0',
      '100.64.0.1',
      '224.0.0.1',
      '::1',
      '::',
      'fe80::1',
      'fd00::1',
      '::ffff:127.0.0.1',
      '::ffff:7f00:1',
      '64:ff9b::7f00:1',
      'not an address',
    ])
      expect([address, isOpenAddress(address)]).toEqual([address, false]);
    for (const address of ['1.1.1.1', '93.184.216.34', '2606:4700::1111'])
      expect(isOpenAddress(address)).toBe(true);
    asked = [];
    for (const address of [
      site,
      site.replace('127.0.0.1', 'localhost'),
      'http://[::1]:80/',
      'http://0/',
    ])
      await expect(listPage(archive.house, address)).rejects.toMatchObject({
        code: 'value-refused',
      });
    expect(asked).toEqual([]);
    for (const text of [
      'file:///etc/passwd',
      'ftp://x/y',
      'javascript:1',
      'http://a:b@example.com',
      '  ',
    ])
      expect(() => webAddress(text)).toThrow();
    expect(webAddress('example.com/a').href).toBe('https://example.com/a');
  });

  it('lists the pictures a page shows or links to, each once', async () => {
    archive.house.settings.standIns.push(new URL(site).host);
    const { pictures } = await listPage(archive.house, site);
    expect(pictures.map(({ address, alt }) => [new URL(address).pathname, alt])).toEqual([
      ['/cover.jpg', ''],
      ['/large.jpg', 'Red sail'],
      ['/wide.jpg', 'Wide'],
    ]);
    expect((await listPage(archive.house, `${site}/large.jpg`)).pictures).toHaveLength(1);
    await expect(listPage(archive.house, `${site}/empty.html`)).rejects.toThrow('no pictures');
    await expect(listPage(archive.house, `${site}/gone`)).rejects.toThrow('answered 404');
  });

  it('follows redirects within its site only', async () => {
    expect((await listPage(archive.house, `${site}/moved`)).pictures).toHaveLength(1);
    await expect(listPage(archive.house, `${site}/away`)).rejects.toThrow('sends on to');
    await expect(listPage(archive.house, `${site}/round`)).rejects.toThrow('without end');
  });

  it('is fetched into a parcel; what fails says why, the rest comes', async () => {
    const { parcel: id } = await startFetching(archive.house, null, 'Site', [
      `${site}/large.jpg`,
      `${site}/gone.jpg`,
      `${site}/wide.jpg`,
    ]);
    await idle(archive);
    expect((await readParcel(archive.house, id)).files.map(({ path }) => path).sort()).toEqual([
      'large.jpg',
      'wide.jpg',
    ]);
    const state = await fetchState(archive.house, id);
    expect(state).toMatchObject({ addresses: [], failed: [{ address: `${site}/gone.jpg` }] });
    await expect(startFetching(archive.house, null, 'x', ['file:///etc/passwd'])).rejects.toThrow();
  });

  it('whose page is written by an enemy is only read', () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 300 }), (html) => {
        for (const { address } of picturesOfPage(html, 'https://example.com/'))
          expect(address).toMatch(/^https?:/);
      }),
    );
    const deep = '<a href=x.jpg>'.repeat(20_000);
    expect(picturesOfPage(deep, 'https://example.com/')).toHaveLength(1);
  });
});
