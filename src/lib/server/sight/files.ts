import type { Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import type { Purpose } from '#core/access/access';
import type { Viewer } from '#core/sight/viewer';
import type { Database } from '../db/schema';
import { originalOf, type LocatedFile } from '../files/located';
import { seenId, seenIds } from './seen';

/**
 * The file an item stands on, for somebody who wants to see, play or take it: of a span its clip's.
 * @throws ArchiveError not-found where it may not be seen at all, not-allowed where not for this
 */
export async function fileFor(
  db: Kysely<Database>,
  viewer: Viewer,
  itemId: string,
  purpose: Exclude<Purpose, 'list'>,
): Promise<LocatedFile> {
  await seenId(db, viewer, itemId);
  if ((await seenIds(db, viewer, [itemId], purpose)).length === 0)
    throw new ArchiveError('not-allowed', REFUSED[purpose], { itemId });
  return originalOf(db, itemId);
}

const REFUSED = {
  show: 'Its picture is not shown to you; a keeper can change that.',
  play: 'You may see that it is here, but not look at it closely; a keeper can change that.',
  take: 'You may look at it, but not take its file; a keeper can change that.',
} as const;
