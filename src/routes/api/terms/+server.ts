import { z } from 'zod';
import { endpoint } from '#server/edge/edge';
import { termsOffered } from '#server/terms/terms';

/** Terms that begin with or hold some letters, for completion. */
export const GET = endpoint(
  { query: z.object({ typed: z.string().max(200).default('') }) },
  ({ locals }, { typed }) => termsOffered(locals.house.db, typed),
);
