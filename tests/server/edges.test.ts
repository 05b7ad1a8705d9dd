import { mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import fc from 'fast-check';
import { z } from 'zod';
import contentDisposition from 'content-disposition';
import { describe, expect, it } from 'vitest';
import { ArchiveError, ERROR_CODES, sentenceOf, type ErrorCode } from '#core/errors';
import { checked, endpoint, page, problem } from '#server/edge/edge';
import { attachment, sendFile } from '#server/edge/send';
import { readSecrets } from '#server/house/secrets';
import { isBehindTls, readSettings } from '#server/house/settings';
import { useArchive } from '../support/archive';

const archive = useArchive({ worker: false });

type Event = Parameters<ReturnType<typeof endpoint>>[0];
const event = (request?: Request): Event =>
  ({
    request,
    locals: { house: archive.house },
    url: new URL('http://archive/api/x'),
    route: { id: '/api/x' },
  }) as unknown as Event;

describe('endpoints', () => {
  it('answer JSON, nothing, or what they made themselves', async () => {
    const answer = await endpoint(async () => ({ count: 3 }))(event());
    expect([answer.status, await answer.json()]).toEqual([200, { count: 3 }]);
    expect((await endpoint(async () => undefined)(event())).status).toBe(204);
    const own = await endpoint(async () => new Response('picture', { status: 206 }))(event());
    expect([own.status, await own.text()]).toEqual([206, 'picture']);
  });

  it('turn every typed error into problem details (RFC 9457)', async () => {
    for (const code of Object.keys(ERROR_CODES) as ErrorCode[]) {
      const answer = await endpoint(async () => {
        throw new ArchiveError(code, 'In plain words.', { path: 'a b' });
      })(event());
      expect(answer.headers.get('content-type')).toBe('application/problem+json');
      expect(answer.status).toBe(new ArchiveError(code, '').status);
      expect(await answer.json()).toEqual({
        type: `urn:mindful:${code}`,
        title: 'In plain words.',
        status: answer.status,
        path: 'a b',
      });
    }
  });

  it('tell nothing of their inside when something breaks', async () => {
    const answer = await endpoint(async () => {
      throw new Error('password of postgres is hunter2');
    })(event());
    expect(answer.status).toBe(500);
    expect(await answer.text()).not.toContain('hunter2');
  });

  it('show a designed page for a typed error and let others through', async () => {
    await expect(
      page(async () => {
        throw new ArchiveError('not-found', 'No such item.');
      }),
    ).rejects.toMatchObject({ status: 404, body: { message: 'No such item.' } });
    await expect(
      page(async () => {
        throw new TypeError('a bug');
      }),
    ).rejects.toBeInstanceOf(TypeError);
    expect(await page(async () => 7)).toBe(7);
  });

  it('parse what comes in before they use it, and name the field that will not do', async () => {
    const shape = z.object({ rating: z.number().max(5), terms: z.array(z.string()) });
    const sent = async (text: string, headers = {}): Promise<unknown> => {
      const request = new Request('http://archive/', { method: 'POST', body: text, headers });
      const answer = await endpoint({ body: shape }, async (_, value) => value)(event(request));
      return answer.json();
    };
    expect(await sent('{"rating":3,"terms":["kite"]}')).toEqual({ rating: 3, terms: ['kite'] });
    expect(await sent('rating=3')).toMatchObject({ type: 'urn:mindful:bad-request' });
    expect(await sent('{"rating":9,"terms":[]}')).toMatchObject({
      type: 'urn:mindful:value-refused',
      title: expect.stringMatching(/^rating: /) as string,
    });
    expect(await sent('{"rating":1,"terms":[1]}')).toMatchObject({
      title: expect.stringMatching(/^terms\.0: /) as string,
    });
    expect(await sent('{}', { 'content-length': '999999999' })).toMatchObject({
      type: 'urn:mindful:too-large',
    });
    expect(() => checked(z.uuid(), 'not one')).toThrow(ArchiveError);
  });
});

describe('typed errors', () => {
  it('speak to people; what is not ours is put into a sentence too', () => {
    expect(sentenceOf(new ArchiveError('conflict', 'It is there already.'))).toBe(
      'It is there already.',
    );
    expect(sentenceOf(new Error('EBADF'))).toContain('EBADF');
    expect(sentenceOf('odd')).toContain('odd');
    const response = problem(new ArchiveError('not-allowed', 'No.'), null);
    expect([response.status, response.headers.get('cache-control')]).toEqual([403, 'no-store']);
  });
});

describe('sending a file', () => {
  const bytes = Buffer.from(Array.from({ length: 1000 }, (_, at) => at % 251));
  const path = (): string => {
    const file = join(archive.folder, 'sent.bin');
    writeFileSync(file, bytes);
    return file;
  };
  const ask = (range?: string, method = 'GET'): Request =>
    new Request('http://archive/', { method, headers: range ? { range } : {} });

  it.each([
    ['bytes=0-0', 0, 0],
    ['bytes=10-19', 10, 19],
    ['bytes=990-', 990, 999],
    ['bytes=990-5000', 990, 999],
    ['bytes=-10', 990, 999],
    ['bytes=-5000', 0, 999],
  ])('sends %s (RFC 9110, 14.1.2)', async (range, from, to) => {
    const answer = await sendFile(ask(range), path(), { type: 'image/jpeg' });
    expect(answer.status).toBe(206);
    expect(answer.headers.get('content-range')).toBe(`bytes ${from}-${to}/1000`);
    expect(answer.headers.get('content-length')).toBe(String(to - from + 1));
    expect(Buffer.from(await answer.arrayBuffer())).toEqual(bytes.subarray(from, to + 1));
  });

  it.each([[undefined], ['bytes=5-1'], ['bytes=2000-'], ['lines=1-2'], ['bytes=a-b'], ['bytes=-']])(
    'sends the whole for %s',
    async (range) => {
      const answer = await sendFile(ask(range), path(), { type: 'image/jpeg' });
      expect(answer.status).toBe(200);
      expect(Buffer.from(await answer.arrayBuffer())).toEqual(bytes);
    },
  );

  it('any range is the slice it names', async () => {
    const file = path();
    await fc.assert(
      fc.asyncProperty(fc.nat(999), fc.nat(999), async (a, b) => {
        const [from, to] = a < b ? [a, b] : [b, a];
        const answer = await sendFile(ask(`bytes=${from}-${to}`), file, { type: 'x/y' });
        expect(Buffer.from(await answer.arrayBuffer())).toEqual(bytes.subarray(from, to + 1));
      }),
      { numRuns: 40 },
    );
  });

  it('never lets it run as a page, and keeps it out of shared caches', async () => {
    const answer = await sendFile(ask(undefined, 'HEAD'), path(), { type: 'image/svg+xml' });
    expect(answer.headers.get('content-security-policy')).toContain('sandbox');
    expect(answer.headers.get('x-content-type-options')).toBe('nosniff');
    expect(answer.headers.get('cache-control')).toBe('private, no-store');
    expect(answer.headers.get('content-length')).toBe('1000');
    expect(await answer.text()).toBe('');
    const kept = await sendFile(ask(), path(), { type: 'image/webp', forever: true });
    expect(kept.headers.get('cache-control')).toContain('immutable');
    await kept.body?.cancel();
  });

  it('sends an empty file, and says when one is gone', async () => {
    const file = join(archive.folder, 'empty');
    writeFileSync(file, '');
    const answer = await sendFile(ask(), file, { type: 'x/y', saveAs: 'empty' });
    expect([answer.status, await answer.text()]).toEqual([200, '']);
    await expect(
      sendFile(ask(), join(archive.folder, 'gone'), { type: 'x/y' }),
    ).rejects.toMatchObject({ code: 'not-found' });
  });

  it.each([
    ['plain.jpg', 'plain.jpg'],
    ['Käthe & “wind”.jpg', 'Käthe & “wind”.jpg'],
    ['a"b\\c.jpg', 'a"b\\c.jpg'],
    ['凧 1.jpg', '凧 1.jpg'],
    ["it's (2)*.jpg", "it's (2)*.jpg"],
    ['break\r\nset-cookie: x.jpg', 'break__set-cookie: x.jpg'],
  ])('names %j so that it comes back whole (RFC 6266)', (name, back) => {
    const header = attachment(name);
    expect(header).toMatch(/^attachment; filename="[\x20-\x7e]*"(; filename\*=UTF-8''[!-~]+)?$/);
    expect(contentDisposition.parse(header).parameters['filename']).toBe(back);
  });
});

describe('settings', () => {
  const read = (env: Record<string, string>) => readSettings(env);

  it('have defaults for everything', () => {
    const found = read({});
    expect(found).toMatchObject({ host: '127.0.0.1', port: 4180, pgPort: 4181, workers: 2 });
    expect(found.home).toBe(resolve('.mindful'));
    expect(found.databaseUrl).toBeUndefined();
    expect(isBehindTls(found)).toBe(false);
    expect(isBehindTls(read({ ORIGIN: 'https://archive.example' }))).toBe(true);
    expect(read({ PORT: '' }).port).toBe(4180);
    expect(read({ MINDFUL_ROOTS: '/a/../b::/c' }).roots).toEqual(['/b', '/c']);
  });

  it.each([
    ['PORT', 'eighty'],
    ['PORT', '0'],
    ['PORT', '70000'],
    ['PORT', '80.5'],
    ['PORT', '4190'],
    ['DATABASE_URL', 'mysql://x/y'],
    ['DATABASE_URL', 'not an address'],
    ['ORIGIN', 'ftp://archive.example'],
    ['MINDFUL_WORKERS', '0'],
    ['MINDFUL_LOG', 'loud'],
  ])('refuse %s=%s with a sentence that names it', (name, value) => {
    expect(() => read({ [name]: value })).toThrow(
      expect.objectContaining({
        code: 'setting-refused',
        message: expect.stringContaining(`${name} is set to “${value}”`) as string,
      }),
    );
  });

  it('keep their secrets for the owner alone, and the same ones for ever', () => {
    const home = join(archive.folder, 'secret-home');
    mkdirSync(home);
    const first = readSecrets(home);
    expect(first.database).not.toBe(first.session);
    expect(Buffer.from(first.session, 'base64url').length).toBe(32);
    expect(readSecrets(home)).toEqual(first);
    const file = join(home, 'secrets.json');
    expect(statSync(file).mode & 0o777).toBe(0o600);
    writeFileSync(file, '{"database":"x"}');
    expect(() => readSecrets(home)).toThrow();
    expect(readFileSync(file, 'utf8')).toBe('{"database":"x"}');
  });
});
