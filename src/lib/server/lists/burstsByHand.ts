import { sql, type Kysely } from 'kysely';
import { byHand, type BurstAct, type HandFrame } from '#core/bursts/byHand';
import type { Viewer } from '#core/sight/viewer';
import { counted } from '#core/text/quantities';
import type { Database } from '../db/schema';
import { newId } from '../house/ids';
import { seenBy, type SeenIds } from '../sight/seen';
import { changeLists, type EntryChange } from './journal';
import { burstsOf } from './stores/bursts';

type Db = Kysely<Database>;

/** Frames that are taken in hand and those in one burst with them, as far as somebody sees them, in the order they were taken. */
async function framesWith(db: Db, viewer: Viewer, ids: SeenIds): Promise<HandFrame[]> {
  const rows = await db
    .selectFrom('item as i')
    .select(['i.id', 'i.burst', 'i.burstLead as lead', 'i.burstReason as reason'])
    .select('i.burstByHand as byHand')
    .where(
      sql<boolean>`(i.id = any(${[...ids]}::uuid[]) or i.burst = any(${await burstsOf(db, ids)}::uuid[]))`,
    )
    .where(seenBy(viewer, 'list', 'i'))
    .orderBy('i.takenFrom')
    .orderBy('i.numberKey')
    .execute();
  return rows.map(({ id, ...entry }) => ({ id, entry }));
}

const SUMMARIES: Record<BurstAct, (count: number) => string> = {
  fold: (count) => `Put ${counted(count, 'frame')} together as a burst`,
  unfold: (count) => `Took ${counted(count, 'frame')} of bursts apart`,
  first: () => 'Let another frame stand for its burst',
};

/** Fold frames by hand, take bursts apart, or let another frame stand for its burst. @returns how many frames stand otherwise now */
export async function burstByHand(
  db: Db,
  by: { id: string | null; viewer: Viewer },
  ids: SeenIds,
  act: BurstAct,
): Promise<number> {
  let changed = 0;
  await changeLists(db, by.id, async (transaction) => {
    const frames = await framesWith(transaction, by.viewer, ids);
    const now = byHand(frames, ids, act, newId());
    const entries = frames.flatMap(({ id, entry: before }): EntryChange[] => {
      const after = now.get(id);
      return after ? [{ list: 'burst', id, before, after }] : [];
    });
    changed = entries.length;
    return { summary: SUMMARIES[act](entries.length), entries };
  });
  return changed;
}
