import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { FIELDS } from '#core/records/fields';
import { formatCount } from '#core/text/quantities';
import { findIds } from '#server/catalogue/find';
import { stampItems, stampNamed, stampPreview } from '#server/lists/stamps';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful stamp 'QUERY' NAME [--yes] [--json]

Puts a kept stamp onto the items a query finds; PROJECT/NAME where several are called so. Without --yes it shows
what would change and changes nothing. The ledger can undo it.

  --yes    do it, and wait until the files are written
  --json   print the result as JSON`;

/** Values that are printed; the rest is counted. */
const MOST_PRINTED = 200;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText, name] = positionals;
  if (queryText === undefined || name === undefined)
    throw new ArchiveError('bad-request', "Say onto what and which: ./mindful stamp 'QUERY' NAME");
  const archive = await openArchive();
  const { house } = archive;
  try {
    const { lines } = await stampNamed(house.db, name);
    const ids = await findIds(house.db, HOUSE, parseQuery(queryText));
    const seen = await stampPreview(house.db, ids, lines);
    if (!values.yes) {
      answer(values.json, seen, () =>
        [
          ...seen.lines
            .slice(0, MOST_PRINTED)
            .map(
              ({ number, field, before, after }) =>
                `${number} ${FIELDS[field].label}: ${before || '—'} → ${after || '—'}`,
            ),
          ...(seen.values > MOST_PRINTED
            ? [`… and ${formatCount(seen.values - MOST_PRINTED)} values more`]
            : []),
          `${seen.changed} of ${seen.items} items would change. Add --yes to do it.`,
        ].join('\n'),
      );
      return 0;
    }
    const done = await stampItems(house.db, null, ids, lines, seen.fingerprint);
    if (done) await withWorker(house, () => waitForJobs(house, { items: ids }, 'Writing records'));
    answer(
      values.json,
      { operation: done?.operationId ?? null, changed: done?.changed ?? 0, found: ids.length },
      () => `${done?.changed ?? 0} of ${ids.length} items stamped.`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'put a stamp onto items', help, run };
