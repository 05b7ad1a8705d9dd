import { ArchiveError } from '#core/errors';
import { HOUSE } from '#core/people/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { renamePreview, startRename } from '#server/naming/rename';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful rename 'QUERY' PATTERN [--apart] [--preview] [--wait] [--json]

Renames every item a query finds, in its order, e.g. '{taken yyyyMMdd}-{counter 0001 by day}'.
The pieces are in docs/name-patterns.md. The ledger can undo it.

  --apart     settle collisions with -2, -3 …
  --preview   show every old and new name and change nothing
  --wait      wait until it is done`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    apart: { type: 'boolean' },
    preview: { type: 'boolean' },
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText, pattern] = positionals;
  if (queryText === undefined || !pattern)
    throw new ArchiveError('bad-request', "Say what and how: ./mindful rename 'QUERY' PATTERN");
  const archive = await openArchive();
  const { house } = archive;
  try {
    const itemIds = await findIds(house.db, HOUSE, parseQuery(queryText));
    const wish = { itemIds, pattern, tellApart: values.apart === true };
    if (values.preview) {
      const preview = await renamePreview(house.db, wish);
      answer(values.json, preview, () =>
        preview.lines
          .map(
            (line) => `${line.before} → ${line.after}${line.problem ? `  (${line.problem})` : ''}`,
          )
          .join('\n'),
      );
      return preview.problems > 0 ? 2 : 0;
    }
    const operation = await startRename(house.db, null, wish);
    const job = await house.db
      .selectFrom('job')
      .select('id')
      .where('operationId', '=', operation)
      .executeTakeFirstOrThrow();
    if (values.wait)
      await withWorker(house, () => waitForJobs(house, { jobs: [job.id] }, 'Renaming'));
    answer(
      values.json,
      { operation, items: itemIds.length },
      () => `Operation ${operation}: ${itemIds.length} items.`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'rename what a query finds', help, run };
