import { endpoint } from '#server/edge/edge';
import { termsOffered } from '#server/terms/terms';

/** Terms that begin with or hold some letters, for completion. */
export const GET = endpoint(({ locals, url }) =>
  termsOffered(locals.house.db, url.searchParams.get('typed') ?? ''),
);
