import { beforeAll, describe, expect, it } from 'vitest';
import { openArchive } from '../../cli/archive';
import { ROLES, type Role } from '#core/people/roles';
import { ACCESS, MAY, type Access, type Purpose } from '#core/access/access';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findTiles } from '#server/catalogue/find';
import { needOf } from '#server/auth/doors';
import { can } from '#core/people/roles';
import { ask, askJson, asRole } from '../support/http';
import { routes } from '../support/routes';

/**
 * Every door that shows one item, with what it is for: whoever may not see the item for that gets the answer of an item
 * that is not there, or a refusal where he may know that it is. A route with an item in its address that stands in none
 * of these lists fails.
 */
const SHOWING: Record<string, Exclude<Purpose, 'list'>> = {
  '/api/items/[id]/original': 'take',
  '/api/items/[id]/drawing': 'play',
  '/api/items/[id]/film': 'play',
  '/api/items/[id]/measure': 'play',
  '/api/items/[id]/media': 'play',
  '/api/items/[id]/pages/[page]': 'play',
  '/api/items/[id]/peaks': 'play',
  '/api/items/[id]/specimen': 'play',
  '/api/items/[id]/strip': 'play',
  '/api/items/[id]/text': 'play',
  '/api/items/[id]/tiles': 'play',
  '/api/items/[id]/tiles/[...path]': 'play',
};
/** What is known of one item, without its file. */
const TELLING = [
  ...['/api/items/[id]', '/api/v1/items/[number]', '/catalogue/[number]', '/side'],
  ...['/api/items/[id]/spans', '/api/items/[id]/beside', '/catalogue/[number]/log'],
];
const PICTURES = '/api/pictures/[item]/[key]/[size]';
/** Routes with an address of something else, or with an item tried elsewhere: rooms by tests/server/people, spans by tests/server/spans, making a picture anew is `show`. */
const OTHERS =
  /^\/(r|api\/(lists|places|rooms|jobs|ledger|patterns|collections|intake|uploads|positions|remembered|spans|sequences))\/|^\/(dispatch|collections|intake)\/|\/picture$/;

interface Thing {
  id: string;
  number: string;
  kind: string;
  picture: string;
}
/** Some of each kind, in each state. */
const things = new Map<Access, Thing[]>();
const cookies = {} as Record<Role, string>;
const KINDS = ['photo', 'footage', 'sound', 'vector', 'document', 'font'];

beforeAll(async () => {
  for (const role of ROLES) cookies[role] = await asRole(role);
  const archive = await openArchive({
    ...process.env,
    MINDFUL_HOME: process.env['MINDFUL_TEST_HOME']!,
    MINDFUL_PG_PORT: '22190',
  });
  const { db } = archive.house;
  try {
    for (const kind of KINDS) {
      const found = await findTiles(
        db,
        HOUSE,
        parseQuery(`kind ${kind}; order number`),
        0,
        ACCESS.length,
      );
      for (const [at, state] of ACCESS.entries()) {
        // Of a kind of which there are few one item stands for the states it can.
        const tile = found[at];
        if (!tile) continue;
        if (state !== 'open')
          await db
            .insertInto('accessMark')
            .values({
              id: crypto.randomUUID(),
              state,
              placeId: null,
              folderId: null,
              accessionId: null,
              collectionId: null,
              itemId: tile.id,
            })
            .execute();
        things.set(state, [
          ...(things.get(state) ?? []),
          { id: tile.id, number: tile.number, kind, picture: tile.picture },
        ]);
      }
    }
  } finally {
    await archive.close();
  }
  return async () => {
    const again = await openArchive({
      ...process.env,
      MINDFUL_HOME: process.env['MINDFUL_TEST_HOME']!,
      MINDFUL_PG_PORT: '22190',
    });
    await again.house.db.deleteFrom('accessMark').execute();
    await again.close();
  };
});

const addressOf = (route: string, { id, number, picture }: Thing): string =>
  `${route
    .replace('[item]/[key]', picture)
    .replace('[id]', id)
    .replace('[number]', number)
    .replace('[page]', '1')
    .replace('[size]', 'small')
    .replace('[...path]', '8/0_0.jpeg')}${
    route === '/side' ? `?items=${number}` : '?text=a&words=a&typed=a&left=0&top=0&width=1&height=1'
  }`;

describe('every door that shows an item', () => {
  it('is in one of the lists', () => {
    const known = [...Object.keys(SHOWING), ...TELLING, PICTURES];
    const withItem = routes.filter((route) => /\[/.test(route) && !OTHERS.test(route));
    expect(withItem.filter((route) => !known.includes(route))).toEqual([]);
  });

  it('opens as far as the state of access says, for each role and kind of thing', async () => {
    const wrong: string[] = [];
    const all: [string, Purpose][] = [
      ...TELLING.map((route): [string, Purpose] => [route, 'list']),
      ...Object.entries(SHOWING),
      [PICTURES, 'show'],
    ];
    let tried = 0;
    for (const [state, some] of things)
      for (const thing of some)
        for (const [route, purpose] of all) {
          // What the thing itself answers to who sees all; it may be made meanwhile.
          const asKeeper = async (): Promise<number> =>
            (await ask(addressOf(route, thing), { cookie: cookies.keeper })).status;
          const plain = await asKeeper();
          for (const role of ROLES) {
            if (role === 'keeper' || !can(role, needOf(route, 'GET') as 'look')) continue;
            const answer = await ask(addressOf(route, thing), { cookie: cookies[role] });
            await answer.body?.cancel();
            tried += 1;
            const isListed = MAY[state].list.includes(role);
            // A picture that is not shown is none; who may only know of a file is told so.
            const refused = isListed && route !== PICTURES ? 403 : 404;
            const mayAsk = MAY[state][purpose].includes(role);
            const right = mayAsk ? plain : refused;
            if (answer.status === right || (mayAsk && answer.status === (await asKeeper())))
              continue;
            wrong.push(
              `${route} of a ${state} ${thing.kind} as ${role}: ${answer.status}, not ${right}`,
            );
          }
        }
    expect(wrong).toEqual([]);
    expect(tried).toBeGreaterThan(500);
  });

  it('counts and completes for each what he sees, and lets nobody take the rest in hand', async () => {
    const closed = things.get('closed')!;
    const open = things.get('open')![0]!;
    const json = async <T>(path: string, role: Role): Promise<T> =>
      (await (await ask(path, { cookie: cookies[role] })).json()) as T;
    const total = (role: Role, q = ''): Promise<number> =>
      json<{ total: number }>(`/api/catalogue/wall?q=${encodeURIComponent(q)}`, role).then(
        (wall) => wall.total,
      );
    // The index follows within moments.
    for (
      const end = Date.now() + 20_000;
      (await total('teammate', 'access closed')) > 0 && Date.now() < end;
    )
      await new Promise((resolve) => setTimeout(resolve, 100));
    expect(await total('keeper', 'access closed')).toBe(closed.length);
    expect(await total('teammate', 'access closed')).toBe(0);
    expect(await total('teammate')).toBe(
      (await total('keeper')) - closed.length - things.get('waiting')!.length,
    );
    const q = `any(${closed.map(({ number }) => `number ${number}`).join('; ')})`;
    expect(await json('/api/catalogue/ids?q=' + encodeURIComponent(q), 'teammate')).toEqual([]);
    const answer = await askJson('/api/records', 'PATCH', cookies.contributor, {
      ids: [closed[0]!.id, open.id],
      change: { headline: 'Seen by its contributor' },
    });
    expect(await answer.json()).toMatchObject({ changed: 1 });
    const none = await askJson('/api/records', 'PATCH', cookies.contributor, {
      ids: [closed[0]!.id],
      change: { headline: 'No' },
    });
    expect(none.status).toBe(404);
  });
});
