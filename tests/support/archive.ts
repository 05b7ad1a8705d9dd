import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pg from 'pg';
import { afterAll, beforeAll } from 'vitest';
import type { Mode, PlanWish } from '#core/intake/plan';
import { WASTEBASKET } from '#core/holdings/wastebasket';
import { MHL_FOLDER } from '#core/manifest/folder';
import { migrate } from '#server/db/migrate';
import { closeHouse, openHouse, type House } from '#server/house/house';
import { newId } from '#server/house/ids';
import { readSettings } from '#server/house/settings';
import { startAccession } from '#server/intake/plan/accession';
import { filesToBring, type WishedFile } from '#server/intake/sources/files';
import { migrateQueue } from '#server/work/queue';
import { startWorker, type Worker } from '#server/work/worker';
import { addPlace, placeByName, type Place } from '#server/places/places';
import { addFirstStages } from '#server/stages/stages';

/** An empty archive with a database and a folder of its own, and a worker where wished. */
export interface TestArchive {
  house: House;
  /** Folder that lives as long as the tests. */
  folder: string;
  /** The data folder. */
  home: string;
  worker: Worker;
  databaseUrl: string;
}

/** The command line, which may do everything. */
export const NOBODY = { id: null, role: 'keeper' } as const;
/** Somebody who may do everything. */
export const KEEPER = { id: '00000000-0000-7000-8000-0000000000aa', role: 'keeper' } as const;

async function makeDatabase(): Promise<string> {
  const server = process.env['MINDFUL_TEST_DATABASE']!;
  const name = `test_${newId().replaceAll('-', '')}`;
  const client = new pg.Client({ connectionString: server.replace(/\/mindful$/, '/postgres') });
  await client.connect();
  await client.query(`create database ${name} template mindful strategy file_copy`);
  await client.end();
  return server.replace(/\/mindful$/, `/${name}`);
}

/** Give a file of tests its archive. */
export function useArchive(options: { worker?: boolean } = {}): TestArchive {
  const archive = {} as TestArchive;
  beforeAll(async () => {
    archive.folder = mkdtempSync(join(tmpdir(), 'mindful-archive-'));
    archive.databaseUrl = await makeDatabase();
    const home = mkdtempSync(join(tmpdir(), 'mindful-home-'));
    archive.home = home;
    archive.house = openHouse(
      readSettings({
        MINDFUL_HOME: home,
        DATABASE_URL: archive.databaseUrl,
        MINDFUL_LOG: 'silent',
        MINDFUL_ROOTS: archive.folder,
      }),
    );
    await migrate(archive.house.db);
    await migrateQueue(archive.house);
    await addFirstStages(archive.house.db);
    if (options.worker !== false) archive.worker = await startWorker(archive.house);
  });
  afterAll(async () => {
    await archive.worker?.stop();
    await closeHouse(archive.house);
    for (const folder of [archive.folder, archive.home])
      rmSync(folder, { recursive: true, force: true });
  });
  return archive;
}

const LOOK_EVERY_MS = 40;

/** Wait until something holds. */
export async function until(
  holds: () => Promise<boolean>,
  what: string,
  seconds = 120,
): Promise<void> {
  for (const end = Date.now() + seconds * 1000; !(await holds());) {
    if (Date.now() > end) throw new Error(`waited ${seconds} s for ${what}`);
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
}

/** Wait until no job waits or runs. */
export async function idle({ house }: TestArchive): Promise<void> {
  await until(async () => {
    const open = await house.db
      .selectFrom('job')
      .select('id')
      .where('state', 'in', ['waiting', 'running'])
      .executeTakeFirst();
    return open === undefined;
  }, 'the queue to be empty');
}

export async function placeNamed({ house, folder }: TestArchive, name: string): Promise<Place> {
  const known = await placeByName(house.db, name);
  if (known) return known;
  const root = join(folder, name);
  mkdirSync(root, { recursive: true });
  return addPlace(house, name, root);
}

/** Bring a folder in and wait for all that follows. @returns the accession's id */
export async function bringIn(
  archive: TestArchive,
  root: string,
  wish: {
    mode: Mode;
    place: Place;
    filing?: string;
    naming?: string;
    terms?: string[];
    plan?: Partial<PlanWish>;
    singleCopy?: boolean;
    files?: WishedFile[];
    scanId?: string;
  },
): Promise<string> {
  const { id } = await startAccession(archive.house, {
    title: 'Test',
    source: { kind: 'folder', name: root },
    root,
    mode: wish.mode,
    scanId: wish.scanId,
    place: wish.place,
    plan: {
      filing: wish.filing ?? '',
      naming: wish.naming ?? '{name}',
      terms: wish.terms ?? [],
      ...wish.plan,
    },
    files: wish.files ?? (await filesToBring(root)),
    actorId: null,
    singleCopy: wish.singleCopy ?? false,
  });
  await idle(archive);
  return id;
}

/** Names in a folder, sorted, without the manifests' folder. */
export const filesIn = (folder: string): string[] =>
  readdirSync(folder)
    .filter((name) => name !== MHL_FOLDER)
    .sort();

/** Every file of a folder and below, by its path, with a hash of its bytes; without manifests and wastebasket. */
export const treeOf = (folder: string): Record<string, string> =>
  Object.fromEntries(
    readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((path) => !path.startsWith(MHL_FOLDER) && !path.startsWith(WASTEBASKET))
      .filter((path) => statSync(join(folder, path)).isFile())
      .sort()
      .map((path) => [
        path,
        createHash('sha256')
          .update(readFileSync(join(folder, path)))
          .digest('hex'),
      ]),
  );
