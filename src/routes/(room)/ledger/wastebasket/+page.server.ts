import { z } from 'zod';
import { checked, page } from '#server/edge/edge';
import { WASTE_PAGE, wasted } from '#server/wastebasket/wastebasket';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:wastebasket');
    const at = checked(
      z.coerce.number().int().min(0).max(100_000).default(0),
      url.searchParams.get('page') ?? undefined,
    );
    return { ...(await wasted(locals.house.db, at)), at, size: WASTE_PAGE };
  });
