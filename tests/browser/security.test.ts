import { request } from 'node:http';
import { connect } from 'node:net';
import { join } from 'node:path';
import sharp from 'sharp';
import { beforeAll, describe, expect, it } from 'vitest';
import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import { ADDRESS, ask, askForm, askJson, asRole, cookiesOf, signedIn } from '../support/http';

/** What strangers, guests and the wrong roles try, against the running application. */
let keeper = '';
let contributor = '';
let teammate = '';
const home = (): string => process.env['MINDFUL_TEST_HOME']!;
const emailOf = (role: string): string => DEMO_ACCOUNTS.find((one) => one.role === role)!.email;
const PEOPLE_PASSWORD = 'rope and canvas';
let made = 0;

async function newPerson(role: string): Promise<string> {
  made += 1;
  const email = `person-${made}-${Date.now()}@saltreach.example`;
  const fields = { name: `Person ${made}`, email, password: PEOPLE_PASSWORD, role };
  expect((await askForm('/people?/add', fields, { cookie: keeper })).status).toBe(200);
  return email;
}
const json = async <T>(path: string, cookie: string): Promise<T> =>
  (await (await ask(path, { cookie })).json()) as T;
const idsOf = (query: string): Promise<string[]> =>
  json(`/api/catalogue/ids?q=${encodeURIComponent(query)}`, keeper);

/** A request with whatever headers, as no browser would send it. */
const rawAsk = (
  path: string,
  headers: Record<string, string>,
  method = 'GET',
): Promise<{ status: number; headers: Record<string, unknown> }> =>
  new Promise((done, fail) => {
    const asked = request(`${ADDRESS()}${path}`, { method, headers }, (answer) => {
      answer.resume();
      done({ status: answer.statusCode!, headers: answer.headers });
    });
    asked.on('error', fail);
    asked.end();
  });

beforeAll(async () => {
  [keeper, contributor, teammate] = await Promise.all([
    asRole('keeper'),
    asRole('contributor'),
    asRole('teammate'),
  ]);
});

describe('every answer', () => {
  it('carries the headers: pages, refusals, redirects, files of the application, what is not there', async () => {
    const page = await (await ask('/sign-in')).text();
    const script = /\/_app\/immutable\/[\w./-]+\.(js|css)/.exec(page)![0];
    for (const path of ['/', '/sign-in', '/no/such/page', '/api/jobs', script, '/r/x', '/health']) {
      const { headers } = await ask(path);
      for (const name of [
        ...['x-content-type-options', 'x-frame-options', 'referrer-policy'],
        ...['content-security-policy', 'cross-origin-opener-policy', 'permissions-policy'],
      ])
        expect([path, name, headers.has(name)]).toEqual([path, name, true]);
    }
  });

  it('is given only under a name of ours', async () => {
    const { port } = new URL(ADDRESS());
    for (const host of [
      'evil.example',
      `evil.example:${port}`,
      '169.254.169.254',
      'localhost.evil',
    ])
      expect([host, (await rawAsk('/sign-in', { host })).status]).toEqual([host, 421]);
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`])
      expect([host, (await rawAsk('/sign-in', { host })).status]).toEqual([host, 200]);
  });

  it('changes nothing that another site asks for', async () => {
    const cookie = keeper;
    const tried: Record<string, string>[] = [
      { origin: 'https://evil.example' },
      { origin: 'null' },
      { 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site', origin: ADDRESS() },
    ];
    for (const headers of tried)
      expect((await rawAsk('/sign-out', { cookie, ...headers }, 'POST')).status).toBe(403);
    expect((await ask('/account', { cookie })).status).toBe(200);
  });
});

describe('sign-in', () => {
  it('sends on within this site only, whatever the address says', async () => {
    for (const to of [
      ...['//evil.example', '/\\evil.example', '/\t/evil.example', '/\n//evil.example', 'evil'],
      ...[
        'https://evil.example',
        '/.//evil.example',
        '/%5cevil/..//evil.example',
        '\\/evil.example',
      ],
    ]) {
      const answer = await askForm(`/sign-in?to=${encodeURIComponent(to)}`, {
        email: emailOf('keeper'),
        password: DEMO_PASSWORD,
      });
      const location = answer.headers.get('location')!;
      expect([to, new URL(location, ADDRESS()).origin]).toEqual([to, ADDRESS()]);
      expect(location.startsWith('//')).toBe(false);
    }
    const answer = await askForm('/sign-in?to=%2Fledger%3Fpage%3D2%23x', {
      email: emailOf('keeper'),
      password: DEMO_PASSWORD,
    });
    expect(answer.headers.get('location')).toBe('/ledger?page=2');
  });

  it('counts forty tries at once as forty; the owner’s own browser goes on', async () => {
    const email = await newPerson('teammate');
    const first = await askForm('/sign-in', { email, password: PEOPLE_PASSWORD });
    const known = cookiesOf(first);
    const device = known.split('; ').find((pair) => pair.startsWith('mindful_device='))!;
    // Tries are counted within a quarter of an hour: a clock that is set meanwhile begins another one.
    const clock = (): number => Date.now() - performance.now();
    const before = clock();
    const tries = await Promise.all(
      Array.from({ length: 40 }, () => askForm('/sign-in', { email, password: 'wrong wrong' })),
    );
    expect(Math.abs(clock() - before)).toBeLessThan(60_000);
    const answered = (status: number): number =>
      tries.filter((answer) => answer.status === status).length;
    expect([answered(401), answered(429)]).toEqual([10, 30]);
    // The right password is not looked at any more from here, but for a browser that is known.
    const strange = await askForm('/sign-in', { email, password: PEOPLE_PASSWORD });
    expect(strange.status).toBe(429);
    const own = await askForm('/sign-in', { email, password: PEOPLE_PASSWORD }, { cookie: device });
    expect(own.status).toBe(303);
    // Others at this address sign in as before; a forwarded address is nobody's word.
    expect(await asRole('rights-desk')).toContain('mindful');
    const forwarded = await askForm(
      '/sign-in',
      { email, password: PEOPLE_PASSWORD },
      { headers: { 'x-forwarded-for': '198.51.100.1', 'x-real-ip': '198.51.100.2' } },
    );
    expect(forwarded.status).toBe(429);
  });

  it('ends over plain http: cookie, session and event stream', async () => {
    const email = await newPerson('teammate');
    const cookie = await signedIn(email, PEOPLE_PASSWORD);
    const stream = await ask('/api/live', { cookie });
    const ended = stream.text();
    const out = await ask('/sign-out', { method: 'POST', cookie });
    expect(out.headers.getSetCookie().some((line) => /session_token=;/.test(line))).toBe(true);
    expect(out.headers.getSetCookie().every((line) => !/;\s*secure/i.test(line))).toBe(true);
    expect(await ended).toContain('retry');
    expect((await ask('/api/jobs', { cookie })).status).toBe(401);
  });

  it('ends at once for whom a keeper shuts out, and begins again when let in', async () => {
    const email = await newPerson('contributor');
    const cookie = await signedIn(email, PEOPLE_PASSWORD);
    const ended = (await ask('/api/live', { cookie })).text();
    const people = await (await ask('/people', { cookie: keeper })).text();
    const id = new RegExp(`name="id" value="([0-9a-f-]{36})"`, 'g');
    const at = people.indexOf(email);
    id.lastIndex = at;
    const person = id.exec(people)![1]!;
    expect(
      (await askForm('/people?/shutOut', { id: person }, { cookie: contributor })).status,
    ).toBe(403);
    expect((await askForm('/people?/shutOut', { id: person }, { cookie: keeper })).status).toBe(
      200,
    );
    await ended;
    expect((await ask('/api/jobs', { cookie })).status).toBe(401);
    expect((await askForm('/sign-in', { email, password: PEOPLE_PASSWORD })).status).toBe(403);
    await askForm('/people?/letIn', { id: person }, { cookie: keeper });
    expect(await signedIn(email, PEOPLE_PASSWORD)).toContain('mindful');
  });
});

describe('guests of a room', () => {
  const items: Record<string, string> = {};
  let collectionId = '';
  const open = async (sizes: string[]): Promise<string> => {
    const answer = await askJson('/api/rooms', 'POST', teammate, {
      collectionId,
      title: 'Tried',
      greeting: '',
      expiresAt: new Date(Date.now() + 3_600_000),
      sizes,
    });
    return `/r/${((await answer.json()) as { token: string }).token}`;
  };

  beforeAll(async () => {
    for (const kind of ['photo', 'footage', 'sound', 'vector', 'document', 'font'])
      items[kind] = (await idsOf(`kind ${kind}; order size down`))[0]!;
    const answer = await askJson('/api/collections', 'POST', teammate, {
      name: `Tried ${Date.now()}`,
      itemIds: Object.values(items),
    });
    collectionId = ((await answer.json()) as { id: string }).id;
  });

  it('see pictures of 1200 px and play proxies where no size is granted, and take nothing away', async () => {
    const room = await open([]);
    for (const [kind, id] of Object.entries(items)) {
      for (const size of ['original', '2048'])
        expect([kind, size, (await ask(`${room}/file/${id}/${size}`)).status]).toEqual([
          kind,
          size,
          403,
        ]);
      const picture = await ask(`${room}/picture/${id}/large`);
      expect([kind, picture.status]).toEqual([kind, 200]);
      const { width, height } = await sharp(Buffer.from(await picture.arrayBuffer())).metadata();
      expect(Math.max(width, height)).toBeLessThanOrEqual(1200);
    }
    for (const kind of ['footage', 'sound']) {
      const original = Buffer.from(
        await (await ask(`/api/items/${items[kind]}/original`, { cookie: keeper })).arrayBuffer(),
      );
      let media = await ask(`${room}/media/${items[kind]}`);
      for (let tries = 0; media.status === 404 && tries < 120; tries += 1) {
        await media.body?.cancel();
        await new Promise((resolve) => setTimeout(resolve, 500));
        media = await ask(`${room}/media/${items[kind]}`);
      }
      expect([kind, media.status]).toEqual([kind, 200]);
      expect(original.equals(Buffer.from(await media.arrayBuffer()))).toBe(false);
    }
    expect((await ask(`${room}/media/${items['photo']}`)).status).toBe(403);
  });

  it('get what is granted: 2048 px of pictures, originals of all', async () => {
    const room = await open(['2048']);
    const large = await ask(`${room}/picture/${items['vector']}/large`);
    const { width, height } = await sharp(Buffer.from(await large.arrayBuffer())).metadata();
    expect(Math.max(width, height)).toBeGreaterThan(1200);
    expect((await ask(`${room}/file/${items['photo']}/2048`)).status).toBe(200);
    expect((await ask(`${room}/file/${items['footage']}/2048`)).status).toBe(403);
    expect((await ask(`${room}/file/${items['photo']}/original`)).status).toBe(403);
    const whole = await open(['original']);
    for (const id of Object.values(items))
      expect((await ask(`${whole}/file/${id}/original`)).status).toBe(200);
  });

  it('see nothing that does not hang there, and a room that closed is closed for every address', async () => {
    const room = await open(['original', '2048']);
    const other = (await idsOf('')).find((id) => !Object.values(items).includes(id))!;
    for (const path of [
      ...['small', 'large'].map((size) => `picture/${other}/${size}`),
      ...['original', '2048'].map((size) => `file/${other}/${size}`),
      `media/${other}`,
    ])
      expect([path, (await ask(`${room}/${path}`)).status]).toEqual([path, 404]);
    const rooms = await (await ask('/dispatch', { cookie: teammate })).text();
    const id = /\/dispatch\/([0-9a-f-]{36})/.exec(rooms)![1]!;
    expect((await ask(`/api/rooms/${id}`, { method: 'DELETE', cookie: teammate })).status).toBe(
      204,
    );
    for (const path of ['', `/picture/${items['photo']}/small`, `/media/${items['sound']}`])
      expect((await ask(`${room}${path}`)).status).toBe(410);
    expect((await ask(`/r/${'x'.repeat(43)}/picture/${items['photo']}/small`)).status).toBe(410);
  });

  it('are not surprised by those who open no rooms: what hangs is changed by dispatch alone', async () => {
    await open([]);
    const [extra] = await idsOf('kind photo; order name down');
    const tries = [
      askJson(`/api/collections/${collectionId}/items`, 'POST', contributor, { itemIds: [extra] }),
      askJson(`/api/collections/${collectionId}/items`, 'DELETE', contributor, {
        itemIds: [items['photo']],
      }),
      askJson(`/api/collections/${collectionId}/items`, 'PATCH', contributor, {
        itemIds: [items['photo']],
        before: null,
      }),
      askJson(`/api/collections/${collectionId}`, 'DELETE', contributor, {}),
    ];
    for (const { status } of await Promise.all(tries)) expect(status).toBe(403);
    const added = await askJson(`/api/collections/${collectionId}/items`, 'POST', teammate, {
      itemIds: [extra],
    });
    expect(added.status).toBe(200);
  });
});

describe('the server’s folders', () => {
  it('are listed within the roots only, and paths are told to those who need them', async () => {
    for (const path of [
      home(),
      join(home(), 'postgres'),
      '/etc',
      '/root/.ssh',
      `${home()}/incoming/..`,
    ])
      expect(
        (await ask(`/api/intake/folders?path=${encodeURIComponent(path)}`, { cookie: contributor }))
          .status,
      ).toBe(400);
    const listed = await json<{ folders: string[] }>('/api/intake/folders', contributor);
    expect(listed.folders.every((path) => !home().startsWith(path))).toBe(true);
    const [id] = await idsOf('kind photo');
    for (const [cookie, tells] of [
      [keeper, true],
      [contributor, false],
      [teammate, false],
    ] as const) {
      const text = await (await ask(`/api/items/${id}`, { cookie })).text();
      expect(text.includes(home())).toBe(tells);
    }
    for (const path of ['/api/places', '/api/jobs', '/catalogue', '/collections', '/ledger'])
      expect([
        path,
        (await (await ask(path, { cookie: teammate })).text()).includes(home()),
      ]).toEqual([path, false]);
  });

  it('become places by keepers alone, and work is stopped by its owner or a keeper', async () => {
    const place = await askJson('/api/places', 'POST', contributor, { name: 'Mine' });
    expect(place.status).toBe(403);
    const jobs = await json<{ id: string; mine: boolean }[]>('/api/jobs', contributor);
    const others = jobs.find(({ mine }) => !mine);
    expect(others).toBeDefined();
    const stopped = await askJson(`/api/jobs/${others!.id}`, 'POST', contributor, {
      wish: 'cancel',
    });
    expect(stopped.status).toBe(403);
  });
});

describe('uploads', () => {
  const tus = { 'tus-resumable': '1.0.0' };
  const parcelOf = async (cookie: string): Promise<string> => {
    const answer = await askJson('/api/intake/parcels', 'POST', cookie, { title: 'Tried' });
    return ((await answer.json()) as { id: string }).id;
  };
  const begin = (cookie: string, parcel: string, size: number, name = 'a.jpg') =>
    ask('/api/uploads', {
      method: 'POST',
      cookie,
      headers: {
        ...tus,
        'upload-length': String(size),
        'upload-metadata': `parcel ${btoa(parcel)},path ${btoa(name)}`,
      },
    });

  it('are their owner’s alone', async () => {
    const parcel = await parcelOf(contributor);
    const begun = await begin(contributor, parcel, 10);
    expect(begun.status).toBe(201);
    const path = new URL(begun.headers.get('location')!, ADDRESS()).pathname;
    for (const method of ['HEAD', 'DELETE'])
      expect((await ask(path, { method, cookie: keeper, headers: tus })).status).toBe(404);
    expect((await begin(keeper, parcel, 10)).status).toBe(404);
    expect((await ask(path, { method: 'HEAD', cookie: contributor, headers: tus })).status).toBe(
      200,
    );
    expect((await ask(path, { method: 'DELETE', cookie: contributor, headers: tus })).status).toBe(
      204,
    );
    await ask(`/api/intake/parcels/${parcel}`, { method: 'DELETE', cookie: contributor });
  });

  it('of no bytes, and of too many, are answered clearly; one that arrived is told again', async () => {
    const parcel = await parcelOf(contributor);
    const empty = await begin(contributor, parcel, 0, 'empty.txt');
    expect(empty.status).toBe(201);
    const path = new URL(empty.headers.get('location')!, ADDRESS()).pathname;
    const patch = {
      ...tus,
      'content-type': 'application/offset+octet-stream',
      'upload-offset': '0',
    };
    expect((await ask(path, { method: 'PATCH', cookie: contributor, headers: patch })).status).toBe(
      204,
    );
    const head = await ask(path, { method: 'HEAD', cookie: contributor, headers: tus });
    expect([head.status, head.headers.get('upload-offset')]).toEqual([200, '0']);
    expect((await ask(path, { method: 'HEAD', cookie: keeper, headers: tus })).status).toBe(404);
    expect((await begin(contributor, parcel, 1.9e12)).status).toBe(507);
    const small = await begin(contributor, parcel, 4, 'small.txt');
    const at = new URL(small.headers.get('location')!, ADDRESS()).pathname;
    const sent = { method: 'PATCH', cookie: contributor, headers: patch, body: 'kite' };
    expect((await ask(at, sent)).status).toBe(204);
    // The answer was lost: the client asks how far it came.
    const again = await ask(at, { method: 'HEAD', cookie: contributor, headers: tus });
    expect(again.headers.get('upload-offset')).toBe('4');
    const content = await json<{ files: { path: string }[] }>(
      `/api/intake/parcels/${parcel}`,
      contributor,
    );
    expect(content.files.map((file) => file.path).sort()).toEqual(['empty.txt', 'small.txt']);
    await ask(`/api/intake/parcels/${parcel}`, { method: 'DELETE', cookie: contributor });
  });
});

describe('what belongs to one person', () => {
  it('is told to nobody else: parcels, tracks, tokens', async () => {
    const made = await askJson('/api/intake/parcels', 'POST', keeper, { title: 'Mine' });
    const { id } = (await made.json()) as { id: string };
    for (const method of ['GET', 'DELETE'])
      expect((await ask(`/api/intake/parcels/${id}`, { method, cookie: contributor })).status).toBe(
        404,
      );
    expect(
      (await ask(`/api/intake/parcels/${id}`, { method: 'DELETE', cookie: keeper })).status,
    ).toBe(204);
    const gpx = `<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>
      <trkpt lat="54.1" lon="1.2"><time>2026-09-12T10:00:00Z</time></trkpt>
      <trkpt lat="54.2" lon="1.3"><time>2026-09-12T10:05:00Z</time></trkpt></trkseg></trk></gpx>`;
    const track = (await (
      await askJson('/api/positions/tracks', 'POST', keeper, { name: 'walk.gpx', text: gpx })
    ).json()) as { id: string };
    expect(await json('/api/positions/tracks', contributor)).toEqual([]);
    const wish = {
      ids: await idsOf('kind photo; order number'),
      wish: { act: 'track', track: track.id, clock: 0, offset: 0, gap: 60, beyond: 1, over: true },
    };
    for (const [cookie, status] of [
      [contributor, 404],
      [keeper, 200],
    ] as const)
      expect((await askJson('/api/positions/preview', 'POST', cookie, wish)).status).toBe(status);
    expect(
      (await ask(`/api/positions/tracks/${track.id}`, { method: 'DELETE', cookie: contributor }))
        .status,
    ).toBe(404);
    expect(
      (await ask(`/api/positions/tracks/${track.id}`, { method: 'DELETE', cookie: keeper })).status,
    ).toBe(204);
    expect(
      (await askForm('/account?/token', { name: 'x', days: '4000' }, { cookie: keeper })).status,
    ).toBe(400);
    expect((await (await ask('/account', { cookie: keeper })).text()).includes('x, reads')).toBe(
      false,
    );
  });
});

describe('whoever wants to keep the archive busy', () => {
  it('asks a hundred terms in one clause and is answered; more are refused', async () => {
    const terms = (count: number): string =>
      `term ${Array.from({ length: count }, (_, at) => (at % 2 ? 'Kite' : `"Term ${at}"`)).join(', ')}`;
    const began = Date.now();
    const answers = await Promise.all(
      Array.from({ length: 10 }, () =>
        ask(`/api/catalogue/wall?q=${encodeURIComponent(terms(100))}`, { cookie: teammate }),
      ),
    );
    expect(answers.map(({ status }) => status)).toEqual(Array.from({ length: 10 }, () => 200));
    expect(Date.now() - began).toBeLessThan(10_000);
    const bad = [
      terms(210),
      `words ${'w '.repeat(30)}`,
      Array.from({ length: 150 }, () => 'rated 3').join(';'),
      `in "${'x'.repeat(2000)}"`,
    ];
    for (const query of bad)
      expect(
        (await ask(`/api/catalogue/tiles?q=${encodeURIComponent(query)}`, { cookie: teammate }))
          .status,
      ).toBe(422);
  });

  it('sends large bodies signed out, and is turned away before they are read', async () => {
    const body = 'a&'.repeat(1 << 20);
    const sent = (path: string) =>
      ask(path, {
        method: 'POST',
        headers: { 'content-type': 'application/x-www-form-urlencoded', accept: 'text/html' },
        body,
      }).then(
        ({ status }) => status,
        // Whoever goes on sending meanwhile is cut off.
        (error: Error) => (/RESET|EPIPE/.test(String(error.cause)) ? 413 : String(error.cause)),
      );
    for (const path of ['/sign-in', '/welcome', '/r/nothing', '/api/records'])
      expect([path, await sent(path)]).toEqual([path, 413]);
    const fields = Object.fromEntries(Array.from({ length: 300 }, (_, at) => [`f${at}`, 'x']));
    expect((await askForm('/sign-in', fields)).status).toBe(413);
  });

  it('asks for everything as a table forty times at once: some wait, some are sent away, others are not kept', async () => {
    const wish = { ids: { q: '', except: [] }, fields: ['name', 'title'] };
    const asked = Array.from({ length: 40 }, () =>
      askJson('/api/catalogue/csv', 'POST', teammate, wish).then(async (answer) => {
        await answer.text();
        return answer;
      }),
    );
    expect((await ask('/catalogue', { cookie: keeper })).status).toBe(200);
    const answers = await Promise.all(asked);
    const away = answers.filter(({ status }) => status === 429);
    expect(answers.filter(({ status }) => status === 200).length).toBeGreaterThan(20);
    expect(answers.every(({ status }) => status === 200 || status === 429)).toBe(true);
    for (const { headers } of away) expect(Number(headers.get('retry-after'))).toBeGreaterThan(0);
  });

  it('has as many event streams as are promised, and a new one for each that ends', async () => {
    const email = await newPerson('teammate');
    const cookie = await signedIn(email, PEOPLE_PASSWORD);
    const gone = new AbortController();
    const open = (signal?: AbortSignal) =>
      fetch(`${ADDRESS()}/api/live`, { headers: { cookie }, ...(signal ? { signal } : {}) });
    const streams = [await open(gone.signal)];
    while (streams.length < 20) streams.push(await open());
    expect(streams.map(({ status }) => status)).toEqual(Array.from({ length: 20 }, () => 200));
    expect((await open()).status).toBe(429);
    gone.abort();
    let again = await open();
    for (let tries = 0; again.status === 429 && tries < 50; tries += 1) {
      await new Promise((resolve) => setTimeout(resolve, 100));
      again = await open();
    }
    expect(again.status).toBe(200);
    for (const stream of [...streams.slice(1), again]) await stream.body?.cancel();
  });

  it('opens three hundred slow connections, and pages come as before', async () => {
    const { hostname, port } = new URL(ADDRESS());
    const slow = Array.from({ length: 300 }, () => {
      const socket = connect(Number(port), hostname);
      socket.on('error', () => undefined);
      socket.write('GET /sign-in HTTP/1.1\r\nhost: 127.0.0.1\r\nx-slow: ');
      return socket;
    });
    try {
      const began = Date.now();
      for (let at = 0; at < 5; at += 1) expect((await ask('/health')).status).toBe(200);
      expect(Date.now() - began).toBeLessThan(5000);
    } finally {
      for (const socket of slow) socket.destroy();
    }
  });
});
