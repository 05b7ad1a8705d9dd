import { z } from 'zod';
import { parseQuery } from '#core/query/grammar';
import { querySchema, type ClauseField } from '#core/query/tree';
import { choicesOf } from '#server/catalogue/choices';
import { checked, endpoint } from '#server/edge/edge';
import type { RequestHandler } from './$types';

const fieldSchema = z.enum(querySchema.omit({ order: true }).keyof().options);

export const GET: RequestHandler = endpoint(({ locals, url }) => {
  const field = checked(fieldSchema, url.searchParams.get('field')) as ClauseField;
  const typed = checked(z.string().max(200), url.searchParams.get('typed') ?? '');
  return choicesOf(locals.house.db, parseQuery(url.searchParams.get('q') ?? ''), field, typed);
});
