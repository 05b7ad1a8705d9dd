import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { counted, formatBytes } from '#core/text/quantities';
import { findIds } from '#server/catalogue/find';
import { emptyWastebasket, letGo, lettingGo, wasted } from '#server/wastebasket/wastebasket';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful discard ['QUERY'] [--yes] [--empty] [--json]

Puts every item a query finds into the wastebasket of its place, and waits until it is done. Without --yes it says
what would go and changes nothing. Without a query it tells what lies in the wastebasket; \`undo\` gives it back.

  --yes     do it
  --empty   remove for good what lies in the wastebasket; with --yes only
  --json    print the result as JSON`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    yes: { type: 'boolean' },
    empty: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText] = positionals;
  if (queryText !== undefined && values.empty)
    throw new ArchiveError('bad-request', 'Empty the wastebasket, or let items go: one at a time.');
  const archive = await openArchive();
  const { house } = archive;
  try {
    if (queryText === undefined) {
      const { total, bytes } = await wasted(house.db);
      if (!values.empty || !values.yes) {
        answer(values.json, { steps: total, bytes }, () =>
          total === 0
            ? 'The wastebasket is empty.'
            : `${counted(total, 'step')} put ${formatBytes(bytes)} there.${values.empty ? ' Add --yes to remove it for good.' : ''}`,
        );
        return 0;
      }
      const gone = await emptyWastebasket(house, null, null);
      answer(values.json, gone, () =>
        [
          `${counted(gone.files, 'file')} removed for good, ${formatBytes(gone.bytes)} free.`,
          ...(gone.kept > 0 ? [`${counted(gone.kept, 'file')} could not be removed.`] : []),
        ].join('\n'),
      );
      return gone.kept > 0 ? 2 : 0;
    }
    const ids = await findIds(house.db, HOUSE, parseQuery(queryText));
    const seen = await lettingGo(house.db, ids);
    const told = `${counted(seen.items, 'item')}, ${counted(seen.files, 'file')}, ${formatBytes(seen.bytes)}; of ${seen.onlyCopies} no other copy is held; ${seen.handsOff} hands off and ${seen.notHere} not here stay.`;
    if (!values.yes || seen.items === 0) {
      answer(
        values.json,
        seen,
        () => `Would let go of ${told}${seen.items > 0 ? ' Add --yes to do it.' : ''}`,
      );
      return 0;
    }
    const operation = await letGo(house.db, null, ids, seen.fingerprint);
    const job = await house.db
      .selectFrom('job')
      .select('id')
      .where('operationId', '=', operation)
      .executeTakeFirstOrThrow();
    await withWorker(house, () => waitForJobs(house, { jobs: [job.id] }, 'Letting go'));
    answer(values.json, { operation, ...seen }, () => `Operation ${operation}: let go of ${told}`);
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = {
  summary: 'let items go into the wastebasket, and empty it',
  help,
  run,
};
