import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { sql } from 'kysely';
import { parseQuery } from '#core/query/grammar';
import { HOUSE } from '#core/sight/viewer';
import type { Query } from '#core/query/tree';
import type { Role } from '#core/people/roles';
import type { RecordChange } from '#core/records/fields';
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
import { changeEach } from '#server/records/records';
import { openRoom, pick, visit } from '#server/rooms/rooms';
import { waitForJobs } from '../cli/waiting';
import { library, type Library, type Picture } from './library';
import { makeLists } from './lists';
import { demoFolders } from './folders';
import { liveIn } from './lived';
import { asSeen } from '#server/sight/seen';

export const DEMO_PASSWORD = 'saltreach-kites';

export const DEMO_ACCOUNTS: { name: string; email: string; role: Role }[] = [
  { name: 'Odile Marchetti', email: 'odile@saltreach.example', role: 'keeper' },
  { name: 'Bea Lund', email: 'bea@saltreach.example', role: 'contributor' },
  { name: 'Jonas Reed', email: 'jonas@saltreach.example', role: 'teammate' },
  { name: 'Priya Vance', email: 'priya@saltreach.example', role: 'rights-desk' },
];

type Say = (line: string) => void;

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

interface Change {
  itemIds: string[];
  change: RecordChange;
}

/** What the keepers of Saltreach have described so far. */
async function described(house: House, place: string, pictures: Picture[]): Promise<Change[]> {
  const { rows } = await sql<{ id: string; path: string }>`
    select i.id, case when d.path = '' then f.name else d.path || '/' || f.name end as path
    from item i join file f on f.item_id = i.id and f.role = 'original' join folder d on d.id = f.folder_id
    join place p on p.id = f.place_id where p.name = ${place}`.execute(house.db);
  const byPath = new Map(rows.map((row) => [row.path, row.id]));
  const groups = new Map<string, Change>();
  for (const { path, described: said, creator } of pictures) {
    const id = byPath.get(path);
    if (!id || !said) continue;
    const key = JSON.stringify([said, creator]);
    const { title, caption, credit, copyright, terms, rating, stage } = said;
    const group = groups.get(key) ?? {
      itemIds: [],
      change: {
        ...{ title, caption, creator: [creator], creditLine: credit, copyrightNotice: copyright },
        ...{ addTerms: terms, rating, ...(stage ? { stage } : {}) },
      },
    };
    group.itemIds.push(id);
    groups.set(key, group);
  }
  return [...groups.values()];
}

const REST: [query: string, change: RecordChange][] = [
  [
    'kind vector',
    {
      ...{ addTerms: ['Pattern', 'Sail under Kite'], creator: ['Odile Marchetti'] },
      ...{ creditLine: 'Saltreach Kites', rating: 3 },
    },
  ],
  [
    'kind footage',
    {
      ...{ addTerms: ['Footage', 'Wind Week'], creator: ['Tomas Ekwueme'] },
      ...{ rating: 3, stage: 'To look over' },
    },
  ],
  ['kind sound', { addTerms: ['Sound', 'Wind Week'], creator: ['Tomas Ekwueme'] }],
  ['kind document, font', { creator: ['Odile Marchetti'], creditLine: 'Saltreach Kites' }],
];

/** The library is described in one step, so that the ledger begins with one line of it. */
async function describe(house: House, keeper: string, { shelf, travel }: Library): Promise<void> {
  const rest = REST.map(async ([query, change]) => ({
    itemIds: await findIds(house.db, HOUSE, parseQuery(query)),
    change,
  }));
  await changeEach(house.db, keeper, [
    ...(await described(house, 'Studio shelf', shelf)),
    ...(await described(house, 'Travel drive', travel)),
    ...(await Promise.all(rest)),
  ]);
}

/** A collection of this name: somebody who looks around meanwhile may have made one. */
async function collectionNamed(
  { db }: House,
  ...[keeper, name, note, query]: [string, string, string, Query?]
): Promise<string> {
  const known = await db
    .selectFrom('collection')
    .select('id')
    .where(sql`lower(name)`, '=', name.toLowerCase())
    .where('deletedAt', 'is', null)
    .executeTakeFirst();
  return known?.id ?? addCollection(db, keeper, name, note, query ?? null);
}

const FIRST_COLLECTION = 'Strong, and nobody credited';

async function collect(house: House, keeper: string): Promise<void> {
  await collectionNamed(
    house,
    keeper,
    FIRST_COLLECTION,
    'Fills itself; empty when the work is done.',
    parseQuery('kind photo; rated 4..; lacking credit; order rating down'),
  );
  const make = async (name: string, note: string, query: string, count: number): Promise<void> => {
    const id = await collectionNamed(house, keeper, name, note);
    await addItems(
      house.db,
      { id: keeper, role: 'keeper' },
      id,
      asSeen((await findIds(house.db, HOUSE, parseQuery(query))).slice(0, count)),
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

/** The demo's people, places and terms: what must be there before anyone looks. */
export async function prepareDemo(house: House): Promise<void> {
  for (const account of DEMO_ACCOUNTS) {
    const known = await house.db
      .selectFrom('person')
      .select('id')
      .where('email', '=', account.email)
      .executeTakeFirst();
    if (!known) await addPerson(house.db, { ...account, password: DEMO_PASSWORD });
  }
  await makeLists(house);
}

async function placeAt(house: House, name: string, root: string): Promise<Place> {
  await mkdir(root, { recursive: true });
  const place = (await placeByName(house.db, name)) ?? (await addPlace(house, name, root));
  await watch(house, place, false);
  return place;
}

/** While a place is filled by the demo nobody takes what is half drawn there for an arrival. */
const watch = (house: House, { id }: Place, watched: boolean) =>
  house.db.updateTable('place').set({ watched }).where('id', '=', id).execute();

/** Fill an archive with the demo library, once. Killed halfway, the next run takes it up where it was. */
export async function makeDemo(house: House, small: boolean, say: Say): Promise<void> {
  // Somebody who looks around meanwhile may make collections of their own.
  const done = await house.db
    .selectFrom('collection')
    .select('id')
    .where('name', '=', FIRST_COLLECTION)
    .executeTakeFirst();
  if (done) return;
  const { id: keeper } = await house.db
    .selectFrom('person')
    .select('id')
    .where('email', '=', DEMO_ACCOUNTS[0]!.email)
    .executeTakeFirstOrThrow();
  const folders = demoFolders(house.settings.home);
  const shelf = await placeAt(house, 'Studio shelf', folders.shelf);
  const travel = await placeAt(house, 'Travel drive', folders.travel);
  // The worker that is started beside takes what is queued.
  // What paints is loaded when there is something to paint.
  const { makeDemoFiles } = await import('./make');
  const jobs: string[] = [];
  // Each folder comes in while the next is drawn.
  await makeDemoFiles(house.settings.home, small, say, async (place, folder) => {
    const begun = await house.db
      .selectFrom('accession as a')
      .innerJoin('job as j', 'j.accessionId', 'a.id')
      .select('j.id')
      .where('a.root', '=', join(folders[place], folder))
      .executeTakeFirst();
    if (begun) return void jobs.push(begun.id);
    const title = TITLES[folder] ?? folder;
    const job = await bringIn(house, place === 'shelf' ? shelf : travel, folder, title, keeper);
    if (job) jobs.push(job);
  });
  say('Bringing the library into the archive …');
  await waitForJobs(house, { jobs }, 'Bringing the library in');
  say('Describing it …');
  await describe(house, keeper, library(small));
  const ids = await findIds(house.db, HOUSE, parseQuery(''));
  await waitForJobs(house, { items: ids }, 'Writing records into files');
  for (const place of [shelf, travel]) await watch(house, place, true);
  await collect(house, keeper);
  await rememberPlans(house, shelf.id);
  await openRooms(house, keeper);
  // A small library is for tests, which count what is in it.
  if (!small) {
    say('Working in it for a fortnight …');
    await liveIn(house);
  }
}

/** Titles of accessions that are not called as their folders. */
const TITLES: Record<string, string> = {
  '': 'Far beaches',
  Workshop: 'Workshop year',
  Brand: 'Brand shelf',
};

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
  const [first, second] = await collections(db, HOUSE);
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
    const items = await idsInOrder(db, HOUSE, collection.id);
    for (let guest = 0; guest < guests; guest += 1) {
      const visitId = await visit(db, id, undefined);
      for (const itemId of items.filter((_, at) => at % (guest + 2) === 0).slice(0, 5))
        await pick(db, visitId, itemId, true);
    }
    if (isOpen) continue;
    // Nobody opens a room that has expired: it was opened earlier, and the ledger says so as well.
    const expiresAt = new Date(Date.now() - DAY_MS);
    await db.updateTable('readingRoom').set({ expiresAt }).where('id', '=', id).execute();
    await sql`update operation_step
      set after = jsonb_set(after, '{entry,expiresAt}', to_jsonb(${expiresAt.toISOString()}::text))
      where action = 'entry' and after ->> 'id' = ${id}`.execute(db);
  }
}
