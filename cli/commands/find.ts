import { ArchiveError } from '#core/errors';
import { parseQuery } from '#core/query/grammar';
import { countOf, findTiles } from '#server/catalogue/find';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';

const MOST = 1_000_000;

const help = `Usage: ./mindful find 'QUERY' [--limit N] [--json]

Lists the items a query finds, e.g. 'kind photo; in "Wind Week"; rated 3..; order name'.
The grammar is in docs/query.md.`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    limit: { type: 'string', default: String(MOST) },
    json: { type: 'boolean' },
  });
  const limit = Number(values.limit);
  if (!Number.isInteger(limit) || limit < 1)
    throw new ArchiveError('bad-request', '--limit takes a whole number from 1.');
  const query = parseQuery(positionals.join(' '));
  const archive = await openArchive();
  try {
    const items = await findTiles(archive.house.db, query, 0, limit);
    const total = items.length < limit ? items.length : await countOf(archive.house.db, query);
    answer(values.json, { total, items }, () =>
      [
        ...items.map(
          (item) => `${item.number}  ${item.name}${item.title ? `  ${item.title}` : ''}`,
        ),
        items.length < total ? `${items.length} of ${total} items` : `${total} items`,
      ].join('\n'),
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'list what a query finds', help, run };
