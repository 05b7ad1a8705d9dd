import { sql } from 'kysely';
import { likeText } from '#core/text/like';
import { endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

/** Terms that begin with or hold some letters, for completion. */
export const GET: RequestHandler = endpoint(async ({ locals, url }) => {
  const typed = (url.searchParams.get('typed') ?? '').toLowerCase();
  const rows = await locals.house.db
    .selectFrom('term as t')
    .leftJoin('term as b', 'b.id', 't.broaderId')
    .select(['t.label', 'b.label as broader'])
    .where(sql`lower(t.label)`, 'like', `%${likeText(typed)}%`)
    .orderBy(sql`position(${typed} in lower(t.label))`)
    .orderBy('t.label')
    .limit(12)
    .execute();
  return rows;
});
