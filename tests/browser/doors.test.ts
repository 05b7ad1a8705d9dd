import { request } from 'node:http';
import { beforeAll, describe, expect, it } from 'vitest';
import { ROLES, type Role } from '#core/people/roles';
import { ask, ADDRESS, asRole } from '../support/http';
import { routes } from '../support/routes';

/**
 * Who may pass which door, written down a second time and on purpose not read from the application: keeper (k),
 * contributor (c), teammate (t), rights desk (r), anyone (*). A method without a word is for nobody.
 */
const TABLE = `
/ GET kctr
/health GET *
/sign-in GET * POST *
/welcome GET * POST *
/sign-out POST *
/account GET kctr POST kctr
/people GET k POST k
/places GET k
/intake GET kc
/intake/[number] GET kc
/catalogue GET kctr
/catalogue/[number] GET kctr
/catalogue/[number]/log GET kctr
/side GET kctr
/collections GET kctr
/collections/[id] GET kctr
/collections/sequences/[id] GET kctr
/dispatch GET kt
/dispatch/[id] GET kt
/ledger GET kcr
/ledger/wastebasket GET kcr
/r/[token] GET *
/r/[token]/picture/[item]/[size] GET *
/r/[token]/file/[item]/[size] GET *
/r/[token]/media/[item] GET *
/r/[token]/pick POST *
/api/live GET kctr
/api/remembered/[key] PUT kctr
/census GET kctr
/reference GET kctr
/lists GET kctr
/lists/stages GET kctr
/lists/stamps GET kctr
/lists/contributors GET kctr
/lists/rules GET kctr
/lists/spots GET kctr
/api/v1/items GET kctr
/api/v1/items/[number] GET kctr PATCH kcr
/api/v1/facets GET kctr
/api/v1/fields GET kctr
/api/v1/openapi.json GET kctr
/api/catalogue/wall GET kctr
/api/catalogue/result GET kctr
/api/catalogue/stretch GET kctr
/api/catalogue/folders GET kctr
/api/catalogue/labels POST kctr
/api/catalogue/why GET kctr
/api/catalogue/cells GET kctr
/api/catalogue/csv POST kctr
/api/catalogue/density GET kctr
/api/catalogue/positions GET kctr
/api/catalogue/census GET kctr
/api/catalogue/tiles GET kctr
/api/catalogue/ids GET kctr
/api/catalogue/choices GET kctr
/api/catalogue/neighbours GET kctr
/api/catalogue/complete GET kctr
/api/items/[id] GET kctr
/api/items/[id]/original GET kctr
/api/items/[id]/drawing GET kctr
/api/items/[id]/film GET kctr
/api/items/[id]/measure GET kctr
/api/items/[id]/media GET kctr
/api/items/[id]/pages/[page] GET kctr
/api/items/[id]/peaks GET kctr
/api/items/[id]/picture POST kcr
/api/items/[id]/specimen GET kctr
/api/items/[id]/spans GET kctr POST kcr
/api/items/[id]/beside GET kctr
/api/spans POST kcr
/api/spans/[id] PATCH kcr DELETE kcr
/api/items/[id]/strip GET kctr
/api/items/[id]/text GET kctr
/api/items/[id]/tiles GET kctr
/api/items/[id]/tiles/[...path] GET kctr
/api/pictures/[item]/[key]/[size] GET kctr
/api/records POST kctr PATCH kcr
/api/records/numbers POST kctr
/api/records/column POST kcr
/api/records/column/preview POST kcr
/api/records/first PUT k
/api/bursts POST kcr
/api/terms GET kctr
/api/terms/near GET kctr
/api/records/settle POST kcr
/api/records/rules PUT k
/api/lists/stages GET kctr POST k PUT k
/api/lists/stages/[id] PATCH k POST k DELETE k
/api/lists/terms GET kctr POST k
/api/lists/terms/[id] GET kctr PATCH k POST k DELETE k
/api/lists/terms/file GET kctr POST k
/api/lists/contributors GET kctr POST k
/api/lists/contributors/preview POST k
/api/lists/contributors/[id] PATCH k DELETE k
/api/lists/stamps GET kctr POST kcr
/api/lists/stamps/[id] PATCH kcr DELETE kcr
/api/lists/stamps/put POST kcr
/api/lists/spots GET kctr POST kcr
/api/lists/spots/[id] PATCH kcr DELETE kcr
/api/positions POST kcr
/api/positions/preview POST kcr
/api/positions/tracks GET kcr POST kcr
/api/positions/tracks/[id] DELETE kcr
/api/terms/rules PUT k
/api/dates POST kcr
/api/dates/preview POST kcr
/api/rename POST k
/api/rename/material POST k
/api/rename/one POST k
/api/patterns GET k POST k
/api/patterns/[id] DELETE k
/api/wastebasket POST k DELETE k
/api/wastebasket/preview POST k
/api/ledger/csv GET kcr
/api/ledger/undo GET kcr POST kcr
/api/ledger/[id]/later GET kcr
/api/ledger/[id] GET kcr
/api/ledger/[id]/undo POST kcr
/api/jobs GET kctr
/api/jobs/[id] POST kctr
/api/collections GET kctr POST kctr
/api/collections/[id] PATCH kctr DELETE kctr POST kctr
/api/collections/[id]/items POST kctr DELETE kctr PATCH kctr
/api/sequences GET kctr POST kctr
/api/sequences/[id] GET kctr PATCH kctr DELETE kctr POST kctr
/api/rooms POST kt
/api/rooms/[id] DELETE kt POST kt
/api/places GET kctr POST k
/api/places/[id] PATCH k POST k
/api/places/folders GET kctr POST k
/api/places/folders/[id] PATCH k DELETE k
/api/filing POST k
/api/filing/preview POST k
/api/intake/folders GET kc
/api/intake/scans POST kc
/api/intake/scans/[id] GET kc
/api/intake/scans/[id]/[position] GET kc
/api/intake/plan POST kc
/api/intake/accessions POST kc
/api/intake/accessions/[id] GET kc POST kc
/api/intake/accessions/[id]/report GET kc
/api/intake/accessions/[id]/manifest GET kc
/api/intake/accessions/[id]/empty GET kc POST kc
/api/intake/devices/[key] PUT kc
/api/intake/parcels POST kc
/api/intake/parcels/[id] GET kc DELETE kc
/api/intake/web GET kc POST kc PUT kc
/api/intake/sheets GET kc POST kc PUT kc
/api/intake/plans GET kc POST kc
/api/intake/plans/[id] DELETE kc
/api/intake/counters DELETE kc
/api/intake/drop-zone GET kc PUT k
/api/uploads/[...id] HEAD kc POST kc PATCH kc DELETE kc
`;
const LETTERS: Record<Role, string> = {
  keeper: 'k',
  contributor: 'c',
  teammate: 't',
  'rights-desk': 'r',
};
const METHODS = ['GET', 'HEAD', 'POST', 'PATCH', 'PUT', 'DELETE'];
const NOBODYS = '00000000-0000-7000-8000-000000000000';

const doors = new Map(
  TABLE.trim()
    .split('\n')
    .map((line) => {
      const [route = '', ...words] = line.split(' ');
      const verbs = new Map<string, string>();
      for (let at = 0; at < words.length; at += 2) verbs.set(words[at]!, words[at + 1]!);
      if (verbs.has('GET')) verbs.set('HEAD', verbs.get('GET')!);
      return [route, verbs];
    }),
);

const addressOf = (route: string, value = NOBODYS): string =>
  route.replace(/\[(\.\.\.)?\w+\]/g, value);
const cookies: Partial<Record<Role, string>> = {};
const isPage = (route: string): boolean => !route.startsWith('/api/');

beforeAll(async () => {
  for (const role of ROLES) cookies[role] = await asRole(role);
});

describe('every door', () => {
  it('stands in the table, and every line of it is a door', () => {
    expect([...doors.keys()].sort()).toEqual(routes);
  });

  it('opens over HTTP for exactly those the table names, by every method', async () => {
    const wrong: string[] = [];
    const tried = routes.flatMap((route) => METHODS.map((method) => ({ route, method })));
    for (const { route, method } of tried) {
      // An event stream does not end; who may open one is tried below.
      if (route === '/api/live' && method === 'GET') continue;
      for (const role of [...ROLES, null]) {
        // Signing out is done last, by a session of its own.
        if (route === '/sign-out' && role !== null) continue;
        const cookie = role ? cookies[role] : undefined;
        const answer = await ask(addressOf(route), {
          method,
          ...(cookie ? { cookie } : {}),
          ...(['GET', 'HEAD'].includes(method)
            ? {}
            : { headers: { 'content-type': 'application/json' }, body: '{}' }),
        });
        await answer.body?.cancel();
        const allowed = doors.get(route)!.get(method) ?? '';
        const mayPass = allowed === '*' || (role !== null && allowed.includes(LETTERS[role]));
        const toSignIn = /^\/(sign-in|welcome)/.test(answer.headers.get('location') ?? '');
        const isShut = [401, 403].includes(answer.status) || (answer.status === 303 && toSignIn);
        // What no method answers is refused or unknown, and never done.
        const isUnknown = [404, 405].includes(answer.status);
        const isRight = mayPass
          ? !isShut || route === '/sign-out' || route === '/welcome' || answer.status === 410
          : isShut || isUnknown || (isPage(route) && method === 'POST' && answer.status === 415);
        if (!isRight || answer.status >= 500)
          wrong.push(`${method} ${route} as ${role ?? 'a guest'}: ${answer.status}`);
      }
    }
    expect(wrong).toEqual([]);
  });

  it('lets only those who look open an event stream, and no more than twenty each', async () => {
    const open = (cookie?: string): Promise<{ status: number; end: () => void }> =>
      new Promise((done, fail) => {
        const asked = request(`${ADDRESS()}/api/live`, { headers: cookie ? { cookie } : {} });
        asked.on('response', (answer) =>
          done({ status: answer.statusCode!, end: () => asked.destroy() }),
        );
        asked.on('error', (error) => fail(error));
        asked.end();
      });
    const stranger = await open();
    expect(stranger.status).toBe(401);
    const streams = [];
    for (let at = 0; at < 24; at += 1) streams.push(await open(cookies['rights-desk']));
    expect(streams.filter(({ status }) => status === 200)).toHaveLength(20);
    expect(streams.filter(({ status }) => status === 429)).toHaveLength(4);
    streams.forEach(({ end }) => end());
  });
});

describe('odd values', () => {
  const TEXTS = [
    '\0',
    'a\0b',
    '-1',
    '1e309',
    '99999999999999999999',
    '2147483648',
    "';--",
    '../../etc/passwd',
    '\u202e\ud83d\ude80',
    'x'.repeat(4000),
    '0000-00-00',
    '%',
    '[object Object]',
  ];
  const SEARCH = [
    ...['q', 'offset', 'limit', 'page', 'id', 'field', 'path', 'typed', 'at', 'parcel', 'format'],
    ...['scan', 'to'],
  ];
  const VALUES: unknown[] = [
    null,
    [],
    'x',
    7,
    { ids: ['\0'], itemIds: [NOBODYS], pattern: '\0', name: 'a\0', title: '\0', address: '\0' },
    { ids: [NOBODYS], change: { rating: 1e30, title: 'a\0b' }, versions: { a: 1e300 } },
    { scanId: NOBODYS, positions: [1e15], placeId: NOBODYS, title: 'x', plan: {} },
    { itemIds: [NOBODYS], before: NOBODYS, pattern: '{'.repeat(5000), tellApart: true },
    { collectionId: NOBODYS, title: 'x', expiresAt: 8.64e15, sizes: ['original'], wish: 'run' },
    { parcel: NOBODYS, placeId: NOBODYS, root: '/\0', rule: null, plugged: 1, confirmed: 'yes' },
    JSON.parse(`${'{"a":'.repeat(2000)}1${'}'.repeat(2000)}`),
  ];

  it('are refused clearly in addresses: nothing breaks, and a NUL is a bad request', async () => {
    const wrong: string[] = [];
    const cookie = cookies.keeper!;
    for (const route of routes) {
      if (route === '/api/live') continue;
      const asked = TEXTS.map((text) => {
        const params = SEARCH.map((name) => `${name}=${encodeURIComponent(text)}`).join('&');
        return { text, paths: [`${addressOf(route)}?${params}`] };
      });
      if (route.includes('['))
        for (const one of asked) one.paths.push(addressOf(route, encodeURIComponent(one.text)));
      for (const { text, paths } of asked)
        for (const path of paths) {
          const answer = await ask(path, { cookie });
          await answer.body?.cancel();
          // One that needs another method, or has no such door, does not read its address at all.
          const isRead = ![404, 405].includes(answer.status);
          const isClear = text.includes('\0') ? !isRead || answer.status === 400 : true;
          if (answer.status >= 500 || !isClear)
            wrong.push(`GET ${path.slice(0, 80)}: ${answer.status}`);
        }
    }
    expect(wrong).toEqual([]);
  });

  it('are refused clearly in bodies', async () => {
    const wrong: string[] = [];
    for (const [route, verbs] of doors) {
      if (!route.startsWith('/api/') || route === '/api/uploads/[...id]') continue;
      for (const method of verbs.keys()) {
        if (['GET', 'HEAD'].includes(method)) continue;
        for (const value of VALUES) {
          const answer = await ask(addressOf(route), {
            method,
            cookie: cookies.keeper!,
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify(value),
          });
          await answer.body?.cancel();
          if (answer.status >= 500)
            wrong.push(
              `${method} ${route} ${JSON.stringify(value).slice(0, 60)}: ${answer.status}`,
            );
        }
      }
    }
    expect(wrong).toEqual([]);
  });

  it('are refused in forms', async () => {
    const wrong: string[] = [];
    for (const page of [
      '/sign-in',
      '/welcome',
      '/account?/password',
      '/people?/add',
      '/people?/role',
    ])
      for (const text of TEXTS) {
        const answer = await ask(page, {
          method: 'POST',
          cookie: page === '/sign-in' ? '' : cookies.keeper!,
          headers: { 'content-type': 'application/x-www-form-urlencoded', accept: 'text/html' },
          body: new URLSearchParams({
            email: `${text.slice(0, 20)}@example.org`,
            password: text,
            name: text,
            id: text,
            role: text,
            current: text,
            next: text,
          }).toString(),
        });
        await answer.body?.cancel();
        if (answer.status >= 500 || (text.includes('\0') && ![400, 403].includes(answer.status)))
          wrong.push(`${page} ${JSON.stringify(text.slice(0, 20))}: ${answer.status}`);
      }
    expect(wrong).toEqual([]);
  });
});
