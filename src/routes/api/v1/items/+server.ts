import { itemsQuery } from '#core/api/shapes';
import { ArchiveError } from '#core/errors';
import { fieldOf } from '#core/fields/registry';
import { parseQuery } from '#core/query/grammar';
import { total } from '#server/catalogue/reading';
import { rowsFound } from '#server/catalogue/rows';
import { actorOf, endpoint } from '#server/edge/edge';

/** Pages go by catalogue number: the cursor is the last one told. */
function cursorOf(text: string | undefined): number {
  if (text === undefined) return 0;
  const number = Number(Buffer.from(text, 'base64url').toString());
  if (!Number.isSafeInteger(number) || number < 0)
    throw new ArchiveError('bad-request', 'This is no cursor of ours.');
  return number;
}

export const GET = endpoint({ query: itemsQuery }, async (event, wish) => {
  const { house } = event.locals;
  const viewer = actorOf(event);
  const keys = wish.fields
    .split(',')
    .map((key) => key.trim())
    .filter(Boolean);
  for (const key of keys)
    if (!fieldOf(key) || fieldOf(key)!.type === 'words')
      throw new ArchiveError('bad-request', `There is no field “${key}”.`);
  const query = parseQuery(wish.q);
  const [rows, count] = await Promise.all([
    rowsFound(house.db, viewer, query, keys, {
      limit: wish.limit + 1,
      after: cursorOf(wish.cursor),
    }),
    total(house, viewer, query),
  ]);
  const page = rows.slice(0, wish.limit);
  const last = page.at(-1);
  return {
    total: count,
    items: page.map(({ id, values }) => ({ id, values })),
    next:
      rows.length > wish.limit && last
        ? Buffer.from(String(last.numberKey)).toString('base64url')
        : null,
  };
});
