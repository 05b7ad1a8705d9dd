import { z } from 'zod';
import { ledger } from '#server/ledger/ledger';
import { checked, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:ledger');
    const at = checked(
      z.coerce.number().int().min(0).max(100_000),
      url.searchParams.get('page') ?? 0,
    );
    return { lines: await ledger(locals.house.db, at), at };
  });
