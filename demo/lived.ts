import { copyFile, mkdir, readdir, rename } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { sql } from 'kysely';
import { IPTC_OLDER } from '#core/fields/namespaces';
import { HOUSE } from '#core/sight/viewer';
import type { Mark } from '#core/footage/marks';
import { parseQuery } from '#core/query/grammar';
import type { RecordChange } from '#core/records/fields';
import { findIds } from '#server/catalogue/find';
import { addCollection, addItems, removeItems } from '#server/collections/collections';
import { filesOf } from '#server/files/located';
import { newId } from '#server/house/ids';
import type { House } from '#server/house/house';
import { undo } from '#server/deeds/undo';
import { writeTagsTo } from '#server/metadata/exiftool';
import { saveSpot } from '#server/lists/spots';
import { startAccession } from '#server/intake/plan/accession';
import { filesToBring } from '#server/intake/sources/files';
import { startRename } from '#server/naming/rename';
import { addPlace } from '#server/places/places';
import { changeRecords } from '#server/records/records';
import { resolve } from '#server/query/names';
import { setHouseRules } from '#server/lists/rules';
import { addSequence } from '#server/sequences/sequences';
import { keepSpans } from '#server/spans/spans';
import { waitForJobs } from '../cli/waiting';
import { demoFolders } from './folders';
import { SPOTS } from './sessions';
import { asSeen } from '#server/sight/seen';

/** What a fortnight of work leaves behind in a house: steps of many people, some taken back, and what waits. */
type Who = 'odile' | 'bea' | 'jonas' | 'priya';
const HOUR_MS = 3_600_000;
const DAY_MS = 24 * HOUR_MS;

interface Step {
  /** Days and hours ago. */
  days: number;
  hours: number;
  who: Who;
  query: string;
  /** Of what the query finds, the first so many. */
  most: number;
  change: RecordChange;
  undone?: boolean;
}

const step = (
  days: number,
  hours: number,
  who: Who,
  query: string,
  most: number,
  change: RecordChange,
  undone = false,
): Step => ({ days, hours, who, query, most, change, undone });

const STEPS: Step[] = [
  step(13, 2, 'bea', 'in "Studio shelf/Wind Week/Opening"; rated 3..', 12, { addTerms: ['Crowd'] }),
  step(12, 5, 'odile', 'in "Studio shelf/Workshop"; term Bench', 9, { event: 'Winter build' }),
  step(11, 1, 'bea', 'in "Studio shelf/Wind Week/Night kites"', 8, { city: 'Saltreach' }),
  step(11, 0, 'bea', 'in "Studio shelf/Wind Week/Night kites"', 20, { city: 'Saltreech' }, true),
  step(10, 4, 'odile', 'in "Studio shelf/Wind Week/Harbour flights"; lacking credit', 4, {
    creditLine: 'Bea Lund / Saltreach Kites',
  }),
  step(9, 6, 'bea', 'in "Studio shelf/Wind Week/Beach team"', 11, {
    title: 'Beach team, morning watch',
    addTerms: ['Handler', 'Tidal flat'],
    creator: ['Tomas Ekwueme'],
  }),
  step(8, 3, 'odile', 'rated 5', 6, { stage: 'For print' }),
  step(7, 7, 'odile', 'rated 4', 14, { stage: 'Published' }, true),
  step(6, 2, 'bea', 'kind footage', 3, { headline: 'Launches from the groyne' }),
  step(5, 5, 'odile', 'kind vector', 5, { instructions: 'Trim to the seam line.' }),
  step(4, 1, 'bea', 'in "Studio shelf/Wind Week/Opening"; lacking rating', 6, { rating: 2 }),
  step(3, 3, 'odile', 'in "Travel drive"', 4, { country: 'Portugal' }),
  step(3, 2, 'odile', 'in "Travel drive"', 8, { country: 'Spain' }, true),
  step(2, 6, 'bea', 'in "Studio shelf/Wind Week/Harbour flights"; rated 4..', 7, {
    addTerms: ['Sail'],
  }),
  step(2, 4, 'priya', 'in "Travel drive"', 6, {
    usageTerms: 'In the festival book and on its posters, until the end of 2027.',
  }),
  step(1, 5, 'priya', 'in "Studio shelf/Workshop"; lacking credit', 5, {
    creditLine: 'Ines Harrow / Saltreach Kites',
  }),
  step(1, 2, 'odile', 'in "Studio shelf/Brand"; kind photo', 5, { jobId: 'WW-2026-BOOK' }),
  step(0, 3, 'bea', 'in "Studio shelf/Wind Week/Night kites"; rated 3..', 5, {
    altText: 'A lit kite over dark water.',
  }),
];

const RULES = [
  { field: 'creditLine', required: true, allowed: [], like: '' },
  {
    field: 'copyrightNotice',
    required: true,
    allowed: ['© Saltreach Kites', '© 2026 Saltreach Kites'],
    like: '',
  },
  { field: 'title', required: true, allowed: [], like: '' },
] as const;

const SENTENCES: [name: string, note: string, query: string][] = [
  ['Ready for the book', 'Cleared by the desk, with a credit.', 'stage "For print"; has credit'],
  [
    'Beach team, to describe',
    'What the phone brought.',
    'in "Studio shelf/Wind Week/Beach team"; lacking caption',
  ],
];
const RECENT = [
  'in "Studio shelf/Wind Week/Harbour flights"; lacking credit',
  'term "Box kite"; rated 4..',
  'kind footage; order taken',
];

/** An operation was done so long ago. */
const setBack = (house: House, id: string, ago: number): Promise<unknown> =>
  sql`update operation set created_at = now() - ${ago} * interval '1 millisecond',
      finished_at = case when finished_at is null then null else now() - ${ago - 2000} * interval '1 millisecond' end
    where id = ${id}::uuid`.execute(house.db);

/** All that was done within the last hour was done so long ago. */
const setBackNew = ({ db }: House, ago: number): Promise<unknown> =>
  sql`update operation set created_at = created_at - ${ago} * interval '1 millisecond',
      finished_at = finished_at - ${ago} * interval '1 millisecond'
    where kind <> 'rewrite' and created_at > now() - interval '1 hour'`.execute(db);

/** @param people ids by first name */
async function worked(house: House, people: Record<Who, string>): Promise<void> {
  const { db } = house;
  // What was described when it came in is older than all else.
  await setBackNew(house, 14 * DAY_MS);
  for (const { days, hours, who, query, most, change, undone } of STEPS) {
    const ids = (await findIds(db, HOUSE, parseQuery(query))).slice(0, most);
    const done = ids.length > 0 ? await changeRecords(db, people[who], asSeen(ids), change) : null;
    if (!done) continue;
    const ago = days * DAY_MS + hours * HOUR_MS;
    await setBack(house, done.operationId, ago);
    if (undone)
      await setBack(house, await undo(db, people[who], done.operationId), ago - HOUR_MS / 3);
  }
  const poster = await addCollection(db, people.jonas, 'Poster, second round', 'Night over water.');
  const lit = await findIds(
    db,
    HOUSE,
    parseQuery('in "Studio shelf/Wind Week/Night kites"; rated 4..'),
  );
  await addItems(db, { id: people.jonas, role: 'teammate' }, poster, asSeen(lit.slice(0, 6)));
  await removeItems(db, { id: people.jonas, role: 'teammate' }, poster, asSeen(lit.slice(0, 1)));
  await setBackNew(house, 5 * DAY_MS);
  const [latitude, longitude] = SPOTS['harbour']!;
  const spot = await saveSpot(db, people.odile, null, {
    ...{ name: 'The slipway', latitude: latitude + 0.002, longitude, radius: 90 },
    ...{ sublocation: '', city: '', state: '', country: '', note: 'Where the boats go in.' },
  });
  await setBack(house, spot.done!.operationId, 9 * DAY_MS);
  const pages = (await findIds(db, HOUSE, parseQuery('kind vector'))).slice(0, 4);
  if (pages.length === 0) return;
  const named = await startRename(db, people.odile, {
    ...{ viewer: HOUSE, itemIds: asSeen(pages), pattern: 'Sail pattern {counter 01}' },
    ...{ clash: 'refuse', extension: 'lower' },
  });
  const { id: jobId } = await db
    .selectFrom('job')
    .select('id')
    .where('operationId', '=', named)
    .executeTakeFirstOrThrow();
  await waitForJobs(house, { jobs: [jobId] }, 'Giving names');
  await setBack(house, named, 4 * DAY_MS);
  const back = await undo(db, people.odile, named);
  await setBack(house, back, 4 * DAY_MS - HOUR_MS);
}

/** Fields another program changed in files while somebody changed them here: both wait to be settled. */
async function disputed(house: House, person: string): Promise<void> {
  const { db } = house;
  const ids = (
    await findIds(
      db,
      HOUSE,
      parseQuery('in "Studio shelf/Wind Week/Opening"; format jpeg; rated 1..'),
    )
  ).slice(0, 3);
  for (const [at, id] of ids.entries()) {
    const [file] = await filesOf(db, [id]);
    if (!file) continue;
    const path = `${file.path}.saved.jpg`;
    await writeTagsTo(file.path, path, {
      'XMP-dc:Title': `Opening, frame ${at + 1} (press)`,
      [`${IPTC_OLDER}:Credit`]: 'Festival press office',
    });
    await rename(path, file.path);
    await changeRecords(db, person, asSeen([id]), {
      title: `Opening day, picture ${at + 1}`,
      creditLine: 'Bea Lund, Saltreach Kites',
    });
  }
}

/** A drive that was brought in, and is somewhere else by now. */
async function driveAway(house: House, keeper: string): Promise<void> {
  const { shelf } = demoFolders(house.settings.home);
  const root = join(dirname(shelf), 'Loan drive');
  await mkdir(root, { recursive: true });
  const source = join(shelf, 'Workshop');
  const paths = (await readdir(source, { recursive: true })).filter((one) => /\.JPG$/.test(one));
  for (const path of paths.sort().slice(0, 5))
    await copyFile(join(source, path), join(root, basename(path)));
  const place = await addPlace(house, 'Loan drive', root);
  const { jobId } = await startAccession(house, {
    title: 'Loan drive',
    source: { kind: 'folder', name: root },
    root,
    mode: 'in-place',
    place,
    plan: { filing: '', naming: '{name}', terms: [] },
    files: await filesToBring(root),
    actorId: keeper,
  });
  await waitForJobs(house, { jobs: [jobId] }, 'Bringing the drive in');
  await rename(root, join(dirname(shelf), '.Loan drive, taken along'));
}

/** Pinned folders and what was asked lately, for everyone. */
async function remembered(house: House): Promise<void> {
  const { db } = house;
  const folders = await db
    .selectFrom('folder as d')
    .innerJoin('place as p', 'p.id', 'd.placeId')
    .select('d.id')
    .where('p.name', '=', 'Studio shelf')
    .where('d.path', 'in', ['Wind Week/Harbour flights', 'Wind Week/Night kites', 'Brand'])
    .orderBy('d.path')
    .execute();
  const people = await db.selectFrom('person').select('id').execute();
  await db
    .insertInto('remembered')
    .values(
      people.flatMap(({ id: personId }) => [
        { personId, key: 'pins', value: JSON.stringify({ ids: folders.map(({ id }) => id) }) },
        { personId, key: 'recent', value: JSON.stringify({ queries: RECENT }) },
      ]),
    )
    .onConflict((conflict) => conflict.doNothing())
    .execute();
}

const LOGGED: [
  clip: string,
  first: number,
  last: number,
  title: string,
  rating: number,
  mark: Mark | '',
  note: string,
][] = [
  ['Launch from the breakwater', 8, 34, 'Launch, wide', 4, 'pick', ''],
  [
    'Launch from the breakwater',
    47,
    47,
    'Line snags on the rail',
    0,
    'problem',
    'ask for another take',
  ],
  ['Launch from the breakwater', 58, 83, 'Over the groyne', 3, '', ''],
  [
    'Launch from the breakwater',
    76,
    110,
    'Both kites in the sun',
    5,
    'pick',
    'for the film of the week',
  ],
  ['Launch from the breakwater', 118, 118, 'Good natural sound', 0, 'sound', ''],
  ['Climb past the lamp', 20, 60, 'Past the lamp', 4, '', ''],
];
/** Somebody logged the footage: what is good, where, and what is not. */
async function logged(house: House, by: string): Promise<void> {
  const viewer = { role: 'contributor', id: by } as const;
  for (const [clip, first, last, title, rating, mark, note] of LOGGED) {
    const row = await house.db
      .selectFrom('item')
      .select('id')
      .where('kind', '=', 'footage')
      .where('originalName', 'like', `${clip}.%`)
      .executeTakeFirst();
    if (!row) continue;
    const span = { first, last, isMarker: first === last, mark, title, note };
    const { ids } = await keepSpans(house.db, { id: by, viewer }, row.id, [span]);
    if (rating > 0) await changeRecords(house.db, by, asSeen(ids), { rating });
  }
}

/** A rough minute of the week, from what was logged. */
async function ordered(house: House, by: string): Promise<void> {
  const viewer = { role: 'contributor', id: by } as const;
  const spans = await findIds(house.db, viewer, parseQuery('kind span; rated 3..; order number'));
  const stills = await findIds(house.db, viewer, parseQuery('kind photo; rated 5; order name'));
  const items = [...spans.slice(0, 2), ...stills.slice(0, 1), ...spans.slice(2, 4)];
  await addSequence(house.db, { id: by, viewer }, { name: 'Wind Week, one minute', items });
}

/** Let the demo look as if people had worked in it for a fortnight. */
export async function liveIn(house: House): Promise<void> {
  const { db } = house;
  const rows = await db.selectFrom('person').select(['id', 'name']).execute();
  const idOf = (first: string): string =>
    rows.find(({ name }) => name.toLowerCase().startsWith(first))?.id ?? newId();
  const people = {
    odile: idOf('odile'),
    bea: idOf('bea'),
    jonas: idOf('jonas'),
    priya: idOf('priya'),
  };
  await worked(house, people);
  await setHouseRules(
    db,
    people.odile,
    RULES.map((rule) => ({ ...rule, allowed: [...rule.allowed] })),
  );
  for (const [name, note, query] of SENTENCES)
    await addCollection(db, people.odile, name, note, (await resolve(db, parseQuery(query))).query);
  await setBackNew(house, 2 * DAY_MS);
  await remembered(house);
  await logged(house, people.bea);
  await ordered(house, people.bea);
  await driveAway(house, people.odile);
  const all = await findIds(db, HOUSE, parseQuery(''));
  await waitForJobs(house, { items: all }, 'Writing records into files');
  await disputed(house, people.bea);
  await waitForJobs(house, { items: all }, 'Reading what others saved');
}
