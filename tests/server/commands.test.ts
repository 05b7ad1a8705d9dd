import { spawn, spawnSync } from 'node:child_process';
import { createServer } from 'node:net';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { saveStamp } from '#server/lists/stamps';
import { until, useArchive } from '../support/archive';
import { exiv2, jpeg, writeJpeg } from '../support/pictures';

/** Commands as a person types them, each a process of its own that brings its own worker. */
const archive = useArchive({ worker: false });
const ROOT = resolve(import.meta.dirname, '../..');

interface Answer {
  code: number | null;
  out: string;
  err: string;
}

/** What every command of these tests is told of. */
const surroundings = (): NodeJS.ProcessEnv => ({
  ...process.env,
  MINDFUL_HOME: archive.house.settings.home,
  DATABASE_URL: archive.databaseUrl,
  MINDFUL_LOG: 'silent',
});

function mindful(args: string[], env: Record<string, string> = {}): Answer {
  // By the front door, as people call it.
  const done = spawnSync(join(ROOT, 'mindful'), args, {
    encoding: 'utf8',
    cwd: ROOT,
    env: { ...surroundings(), ...env },
  });
  return { code: done.status, out: done.stdout, err: done.stderr };
}

/** One line of JSON on standard output and nothing else. */
function json<T = Record<string, unknown>>(args: string[], code = 0): T {
  const answer = mindful([...args, '--json']);
  expect([answer.code, answer.err.includes('mindful:')]).toEqual([code, false]);
  expect(answer.out.trim().split('\n')).toHaveLength(1);
  return JSON.parse(answer.out) as T;
}

interface Found {
  total: number;
  items: { id: string; number: string; name: string; title: string; rating: number }[];
}

let card = '';
beforeAll(async () => {
  card = join(archive.folder, 'card');
  for (const seed of [1, 2, 3])
    await writeJpeg(join(card, `HRN_${seed}.JPG`), seed, {
      'EXIF:DateTimeOriginal': `2026:09:1${seed} 10:00:00`,
      'EXIF:Model': 'Heron 5',
    });
  writeFileSync(join(card, 'broken.jpg'), (await jpeg(9)).subarray(0, 60));
});

describe('the front door', () => {
  it('lists its commands and explains each', () => {
    const { code, out } = mindful(['--help']);
    expect(code).toBe(0);
    const names = [...out.matchAll(/^ {2}(\w+) /gm)].map(([, name]) => name!);
    expect(names).toEqual(expect.arrayContaining(['demo', 'start', 'test', 'intake', 'find']));
    for (const name of names) {
      const help = mindful([name, '--help']);
      expect([name, help.code]).toEqual([name, 0]);
      expect(help.out).toContain(`./mindful ${name}`);
    }
  });

  it.each([
    [['dance'], 'There is no command “dance”'],
    [['find', '--sideways'], '--sideways'],
    [['find', '--limit', 'many'], '--limit takes a whole number'],
    [['find', 'rated lots'], 'rating lots'],
    [['show', '12'], '“12” is no catalogue number'],
    [['show', '2031.001.0001'], '2031.001.0001'],
    [['set', 'kind photo'], 'field=value'],
    [['set', 'kind photo', 'colour=red'], 'There is no field “colour”'],
    [['set', 'kind photo', 'title+=x'], 'Only terms can be added'],
    [['set', 'kind photo', 'rating=9'], 'rating'],
    [['set', 'kind photo', 'taken=yesterday'], 'yesterday'],
    [['rename', 'kind photo'], 'Say what and how'],
    [['undo', 'everything'], '“everything” names no operation'],
    [['intake'], 'Say what to bring in and where'],
    [['intake', '/no/such/folder', '--place', 'X'], 'is no folder'],
    [['intake', '/tmp', '--place', 'X', '--copy', '--in-place'], 'not more than one'],
  ])('answers %j with one clear sentence and a non-zero exit', (args, sentence) => {
    const { code, out, err } = mindful(args);
    expect([code, out]).toEqual([1, '']);
    expect(err).toMatch(/^mindful: .+\n$/);
    expect(err).toContain(sentence);
    expect(err).not.toMatch(/\n\s+at /);
  });

  it('says what is wrong with a setting, the database or the port', async () => {
    expect(mindful(['find'], { PORT: 'eighty' })).toMatchObject({
      code: 1,
      err: expect.stringContaining('PORT is set to “eighty”') as string,
    });
    const away = mindful(['find'], { DATABASE_URL: 'postgres://x:y@127.0.0.1:9/z' });
    expect([away.code, away.err]).toEqual([
      1,
      'mindful: PostgreSQL cannot be reached at the address of DATABASE_URL.\n',
    ]);
    const taken = createServer();
    const port = await new Promise<number>((resolve_) =>
      taken.listen(0, '127.0.0.1', () => resolve_((taken.address() as { port: number }).port)),
    );
    const start = mindful(['start'], { PORT: String(port) });
    expect(start.code).toBe(1);
    expect(start.err).toContain(`Port ${port} on 127.0.0.1 is in use`);
    await new Promise((done) => taken.close(done));
  });
});

describe('from intake to undo', () => {
  let numbers: string[] = [];

  it('brings a folder in and says what became of every file', () => {
    const done = json(['intake', card, '--place', 'Shelf', '--terms', 'Wind Week, Card', '--wait']);
    expect(done).toMatchObject({ done: 4, skipped: 0, failed: 0, state: 'done', left: [] });
    expect(done['accession']).toMatch(/^20\d\d\.001$/);
    const again = json(['intake', card, '--place', 'Shelf', '--wait']);
    expect(again).toMatchObject({ done: 0, skipped: 4 });
    expect((again['left'] as { reason: string }[])[0]!.reason).toContain('already held as');
    const shelf = join(archive.house.folders.holdings, 'Shelf');
    expect(readdirSync(join(shelf, '2026'))).toEqual(['2026-09-11', '2026-09-12', '2026-09-13']);
  });

  it('keeps a folder in place as its own place', async () => {
    const own = join(archive.folder, 'own');
    await writeJpeg(join(own, 'a.jpg'), 40);
    const before = readFileSync(join(own, 'a.jpg'));
    expect(json(['intake', own, '--place', 'Own', '--in-place', '--wait'])).toMatchObject({
      done: 1,
      mode: 'in-place',
    });
    expect(readFileSync(join(own, 'a.jpg')).equals(before)).toBe(true);
  });

  it('finds by the query, in its order, as many as wished', () => {
    const all = json<Found>(['find', 'in Shelf; taken 2026-09; order name']);
    expect(all.items.map(({ name }) => name)).toEqual(['HRN_1.jpg', 'HRN_2.jpg', 'HRN_3.jpg']);
    numbers = all.items.map(({ number }) => number);
    expect(json<Found>(['find', 'in Shelf', '--limit', '2']).items).toHaveLength(2);
    expect(json<Found>(['find', 'words nothingofthekind'])).toEqual({ total: 0, items: [] });
    expect(mindful(['find', 'words HRN_1; taken 2026-09-11']).out).toBe(
      `${numbers[0]}  HRN_1.jpg\n1 items\n`,
    );
  });

  it('describes what it finds, and the files say so', () => {
    const done = json([
      'set',
      'in Shelf; taken 2026-09',
      'title=Red sail',
      'creator=Bea Lund; Tomas Ekwueme',
      'rating=4',
      'terms+=Dusk; Kite',
      '--wait',
    ]);
    expect(done).toMatchObject({ found: 3, changed: 3, failed: 0 });
    const file = join(archive.house.folders.holdings, 'Shelf/2026/2026-09-11/HRN_1.jpg');
    expect(exiv2(file)).toMatchObject({
      'Xmp.dc.title': expect.stringContaining('Red sail') as string,
      'Xmp.xmp.Rating': '4',
    });
    const shown = json(['show', numbers[0]!]);
    expect(shown).toMatchObject({
      number: numbers[0],
      record: {
        title: 'Red sail',
        creator: ['Bea Lund', 'Tomas Ekwueme'],
        rating: 4,
        terms: expect.arrayContaining(['Card', 'Dusk', 'Kite', 'Wind Week']) as string[],
      },
      writing: 'written',
    });
    expect(shown['files']).toHaveLength(1);
    expect(shown['renditions']).toHaveLength(3);
    expect((shown['jobs'] as { state: string }[]).every(({ state }) => state === 'done')).toBe(
      true,
    );
    expect(json(['set', 'in Shelf; taken 2026-09', 'terms-=Dusk', 'title='])).toMatchObject({
      changed: 3,
    });
    expect(json(['set', 'in Shelf; taken 2026-09', 'rating=4'])).toMatchObject({
      found: 3,
      changed: 0,
      operation: null,
    });
  });

  it('shows new names before it gives them, and refuses what collides', () => {
    const query = 'in Shelf; taken 2026-09; order name';
    const preview = json<{ lines: { after: string }[]; problems: number }>([
      'rename',
      query,
      'SLT-{counter 001}',
      '--preview',
    ]);
    expect(preview.lines.map(({ after }) => after)).toEqual([
      'SLT-001.jpg',
      'SLT-002.jpg',
      'SLT-003.jpg',
    ]);
    expect(mindful(['rename', query, 'a/b', '--preview']).code).not.toBe(0);
    expect(readdirSync(join(archive.house.folders.holdings, 'Shelf/2026/2026-09-11'))).toEqual([
      'HRN_1.jpg',
    ]);
  });

  it('renames, lists it in the ledger, and takes it back', () => {
    const query = 'in Shelf; taken 2026-09; order name';
    const folder = join(archive.house.folders.holdings, 'Shelf/2026/2026-09-12');
    const shown = mindful(['rename', query, 'SLT-{counter 001}']);
    expect(shown.out).toContain('Nothing was changed; --yes does it.');
    expect(readdirSync(folder)).toEqual(['HRN_2.jpg']);
    const done = json(['rename', query, 'SLT-{counter 001}', '--yes', '--wait']);
    expect(done).toMatchObject({ items: 3 });
    expect(readdirSync(folder)).toEqual(['SLT-002.jpg']);
    const lines = json<{ id: string; state: string }[]>(['undo']);
    expect(json<{ id: string }[]>(['ledger'])[0]!.id).toBe(lines[0]!.id);
    expect(mindful(['ledger', '--csv', '--who', 'none']).out).toContain('the command line');
    expect(mindful(['ledger', '--kind', 'nothing']).err).toContain('--kind');
    expect(lines[0]).toMatchObject({ id: done['operation'], state: 'done' });
    json(['undo', String(done['operation']), '--wait']);
    expect(readdirSync(folder)).toEqual(['HRN_2.jpg']);
    const twice = mindful(['undo', String(done['operation'])]);
    expect([twice.code, twice.err.startsWith('mindful: ')]).toEqual([1, true]);
  });
});

describe('folders by command', () => {
  const shelf = (...parts: string[]) => join(archive.house.folders.holdings, 'Shelf', ...parts);

  it('are shown as a tree, filled once it is told to, and given back', () => {
    const wish = ['file', 'in Shelf; taken 2026-09; order name', 'Filed/{taken yyyy}'];
    const shown = mindful(wish);
    expect([shown.code, shown.out.includes('Filed (new)')]).toEqual([0, true]);
    expect(shown.out).toContain('Nothing was changed; --yes does it.');
    expect(existsSync(shelf('Filed'))).toBe(false);
    const done = json([...wish, '--yes', '--wait']);
    expect(readdirSync(shelf('Filed/2026'))).toHaveLength(3);
    json(['undo', String(done['operation']), '--wait']);
    expect(existsSync(shelf('Filed'))).toBe(false);
    expect(mindful(['file', 'kind photo', 'x', '--into', 'Nowhere']).err).toContain('no place');
    expect(mindful(['file', 'kind photo', 'x', '--missing', 'guess']).err).toContain('missing');
  });

  it('are made, renamed, moved and removed', () => {
    json(['folder', 'make', 'Shelf/New']);
    json(['folder', 'rename', 'Shelf/New', 'Newer']);
    json(['folder', 'move', 'Shelf/Newer', 'Shelf/2026']);
    expect(existsSync(shelf('2026/Newer'))).toBe(true);
    expect(mindful(['folder', 'rename', 'Shelf/2026', 'Other']).out).toContain('--yes does it');
    expect(existsSync(shelf('2026'))).toBe(true);
    json(['folder', 'remove', 'Shelf/2026/Newer']);
    expect(existsSync(shelf('2026/Newer'))).toBe(false);
    expect(mindful(['folder', 'burn', 'Shelf/2026']).code).not.toBe(0);
  });
});

describe('lists by command', () => {
  it('takes terms in once it is told to, and writes the thesaurus out', () => {
    const file = join(archive.folder, 'terms.txt');
    writeFileSync(file, 'Knot\n  Bowline\n    = Ring knot\n');
    expect(json(['terms', '--in', file])).toMatchObject({ given: 2, made: 2, operation: null });
    expect(mindful(['terms', '--in', file]).out).toContain('add --yes to do it');
    expect(json(['terms', '--in', file, '--yes'])).toMatchObject({ made: 2, changed: 0 });
    const out = join(archive.folder, 'out.ttl');
    expect(mindful(['terms', '--out', out]).code).toBe(0);
    expect(readFileSync(out, 'utf8')).toContain('"Ring knot"');
    expect(mindful(['terms', '--in', file, '--out', out]).err).toContain('Say one of');
    expect(mindful(['terms', '--in', `${file}.doc`]).err).toContain('says no form');
  });

  it('puts a stamp onto what it finds, once it is told to', async () => {
    await saveStamp(archive.house.db, null, null, {
      ...{ name: 'Fair', project: 'Spring' },
      lines: [{ field: 'event', way: 'overwrite', value: 'Spring fair {taken yyyy}' }],
    });
    const [query, name] = ['kind photo; rated ..5', 'Spring/fair'];
    const seen = json<{ changed: number; items: number }>(['stamp', query, name]);
    expect(seen.changed).toBeGreaterThan(0);
    expect(mindful(['stamp', query, name]).out).toContain('Event: — → Spring fair 2026');
    expect(json(['stamp', query, name, '--yes'])).toMatchObject({ changed: seen.changed });
    expect(json<{ changed: number }>(['stamp', query, name]).changed).toBe(0);
    expect(mindful(['stamp', query, 'Nothing']).err).toContain('There is no stamp “Nothing”');
  });
});

describe('verifying', () => {
  interface Verified {
    files: number;
    good: number;
    described: number;
    damaged: { path: string }[];
    missing: { path: string }[];
    broken: { why: string }[];
  }

  it('finds all well at first: as brought in, or described since', () => {
    const found = json<Verified>(['verify']);
    expect(found).toMatchObject({ damaged: [], missing: [], broken: [] });
    expect(found.good + found.described).toBe(found.files);
    expect(found.described).toBeGreaterThan(0);
    expect(json<Verified>(['verify', '2026.001']).files).toBeLessThan(found.files);
    expect(mindful(['verify', 'everything']).err).toContain('is no accession number');
    expect(mindful(['verify', '1999.001']).code).toBe(1);
  });

  it('finds one wrong bit, a file that is gone, and a manifest that was changed', () => {
    const shelf = join(archive.house.folders.holdings, 'Shelf');
    const flipped = join(shelf, '2026/2026-09-13/HRN_3.jpg');
    const bytes = readFileSync(flipped);
    bytes[bytes.length - 20]! ^= 1;
    writeFileSync(flipped, bytes);
    rmSync(join(shelf, 'undated/undated/broken.jpg'));
    const [manifest] = readdirSync(join(shelf, 'ascmhl')).filter((name) => name.endsWith('.mhl'));
    const path = join(shelf, 'ascmhl', manifest!);
    writeFileSync(path, readFileSync(path, 'utf8').replace('Mindful Archive', 'Somebody else'));
    const found = json<Verified>(['verify'], 2);
    expect(found.damaged.map(({ path: listed }) => listed)).toEqual(['2026/2026-09-13/HRN_3.jpg']);
    expect(found.missing).toHaveLength(1);
    expect(found.broken[0]!.why).toContain('changed since it was written');
  });
});

describe('moving by command', () => {
  it('asks for a word about single copies, then empties what it moved', async () => {
    const source = join(archive.folder, 'to move');
    await writeJpeg(join(source, 'a.jpg'), 71);
    const asked = mindful(['intake', source, '--place', 'Moved', '--move', '--wait']);
    expect([asked.code, asked.err.includes('one copy only')]).toEqual([1, true]);
    json(['intake', source, '--place', 'Moved', '--move', '--second', 'Moved too', '--wait']);
    expect(readdirSync(source)).toEqual([]);
    const holdings = archive.house.folders.holdings;
    for (const place of ['Moved', 'Moved too'])
      expect(existsSync(join(holdings, place, 'undated/undated/a.jpg'))).toBe(true);
  });
});

describe('what was in the way', () => {
  it('is said for each file, with an exit of its own, and the rest goes on', async () => {
    const odd = join(archive.folder, 'odd');
    mkdirSync(odd);
    await writeJpeg(join(odd, 'good.jpg'), 60);
    await writeJpeg(join(odd, `${'x'.repeat(120)}.jpg`), 61);
    const answer = json<{ done: number; failed: number; left: { reason: string }[] }>(
      ['intake', odd, '--place', 'Odd', '--naming', '{name}{name}{name}', '--wait'],
      2,
    );
    expect(answer).toMatchObject({ done: 1, failed: 1 });
    expect(answer.left[0]!.reason).toMatch(/takes \d+ bytes; 240 is the most/);
    expect(existsSync(join(odd, 'good.jpg'))).toBe(true);
  });
});

describe('a process that is told to end', () => {
  it('ends what it began, however often it is told', async () => {
    const { db } = archive.house;
    const child = spawn(join(ROOT, 'mindful'), ['worker'], {
      cwd: ROOT,
      env: surroundings(),
      stdio: 'ignore',
      detached: true,
    });
    const ended = new Promise<number | null>((done) => child.once('exit', done));
    const workers = () => db.selectFrom('worker').select('id').execute();
    await until(async () => (await workers()).length > 0, 'a worker');
    // A terminal tells all of the group; the front door tells its own again.
    // Pressed twice, close together; later ones may meet a process that has ended all and is just leaving.
    process.kill(-child.pid!, 'SIGINT');
    await new Promise((done) => setTimeout(done, 3));
    process.kill(-child.pid!, 'SIGINT');
    expect(await ended).toBe(0);
    expect(await workers()).toEqual([]);
  });
});
