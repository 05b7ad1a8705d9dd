import { ArchiveError, sentenceOf } from '#core/errors';
import type { CheckedSheet, SheetProblem } from '#core/sheets/check';
import type { Plan } from '#core/intake/plan';
import { removeFile } from '../files/disk';
import { joinPath } from '../files/paths';
import { runApart } from '../apart/apart';
import type { House } from '../house/house';
import { startAccession } from '../intake/plan/accession';
import { fetchState, startFetching } from '../intake/sources/web';
import type { Place } from '../places/places';
import { parcelFiles, readParcel } from '../uploads/parcels';
import { SHEET, UNZIP } from './apart';

const isSheet = (path: string): boolean => /\.(xlsx|csv)$/i.test(path) && !path.includes('/');
const isZip = (path: string): boolean => /\.zip$/i.test(path);

/** A sheet that takes longer is none; a ZIP of a day's footage takes minutes. */
const READ_SECONDS = 90;
const UNPACK_SECONDS = 1800;

export interface DryRun extends CheckedSheet {
  /** Name of the sheet. */
  sheet: string;
  /** Labels in its head that nobody knows. */
  unknown: string[];
  /** Addresses of good rows that are not fetched yet. */
  toFetch: number;
}

/** Unpack what came packed; each ZIP is gone afterwards, what it refused is told. */
async function unpackAll(house: House, parcel: string): Promise<SheetProblem[]> {
  const root = parcelFiles(house, parcel);
  const problems: SheetProblem[] = [];
  for (const { path } of (await readParcel(house, parcel)).files.filter((file) =>
    isZip(file.path),
  )) {
    try {
      const uploads = house.folders.uploads;
      const wish = { uploads, parcel, path: joinPath(root, path) };
      const { refused } = await runApart(UNZIP, wish, UNPACK_SECONDS);
      for (const one of refused)
        problems.push({
          line: 0,
          column: '',
          problem: `${path}: “${one.path}” is left out: ${one.reason}`,
        });
    } catch (error) {
      if (!(error instanceof ArchiveError)) throw error;
      problems.push({ line: 0, column: '', problem: `${path}: ${sentenceOf(error)}` });
    }
    await removeFile(joinPath(root, path));
  }
  return problems;
}

/** Check a parcel's sheet against its files; nothing is brought in. @throws ArchiveError not-found, file-unreadable */
export async function dryRun(house: House, parcel: string): Promise<DryRun> {
  const packed = await unpackAll(house, parcel);
  const { files } = await readParcel(house, parcel);
  const sheets = files.filter(({ path }) => isSheet(path));
  const [sheet] = sheets;
  if (!sheet)
    throw new ArchiveError(
      'not-found',
      'There is no .xlsx or .csv among the files that were sent.',
    );
  if (sheets.length > 1)
    throw new ArchiveError(
      'value-refused',
      `Send one sheet at a time; there are ${sheets.length}.`,
    );
  const stages = await house.db.selectFrom('stage').select('name').orderBy('position').execute();
  const fetched = (await fetchState(house, parcel))?.fetched ?? {};
  const others = files.map(({ path }) => path).filter((path) => path !== sheet.path);
  const brought = new Set(Object.values(fetched));
  const wish = {
    path: joinPath(parcelFiles(house, parcel), sheet.path),
    files: others.filter((path) => !brought.has(path)),
    stages: stages.map(({ name }) => name),
  };
  const { unknown, ...checked } = await runApart(SHEET, wish, READ_SECONDS);
  const good = checked.good.map((row) =>
    row.address && fetched[row.address] ? { ...row, file: fetched[row.address]! } : row,
  );
  const failed = new Map(
    ((await fetchState(house, parcel))?.failed ?? []).map(({ address, reason }) => [
      address,
      reason,
    ]),
  );
  const lost = good.filter(({ file, address }) => !file && address && failed.has(address));
  return {
    ...checked,
    good: good.filter((row) => !lost.includes(row)),
    problems: [
      ...packed,
      ...checked.problems,
      ...lost.map(({ line, address }) => ({
        line,
        column: 'Address',
        problem: failed.get(address!)!,
      })),
    ],
    sheet: sheet.path,
    unknown,
    toFetch: good.filter(({ file, address }) => !file && address && !failed.has(address)).length,
  };
}

/** What a dry run tells at once; the counts are of all. */
export interface DryRunTold {
  sheet: string;
  unknown: string[];
  toFetch: number;
  good: number;
  faults: number;
  unused: number;
  /** The first faults. */
  problems: SheetProblem[];
}

const MOST_TOLD = 200;

export const told = (run: DryRun): DryRunTold => ({
  sheet: run.sheet,
  unknown: run.unknown.slice(0, MOST_TOLD),
  toFetch: run.toFetch,
  good: run.good.length,
  faults: run.problems.length,
  unused: run.unused.length,
  problems: run.problems.slice(0, MOST_TOLD),
});

/** Fetch the addresses of the good rows into the parcel. */
export async function fetchForSheet(
  house: House,
  actorId: string | null,
  parcel: string,
): Promise<void> {
  const { good } = await dryRun(house, parcel);
  const addresses = good.flatMap(({ file, address }) => (!file && address ? [address] : []));
  if (addresses.length > 0) await startFetching(house, actorId, '', addresses, parcel);
}

/** Bring the good rows in, each with what its row says. @throws ArchiveError conflict, value-refused */
export async function startSheet(
  house: House,
  actorId: string | null,
  wish: { parcel: string; title: string; place: Place; plan: Plan },
): Promise<{ id: string; number: string; jobId: string }> {
  const run = await dryRun(house, wish.parcel);
  if (run.toFetch > 0) throw new ArchiveError('conflict', 'Some addresses are not fetched yet.');
  const root = parcelFiles(house, wish.parcel);
  const sizes = new Map(
    (await readParcel(house, wish.parcel)).files.map(({ path, size }) => [path, size]),
  );
  return startAccession(house, {
    title: wish.title,
    source: { kind: 'sheet', name: wish.parcel },
    root,
    mode: 'copy',
    place: wish.place,
    plan: wish.plan,
    files: run.good.flatMap(({ file, change }) =>
      file ? [{ path: file, size: sizes.get(file) ?? 0, given: change }] : [],
    ),
    actorId,
  });
}
