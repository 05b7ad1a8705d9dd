import { join } from 'node:path';
import { sql } from 'kysely';
import { parseQuery } from '#core/query/grammar';
import type { Role } from '#core/people/roles';
import { addPerson } from '#server/auth/people';
import { findIds } from '#server/catalogue/find';
import { addCollection, addItems, collections, idsInOrder } from '#server/collections/collections';
import { isFolder } from '#server/files/disk';
import type { House } from '#server/house/house';
import { suggestBundles } from '#core/intake/bundles';
import { planSchema } from '#core/intake/plan';
import { startAccession } from '#server/intake/plan/accession';
import { bundled, filesToBring } from '#server/intake/sources/files';
import { rememberPlan } from '#server/intake/plan/plans';
import { pluggedIn, unplugged } from '#server/intake/sources/sources';
import { addPlace, placeByName, type Place } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { typedTerms } from '#server/terms/terms';
import { openRoom, pick, visit } from '#server/rooms/rooms';
import { withWorker } from '../cli/archive';
import { waitForJobs } from '../cli/waiting';
import { library, type Described, type Picture } from './library';
import { demoFolders, makeDemoFiles } from './make';

export const DEMO_PASSWORD = 'saltreach-kites';

export const DEMO_ACCOUNTS: { name: string; email: string; role: Role }[] = [
  { name: 'Odile Marchetti', email: 'odile@saltreach.example', role: 'keeper' },
  { name: 'Bea Lund', email: 'bea@saltreach.example', role: 'contributor' },
  { name: 'Jonas Reed', email: 'jonas@saltreach.example', role: 'teammate' },
  { name: 'Priya Vance', email: 'priya@saltreach.example', role: 'rights-desk' },
];

type Say = (line: string) => void;

const TERMS = [
  'Box kite under Kite',
  'Night kite under Kite',
  'Sail under Kite',
  'Dune under Shore',
  'Groyne under Shore',
  'Tidal flat under Shore',
  'Bench under Workshop',
  'Table under Workshop',
  'Store under Workshop',
  'Shears under Tool',
  'Handler under People',
  'Crowd under People',
  'Dusk under Light',
];

async function bringIn(
  house: House,
  place: Place,
  folder: string,
  title: string,
  keeper: string,
): Promise<string | null> {
  const root = join(place.root, folder);
  if (!(await isFolder(root))) return null;
  const files = await filesToBring(root);
  const { jobId } = await startAccession(house, {
    title,
    source: { kind: 'folder', name: root },
    root,
    mode: 'in-place',
    place,
    plan: { filing: '', naming: '{name}', terms: [] },
    files: bundled(
      files,
      suggestBundles(files.map(({ path }) => path)).map(({ folder }) => folder),
    ),
    actorId: keeper,
  });
  return jobId;
}

/** What the keepers of Saltreach have described so far. */
async function describe(
  house: House,
  keeper: string,
  place: string,
  pictures: Picture[],
): Promise<void> {
  const { rows } = await sql<{ id: string; path: string }>`
    select i.id, case when d.path = '' then f.name else d.path || '/' || f.name end as path
    from item i join file f on f.item_id = i.id and f.role = 'original' join folder d on d.id = f.folder_id
    join place p on p.id = f.place_id where p.name = ${place}`.execute(house.db);
  const byPath = new Map(rows.map((row) => [row.path, row.id]));
  const groups = new Map<string, { ids: string[]; described: Described; creator: string }>();
  for (const { path, described, creator } of pictures) {
    const id = byPath.get(path);
    if (!id || !described) continue;
    const key = JSON.stringify([described, creator]);
    const group = groups.get(key) ?? { ids: [], described, creator };
    group.ids.push(id);
    groups.set(key, group);
  }
  for (const { ids, described, creator } of groups.values())
    await changeRecords(house.db, keeper, ids, {
      title: described.title,
      caption: described.caption,
      creator: [creator],
      creditLine: described.credit,
      copyrightNotice: described.copyright,
      addTerms: described.terms,
      rating: described.rating,
      ...(described.stage ? { stage: described.stage } : {}),
    });
}

async function describeRest(house: House, keeper: string): Promise<void> {
  const set = async (query: string, change: Parameters<typeof changeRecords>[3]): Promise<void> => {
    await changeRecords(house.db, keeper, await findIds(house.db, parseQuery(query)), change);
  };
  await set('kind vector', {
    addTerms: ['Pattern', 'Sail under Kite'],
    creator: ['Odile Marchetti'],
    creditLine: 'Saltreach Kites',
    rating: 3,
  });
  await set('kind footage', {
    addTerms: ['Footage', 'Wind Week'],
    creator: ['Tomas Ekwueme'],
    rating: 3,
    stage: 'To look over',
  });
  await set('kind sound', { addTerms: ['Sound', 'Wind Week'], creator: ['Tomas Ekwueme'] });
  await set('kind document, font', { creator: ['Odile Marchetti'], creditLine: 'Saltreach Kites' });
}

async function collect(house: House, keeper: string): Promise<void> {
  const make = async (name: string, note: string, query: string, count: number): Promise<void> => {
    const id = await addCollection(house.db, keeper, name, note);
    await addItems(
      house.db,
      { role: 'keeper' },
      id,
      (await findIds(house.db, parseQuery(query))).slice(0, count),
    );
  };
  await make(
    'Festival book, chapter 2',
    'Harbour flights, in the order of the chapter.',
    'kind photo; in "Studio shelf/Wind Week/Harbour flights"; rated 2..; order taken',
    18,
  );
  await make(
    'Poster round one',
    'One strong kite, room for type.',
    'kind photo; rated 4..; order rating down',
    14,
  );
  await make(
    'Web story, night',
    'For the story after the festival.',
    'kind photo; in "Studio shelf/Wind Week/Night kites"; rated 1..; order taken',
    10,
  );
}

/** Fill an archive with the demo library, once. Killed halfway, the next run takes it up where it was. */
export async function makeDemo(house: House, small: boolean, say: Say): Promise<void> {
  const done = await house.db.selectFrom('collection').select('id').limit(1).executeTakeFirst();
  await makeDemoFiles(house.settings.home, small, say);
  if (done) return;
  for (const account of DEMO_ACCOUNTS) {
    const known = await house.db
      .selectFrom('person')
      .select('id')
      .where('email', '=', account.email)
      .executeTakeFirst();
    if (!known) await addPerson(house.db, { ...account, password: DEMO_PASSWORD });
  }
  const { id: keeper } = await house.db
    .selectFrom('person')
    .select('id')
    .where('email', '=', DEMO_ACCOUNTS[0]!.email)
    .executeTakeFirstOrThrow();
  await typedTerms(house.db, TERMS);
  const folders = demoFolders(house.settings.home);
  const shelf =
    (await placeByName(house.db, 'Studio shelf')) ??
    (await addPlace(house, 'Studio shelf', folders.shelf));
  const travel =
    (await placeByName(house.db, 'Travel drive')) ??
    (await addPlace(house, 'Travel drive', folders.travel));
  say('Bringing the library into the archive …');
  await withWorker(house, async () => {
    const jobs = [
      await bringIn(house, travel, '', 'Far beaches', keeper),
      await bringIn(house, shelf, 'Workshop', 'Workshop year', keeper),
      await bringIn(house, shelf, 'Brand', 'Brand shelf', keeper),
      await bringIn(house, shelf, 'Sail patterns', 'Sail patterns', keeper),
      await bringIn(house, shelf, 'Wind Week', 'Wind Week', keeper),
      await bringIn(house, shelf, 'Festival book', 'Festival book', keeper),
    ].filter((id) => id !== null);
    await waitForJobs(house, { jobs }, 'Bringing the library in');
    say('Describing it …');
    const { shelf: onShelf, travel: onTravel } = library(small);
    await describe(house, keeper, 'Studio shelf', onShelf);
    await describe(house, keeper, 'Travel drive', onTravel);
    await describeRest(house, keeper);
    const ids = await findIds(house.db, parseQuery(''));
    await waitForJobs(house, { items: ids }, 'Writing records into files');
  });
  await collect(house, keeper);
  await rememberPlans(house, shelf.id);
  await openRooms(house, keeper);
}

/** How Saltreach Kites names and files: what its people used last, so that it is offered to them again. */
async function rememberPlans(house: House, placeId: string): Promise<void> {
  const naming = 'SLT-{taken MMdd}-{counter 0001 by day}';
  const plan = planSchema.parse({ filing: 'Wind Week/{taken yyyy-MM-dd}/{camera}', naming });
  const people = await house.db.selectFrom('person').select('id').execute();
  const devices = [...(await pluggedIn(house)), ...(await unplugged(house))];
  for (const { id: personId } of people) {
    for (const { key } of devices) {
      const source = { kind: 'device', name: key } as const;
      await rememberPlan(house.db, personId, source, { mode: 'copy', placeId, plan });
    }
    await house.db
      .insertInto('remembered')
      .values({
        personId,
        key: 'rename-pattern',
        value: JSON.stringify({ pattern: naming }),
      })
      .onConflict((conflict) => conflict.doNothing())
      .execute();
  }
}

const DAY_MS = 86_400_000;

/** Two reading rooms with what guests did in them: one that is open, one that has expired. */
async function openRooms(house: House, keeper: string): Promise<void> {
  const { db } = house;
  const [first, second] = await collections(db);
  if (!first || !second) return;
  for (const [collection, guests, isOpen] of [
    [first, 3, true],
    [second, 2, false],
  ] as const) {
    const { id } = await openRoom(db, keeper, {
      collectionId: collection.id,
      title: collection.name,
      greeting: 'Choose what you would like to see in the book; we bring the rest to the meeting.',
      expiresAt: new Date(Date.now() + 12 * DAY_MS),
      sizes: isOpen ? ['2048'] : ['original', '2048'],
    });
    const items = await idsInOrder(db, collection.id);
    for (let guest = 0; guest < guests; guest += 1) {
      const visitId = await visit(db, id, undefined);
      for (const itemId of items.filter((_, at) => at % (guest + 2) === 0).slice(0, 5))
        await pick(db, visitId, itemId, true);
    }
    if (!isOpen)
      await db
        .updateTable('readingRoom')
        .set({ expiresAt: new Date(Date.now() - DAY_MS) })
        .where('id', '=', id)
        .execute();
  }
}
