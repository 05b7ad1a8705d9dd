import type { Kysely, Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { can } from '#core/people/roles';
import { isInside } from '#core/holdings/grounds';
import type { Actor } from '../auth/people';
import type { Database } from '../db/schema';
import { isFolder } from '../files/disk';
import { splitPath } from '../files/paths';
import { checkGround, isOpenGround } from '../files/grounds';
import type { House } from '../house/house';
import { newId } from '../house/ids';

type Db = Kysely<Database> | Transaction<Database>;

export interface Place {
  id: string;
  name: string;
  root: string;
  handsOff: boolean;
  /** Records go beside its files, never into them. */
  beside: boolean;
  /** Other programs look in it. */
  shared: boolean;
}

const COLUMNS = ['id', 'name', 'root', 'handsOff', 'beside', 'shared'] as const;

/** @throws ArchiveError not-found */
export async function placeById(db: Db, id: string): Promise<Place> {
  const place = await db
    .selectFrom('place')
    .select(COLUMNS)
    .where('id', '=', id)
    .executeTakeFirst();
  if (!place) throw new ArchiveError('not-found', 'This place is not among the holdings.');
  return place;
}

export async function allPlaces(db: Db): Promise<Place[]> {
  return db.selectFrom('place').select(COLUMNS).orderBy('name').execute();
}

/** The place of a name, any case; null where there is none. */
export async function placeByName(db: Db, name: string): Promise<Place | null> {
  const places = await allPlaces(db);
  return places.find((place) => place.name.toLowerCase() === name.toLowerCase()) ?? null;
}

/**
 * Look after one more top folder. Places never lie within each other.
 * @throws ArchiveError conflict, not-found, value-refused, outside-place
 */
export async function addPlace(house: House, name: string, wished: string): Promise<Place> {
  const { db } = house;
  const label = name.trim();
  if (!label || label.includes('/'))
    throw new ArchiveError('value-refused', 'A place needs a name without a slash.');
  if (!(await isFolder(wished))) throw new ArchiveError('not-found', `“${wished}” is no folder.`);
  const root = checkGround(house, wished);
  for (const place of await allPlaces(db)) {
    if (place.name.toLowerCase() === label.toLowerCase())
      throw new ArchiveError('conflict', `There is a place “${place.name}” already.`);
    if (isInside(place.root, root) || isInside(root, place.root))
      throw new ArchiveError(
        'conflict',
        `“${root}” overlaps the place “${place.name}” (${place.root}).`,
      );
  }
  const id = newId();
  await db.transaction().execute(async (transaction) => {
    await transaction.insertInto('place').values({ id, name: label, root }).execute();
    await transaction
      .insertInto('folder')
      .values({ id: newId(), placeId: id, parentId: null, path: '', name: '' })
      .execute();
  });
  return { id, name: label, root, handsOff: false, beside: false, shared: false };
}

/**
 * The place a folder is kept in place in: the one it lies in, else a new one of its own.
 * @throws ArchiveError conflict, value-refused, not-allowed for those who make no places
 */
export async function placeForSource(
  house: House,
  actor: Pick<Actor, 'role'>,
  root: string,
  name: string,
): Promise<Place> {
  const around = (await allPlaces(house.db)).find((place) => isInside(root, place.root));
  if (around) return around;
  if (!can(actor.role, 'manage'))
    throw new ArchiveError(
      'not-allowed',
      'This folder would become a place of its own, which a keeper decides. Copy from it instead, or ask a keeper.',
    );
  return addPlace(house, name || splitPath(root).name, root);
}

/**
 * Whether a place may be looked after where it lies: its ground may have been closed, or made to lead elsewhere,
 * since it became one.
 * @throws ArchiveError outside-place
 */
export function checkPlace(house: House, place: Pick<Place, 'name' | 'root'>): void {
  let real: string;
  try {
    real = checkGround(house, place.root);
  } catch (error) {
    // One that is away is no danger; whoever needs it finds out.
    if (error instanceof ArchiveError && error.code === 'not-found') return;
    throw error;
  }
  if (real !== place.root)
    throw new ArchiveError(
      'outside-place',
      `“${place.name}” is reached by a link now; point it to where its folder really lies.`,
    );
}

/** Places noted by a path with links, from before paths were resolved: noted by where they really lie. */
export async function settleRoots(house: House): Promise<void> {
  for (const { id, root } of await allPlaces(house.db)) {
    if (!isOpenGround(house, root)) continue;
    const real = checkGround(house, root);
    if (real !== root)
      await house.db.updateTable('place').set({ root: real }).where('id', '=', id).execute();
  }
}
