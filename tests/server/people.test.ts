import { readdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { sql } from 'kysely';
import { beforeAll, describe, expect, it } from 'vitest';
import { ABILITIES, can, ROLES } from '#core/people/roles';
import { HOUSE } from '#core/sight/viewer';
import { makeAuth } from '#server/auth/auth';
import { openSession } from '#server/auth/openSession';
import { checkDoor, DOORS, needOf } from '#server/auth/doors';
import { addFirstKeeper, addPerson } from '#server/auth/people';
import { beginTry, forgetTries } from '#server/auth/tries';
import {
  addCollection,
  addItems,
  collectionById,
  idsInOrder,
  moveItems,
  removeCollection,
  removeItems,
} from '#server/collections/collections';
import { findIds } from '#server/catalogue/find';
import { parseQuery } from '#core/query/grammar';
import {
  kindInRoom,
  openRoom,
  pick,
  picksOf,
  renewRoom,
  revokeRoom,
  roomItems,
  roomOfToken,
  rooms,
  visit,
} from '#server/rooms/rooms';
import { readSettings } from '#server/house/settings';
import { bytesOfPath, checkRelative, textOfPath } from '#server/files/paths';
import fc from 'fast-check';
import { NOBODY, bringIn, placeNamed, useArchive } from '../support/archive';
import { writeJpeg } from '../support/pictures';
import { asSeen } from '#server/sight/seen';

const archive = useArchive();
const db = () => archive.house.db;
let ids: string[] = [];

beforeAll(async () => {
  for (const seed of [1, 2, 3, 4, 5])
    await writeJpeg(join(archive.folder, 'source', `p${seed}.jpg`), seed);
  await bringIn(archive, join(archive.folder, 'source'), {
    mode: 'copy',
    place: await placeNamed(archive, 'Shelf'),
  });
  ids = await findIds(db(), HOUSE, parseQuery('order name'));
});

/** Route ids as files, without the groups in parentheses. */
function routeIds(): string[] {
  const routes = resolve(import.meta.dirname, '../../src/routes');
  const files = readdirSync(routes, { recursive: true, encoding: 'utf8' }).filter((file) =>
    /(^|\/)\+(page\.svelte|page\.server\.ts|server\.ts)$/.test(file),
  );
  const ids = files.map(
    (file) => `/${file.replace(/\/?\+[^/]+$/, '')}`.replace(/\/\([^)]+\)/g, '') || '/',
  );
  return [...new Set(ids)].sort();
}

describe('doors', () => {
  it('are listed for every route, and only for those', () => {
    expect(Object.keys(DOORS).sort()).toEqual(routeIds());
  });

  it('open for exactly the roles the table names, and for nobody else', () => {
    for (const route of Object.keys(DOORS))
      for (const method of ['GET', 'POST', 'PATCH', 'PUT', 'DELETE']) {
        const need = needOf(route, method);
        const opens = (actor: Parameters<typeof checkDoor>[2]): string => {
          try {
            checkDoor(route, method, actor);
            return 'open';
          } catch (error) {
            return (error as { code: string }).code;
          }
        };
        expect(opens(null)).toBe(need === 'anyone' ? 'open' : 'sign-in-needed');
        for (const role of ROLES) {
          const isOpen = need === 'anyone' || (need !== null && can(role, need));
          expect([route, method, role, opens({ id: '', name: '', email: '', role })]).toEqual([
            route,
            method,
            role,
            isOpen ? 'open' : 'not-allowed',
          ]);
        }
      }
    expect(needOf('/no-such-route', 'GET')).toBeNull();
    for (const roles of Object.values(ABILITIES)) expect(roles).toContain('keeper');
  });
});

describe('people', () => {
  it('begin with one first keeper, and never two', async () => {
    const person = { name: 'Odile', email: 'odile@example.org', password: 'long enough 1' };
    await addFirstKeeper(db(), person);
    await expect(addFirstKeeper(db(), { ...person, email: 'b@example.org' })).rejects.toMatchObject(
      { code: 'conflict' },
    );
    await expect(addPerson(db(), { ...person, role: 'teammate' })).rejects.toMatchObject({
      code: 'conflict',
    });
    const { password } = (await db()
      .selectFrom('account' as never)
      .selectAll()
      .executeTakeFirstOrThrow()) as { password: string };
    expect(password).toMatch(/^\$argon2id\$/);
  });

  it('open a session for the right pair alone; what is broken is no wrong password', async () => {
    const auth = makeAuth(archive.house);
    const email = 'opens@example.org';
    await addPerson(db(), { name: 'O', email, password: 'long enough', role: 'teammate' });
    const tried = (password: string) =>
      openSession(auth, { email, password }, new Headers(), '198.51.100.9');
    expect((await tried('long enough'))?.headers.getSetCookie()).not.toEqual([]);
    expect(await tried('something else')).toBeNull();
    await sql`update account set password = 'no hash' where person_id =
      (select id from person where email = ${email})`.execute(db());
    await expect(tried('long enough')).rejects.toThrow();
  });

  it('slow wrong passwords, close for an account at one address, and let others in', async () => {
    const trying = (account: string, address = '198.51.100.7', device: string | null = null) =>
      ({ what: 'sign-in', account, address, device }) as const;
    const all = await Promise.allSettled(
      Array.from({ length: 40 }, () => beginTry(db(), trying('x@example.org'))),
    );
    // Forty at once are forty: ten were let try, whatever order they came in.
    expect(all.filter(({ status }) => status === 'fulfilled')).toHaveLength(10);
    await expect(beginTry(db(), trying('x@example.org'))).rejects.toMatchObject({
      code: 'too-many-tries',
    });
    await beginTry(db(), trying('x@example.org', '198.51.100.8'));
    await beginTry(db(), trying('other@example.org'));
    await forgetTries(db(), trying('x@example.org'));
    await beginTry(db(), trying('x@example.org'));
  });

  it('let no stranger lock out an owner who comes from a known device', async () => {
    const from = (at: number) =>
      ({ what: 'sign-in', account: 'owner@example.org', address: `203.0.113.${at}` }) as const;
    const strangers = await Promise.allSettled(
      Array.from({ length: 80 }, (_, at) => beginTry(db(), from(at))),
    );
    expect(strangers.filter(({ status }) => status === 'fulfilled')).toHaveLength(60);
    await expect(beginTry(db(), from(200))).rejects.toMatchObject({ code: 'too-many-tries' });
    await beginTry(db(), { ...from(1), device: 'known' });
  });

  it('close an address to nobody for names somebody made up', async () => {
    const address = '192.0.2.44';
    await Promise.all(
      Array.from({ length: 90 }, (_, at) =>
        beginTry(db(), { what: 'sign-in', account: `made-up-${at}@example.org`, address }),
      ),
    );
    const began = Date.now();
    await beginTry(db(), { what: 'sign-in', account: 'real@example.org', address });
    expect(Date.now() - began).toBeGreaterThan(500);
  });
});

describe('collections', () => {
  it('keep an order of their own', async () => {
    const id = await addCollection(db(), null, 'Chapter 2');
    expect(await addItems(db(), NOBODY, id, asSeen(ids))).toBe(5);
    expect(await addItems(db(), NOBODY, id, asSeen(ids.slice(0, 2)))).toBe(0);
    await moveItems(db(), NOBODY, id, asSeen([ids[4]!, ids[3]!]), ids[0]!);
    expect(await idsInOrder(db(), HOUSE, id)).toEqual([ids[3], ids[4], ids[0], ids[1], ids[2]]);
    await moveItems(db(), NOBODY, id, asSeen([ids[3]!]), null);
    expect((await idsInOrder(db(), HOUSE, id)).at(-1)).toBe(ids[3]);
    expect(await removeItems(db(), NOBODY, id, asSeen([ids[0]!]))).toBe(1);
    expect((await collectionById(db(), HOUSE, id)).count).toBe(4);
    expect(await findIds(db(), HOUSE, parseQuery('collection "Chapter 2"; order hand'))).toEqual(
      await idsInOrder(db(), HOUSE, id),
    );
    await expect(addCollection(db(), null, 'chapter 2')).rejects.toMatchObject({
      code: 'conflict',
    });
    await expect(
      addItems(db(), NOBODY, '00000000-0000-7000-8000-000000000000', asSeen(ids)),
    ).rejects.toMatchObject({ code: 'not-found' });
  });

  it('any sequence of moves keeps every item once', async () => {
    const id = await addCollection(db(), null, 'Shuffled');
    await addItems(db(), NOBODY, id, asSeen(ids));
    const moves = fc.array(
      fc.tuple(fc.integer({ min: 0, max: 4 }), fc.option(fc.integer({ min: 0, max: 4 }))),
      { maxLength: 6 },
    );
    await fc.assert(
      fc.asyncProperty(moves, async (list) => {
        for (const [item, before] of list)
          if (item !== before)
            await moveItems(
              db(),
              NOBODY,
              id,
              asSeen([ids[item]!]),
              before === null ? null : ids[before]!,
            );
        expect([...(await idsInOrder(db(), HOUSE, id))].sort()).toEqual([...ids].sort());
      }),
      { numRuns: 15 },
    );
  });
});

describe('reading rooms', () => {
  const soon = () => new Date(Date.now() + 60_000);

  it('open by their token alone, show only what hangs in them, and close for good', async () => {
    const collectionId = await addCollection(db(), null, 'For guests');
    await addItems(db(), NOBODY, collectionId, asSeen(ids.slice(0, 3)));
    const { id, token } = await openRoom(db(), null, {
      collectionId,
      title: 'Posters',
      greeting: '',
      expiresAt: soon(),
      sizes: ['2048'],
    });
    expect(Buffer.from(token, 'base64url').length).toBeGreaterThanOrEqual(16);
    expect(
      JSON.stringify(await db().selectFrom('readingRoom').selectAll().execute()),
    ).not.toContain(token);
    const room = await roomOfToken(db(), token);
    const guest = await visit(db(), room.id, undefined);
    expect(await visit(db(), room.id, guest)).toBe(guest);
    expect(await visit(db(), room.id, "'; drop table item; --")).not.toBe(guest);
    await pick(db(), guest, ids[1]!, true);
    expect((await roomItems(db(), room, guest)).map(({ picked }) => picked)).toEqual([
      false,
      true,
      false,
    ]);
    expect(await picksOf(db(), id)).toEqual([{ itemId: ids[1], guests: 1 }]);
    await expect(kindInRoom(db(), room, ids[4]!)).rejects.toMatchObject({ code: 'not-found' });
    const fresh = await renewRoom(db(), null, id);
    await expect(roomOfToken(db(), token)).rejects.toMatchObject({ code: 'room-closed' });
    await roomOfToken(db(), fresh);
    await revokeRoom(db(), null, id);
    await expect(roomOfToken(db(), fresh)).rejects.toMatchObject({ code: 'room-closed' });
    expect((await rooms(db()))[0]).toMatchObject({ visitors: 2, picks: 1 });
  });

  it('close when they expire and when their collection goes', async () => {
    const collectionId = await addCollection(db(), null, 'Short');
    await expect(
      openRoom(db(), null, {
        collectionId,
        title: 'x',
        greeting: '',
        expiresAt: new Date(Date.now() - 1),
        sizes: [],
      }),
    ).rejects.toMatchObject({ code: 'value-refused' });
    const { id, token } = await openRoom(db(), null, {
      collectionId,
      title: 'x',
      greeting: '',
      expiresAt: soon(),
      sizes: [],
    });
    await db()
      .updateTable('readingRoom')
      .set({ expiresAt: new Date(Date.now() - 1) })
      .where('id', '=', id)
      .execute();
    await expect(roomOfToken(db(), token)).rejects.toMatchObject({ code: 'room-closed' });
    const other = await openRoom(db(), null, {
      collectionId,
      title: 'y',
      greeting: '',
      expiresAt: soon(),
      sizes: [],
    });
    await removeCollection(db(), NOBODY, collectionId);
    await expect(roomOfToken(db(), other.token)).rejects.toMatchObject({ code: 'room-closed' });
  });
});

describe('settings and paths', () => {
  it.each([
    [{ PORT: '80a' }, 'PORT'],
    [{ PORT: '70000' }, 'PORT'],
    [{ DATABASE_URL: 'nowhere' }, 'DATABASE_URL'],
    [{ MINDFUL_LOG: 'loud' }, 'MINDFUL_LOG'],
  ])('refuse %o naming the setting', (env, name) => {
    expect(() => readSettings(env)).toThrow(name);
  });

  it('lead back to the very bytes of any name', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 60 }), (bytes) => {
        expect(bytesOfPath(textOfPath(Buffer.from(bytes)))).toEqual(Buffer.from(bytes));
      }),
    );
    fc.assert(
      fc.property(fc.string({ unit: 'binary' }), (text) => {
        expect(bytesOfPath(textOfPath(Buffer.from(text)))).toEqual(Buffer.from(text));
      }),
    );
  });

  it.each(['../x', 'a/../../b', '/etc', 'a/./b', 'a\0b'])('refuse “%s”', (path) => {
    expect(() => checkRelative(path)).toThrowError(
      expect.objectContaining({ code: 'outside-place' }),
    );
  });
});
