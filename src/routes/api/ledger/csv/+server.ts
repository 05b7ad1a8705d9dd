import { csvResponse } from '#server/edge/csv';
import { checked, endpoint } from '#server/edge/edge';
import { ledgerCsv, ledgerWishSchema } from '#server/ledger/export';

/** The ledger as a table, every step with what was before and after. */
export const GET = endpoint(({ locals, url }) => {
  const wish = checked(ledgerWishSchema, Object.fromEntries(url.searchParams));
  return Promise.resolve(csvResponse(ledgerCsv(locals.house.db, wish), 'ledger.csv'));
});
