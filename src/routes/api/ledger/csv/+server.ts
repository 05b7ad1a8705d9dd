import { csvResponse } from '#server/edge/csv';
import { endpoint } from '#server/edge/edge';
import { ledgerCsv, ledgerWishSchema } from '#server/ledger/export';

/** The ledger as a table, every step with what was before and after. */
export const GET = endpoint({ query: ledgerWishSchema }, ({ locals }, wish) =>
  Promise.resolve(csvResponse(ledgerCsv(locals.house.db, wish), 'ledger.csv')),
);
