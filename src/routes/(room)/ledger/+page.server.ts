import { z } from 'zod';
import { ledger, ledgerCount, ledgerPeople, LEDGER_PAGE } from '#server/ledger/ledger';
import { LEDGER_KINDS } from '#core/ledger/kinds';
import { checked, page } from '#server/edge/edge';
import type { PageServerLoad } from './$types';

const wishSchema = z.object({
  page: z.coerce.number().int().min(0).max(100_000).default(0),
  who: z.union([z.uuid(), z.literal('none')]).optional(),
  kind: z.enum(LEDGER_KINDS).optional(),
  from: z.iso.date().optional(),
  to: z.iso.date().optional(),
  about: z.string().trim().max(200).optional(),
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
      ...{ lines, total, people, at, wish, size: LEDGER_PAGE },
    };
  });
