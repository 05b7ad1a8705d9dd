import { z } from 'zod';
import { ledger, ledgerCount, ledgerPeople, LEDGER_PAGE } from '#server/ledger/ledger';
import { ledgerWishSchema } from '#server/ledger/export';
import { checked, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

const wishSchema = ledgerWishSchema.extend({
  page: z.coerce.number().int().min(0).max(100_000).default(0),
});

export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:ledger');
    const { db } = locals.house;
    const { page: at, ...wish } = checked(wishSchema, Object.fromEntries(url.searchParams));
    const [lines, total, people] = await Promise.all([
      ledger(db, at, LEDGER_PAGE, wish),
      ledgerCount(db, wish),
      ledgerPeople(db),
    ]);
    return {
      lines,
      total,
      people,
      at,
      wish,
      size: LEDGER_PAGE,
    };
  });
