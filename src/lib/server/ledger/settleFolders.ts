import { sql } from 'kysely';
import { sentenceOf } from '#core/errors';
import { Disks } from '../files/disks';
import type { House } from '../house/house';
import { notify } from '../live/notify';
import { dropEmptyFolder } from '../places/emptyFolders';
import { ensureFolders, type FolderOfPlace } from '../places/folderRows';
import { presentPlace, type Places } from './ground';

interface Outcome {
  position: number;
  state: 'done' | 'failed';
  reason: string | null;
}

/** A folder on its disk: made, or removed where nothing is left; one that is not empty stays. Safe to repeat. */
async function settleOne(
  { db }: House,
  { placeId, path }: FolderOfPlace,
  { places, disks, isMade }: { places: Places; disks: Disks; isMade: boolean },
): Promise<void> {
  const { root } = presentPlace(places, placeId);
  await disks.of({ root, folder: isMade ? path : '' }, isMade);
  if (!isMade) await dropEmptyFolder(db, { id: placeId, root }, path);
}

/** Folders that an operation makes, and those it removes; those that stay as they were say why. */
export async function settleFolders(
  house: House,
  operationId: string,
  places: Places,
): Promise<void> {
  const { db } = house;
  const steps = await db
    .selectFrom('operationStep')
    .select(['position', 'before', 'after'])
    .where('operationId', '=', operationId)
    .where('action', '=', 'folder')
    .where('state', 'in', ['planned', 'doing'])
    .orderBy('position')
    .execute();
  if (steps.length === 0) return;
  const disks = new Disks(places.values());
  const made: FolderOfPlace[] = [];
  const outcomes: Outcome[] = [];
  for (const { position, before, after } of steps) {
    const isMade = 'path' in after;
    const told = (isMade ? after : before) as unknown as FolderOfPlace;
    try {
      await settleOne(house, told, { places, disks, isMade });
      if (isMade) made.push(told);
      outcomes.push({ position, state: 'done', reason: null });
    } catch (error) {
      outcomes.push({ position, state: 'failed', reason: sentenceOf(error) });
    }
  }
  await db.transaction().execute(async (transaction) => {
    await ensureFolders(transaction, made);
    await sql`update operation_step s set state = told.state, reason = told.reason
      from unnest(${outcomes.map(({ position }) => position)}::int[], ${outcomes.map(({ state }) => state)}::text[],
        ${outcomes.map(({ reason }) => reason)}::text[]) as told(position, state, reason)
      where s.operation_id = ${operationId}::uuid and s.position = told.position`.execute(
      transaction,
    );
  });
  await notify(db, { about: 'places' });
}
