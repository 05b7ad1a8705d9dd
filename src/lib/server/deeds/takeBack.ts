import type { ChangeAnswer } from '#core/deeds/answer';
import type { DeedName } from '#core/deeds/kinds';
import type { House } from '../house/house';
import { perform } from './large';
import { isOnDisk, undo } from './undo';

/** What is to be known of an operation to take it back. */
export interface Taken {
  id: string;
  kind: DeedName;
  summary: string;
  /** Its steps. */
  total: number;
}

/**
 * Take an operation back: at once, or where it is large by a job.
 * @param patience ms to wait for such a job
 * @throws ArchiveError not-found; conflict, with what stands in the way
 */
export async function takeBack(
  house: House,
  actorId: string | null,
  { id, kind, summary, total }: Taken,
  { partly = false, patience }: { partly?: boolean; patience?: number } = {},
): Promise<ChangeAnswer> {
  if (isOnDisk(kind))
    return {
      operation: await undo(house.db, actorId, id, partly),
      changed: total,
      underway: false,
    };
  const wish = { operation: id, partly };
  const about = { size: total, title: `Undoing: ${summary}` };
  return perform(house, actorId, 'undo', wish, { ...about, ...(patience ? { patience } : {}) });
}
