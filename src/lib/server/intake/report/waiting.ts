import { ArchiveError } from '#core/errors';
import { isSidecar } from '#core/kinds/kinds';
import type { House } from '../../house/house';
import { emptyingOf, startEmptying } from '../run/release';
import { notify } from '../../live/notify';
import { dropParcel, parcelFiles, parcelIds, readParcel, type Parcel } from '../../uploads/parcels';

/** A parcel with files nobody has brought in. */
export interface WaitingParcel extends Parcel {
  files: number;
  bytes: number;
}

const KEPT_DAYS = 7;

const accessionsFrom = (house: House, id: string) =>
  house.db
    .selectFrom('accession')
    .select(['id', 'state', 'finishedAt'])
    .where('root', '=', parcelFiles(house, id))
    .execute();

const isOver = ({ state }: { state: string }): boolean => state === 'done' || state === 'cancelled';

/** Paths of a parcel that were brought in from it. */
async function settledPaths(house: House, id: string): Promise<Set<string>> {
  const rows = await house.db
    .selectFrom('accessionEntry as e')
    .innerJoin('accession as a', 'a.id', 'e.accessionId')
    .select(['e.sourcePath', 'e.parts'])
    .where('a.root', '=', parcelFiles(house, id))
    .where('e.state', '=', 'done')
    .execute();
  return new Set(
    rows.flatMap(({ sourcePath, parts }) => [sourcePath, ...(parts ?? []).map(({ path }) => path)]),
  );
}

async function leftIn(house: House, id: string): Promise<WaitingParcel | null> {
  // One that somebody lets go of just now is none.
  const parcel = await readParcel(house, id).catch(() => null);
  if (!parcel) return null;
  const settled = await settledPaths(house, id);
  const left = parcel.files.filter(({ path }) => !settled.has(path) && !isSidecar(path));
  const bytes = left.reduce((sum, { size }) => sum + size, 0);
  return { ...parcel, files: left.length, bytes };
}

/** What arrived and was not brought in, newest first. Nothing of it is ever cleared by itself. */
export async function waitingParcels(house: House): Promise<WaitingParcel[]> {
  const all = await Promise.all((await parcelIds(house)).map((id) => leftIn(house, id)));
  return all.filter((parcel) => parcel !== null && parcel.files > 0).reverse() as WaitingParcel[];
}

/**
 * Throw a parcel away with all that is in it.
 * @throws ArchiveError conflict while an accession reads from it
 */
export async function letGoOfParcel(house: House, id: string): Promise<void> {
  if (!(await accessionsFrom(house, id)).every(isOver))
    throw new ArchiveError(
      'conflict',
      'An accession still reads from it; let it finish or cancel it first.',
    );
  await dropParcel(house, id);
  await house.db.deleteFrom('setting').where('key', '=', `fetch:${id}`).execute();
  await notify(house.db, { about: 'places' });
}

/**
 * Clear parcels whose files have long been brought in. Each file goes only after a fresh look at its copy, as
 * when a card is emptied; a parcel goes when all of its files did.
 */
export async function tidyParcels(house: House): Promise<void> {
  const before = house.now().getTime() - KEPT_DAYS * 86_400_000;
  for (const id of await parcelIds(house)) {
    const accessions = await accessionsFrom(house, id);
    const isOld = accessions.every(
      (one) => isOver(one) && one.finishedAt && one.finishedAt.getTime() < before,
    );
    if (accessions.length === 0 || !isOld) continue;
    const left = await Promise.all(accessions.map((one) => emptyingOf(house, one.id)));
    for (const [at, { files }] of left.entries())
      if (files > 0 && accessions[at]!.state === 'done')
        await startEmptying(house, accessions[at]!.id, null, true).catch((error: unknown) => {
          // It is being emptied already.
          if (!(error instanceof ArchiveError && error.code === 'conflict')) throw error;
        });
    if (left.some(({ files }) => files > 0)) continue;
    const parcel = await leftIn(house, id);
    if (parcel?.files === 0) await letGoOfParcel(house, id);
  }
}
