import { ArchiveError } from '#core/errors';
import { namingSchema } from '#core/naming/wish';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { findIds } from '#server/catalogue/find';
import { renamePreview, startRename } from '#server/naming/rename';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';
import { operationDone } from '../waiting';

const help = `Usage: ./mindful rename 'QUERY' PATTERN [--yes] [choices] [--wait] [--json]

Renames what a query finds, in its order, e.g. '{taken yyyyMMdd}-{counter 0001 by day}'. The pieces are in
docs/name-patterns.md. More than one item is shown only, until --yes says so. The ledger can undo it.

  --yes             do it, not just show it
  --preview         show it only, even one
  --clash RULE      refuse (unless said otherwise), number (-2, -3 …), letter (a, b …), leave
  --apart           the same as --clash number
  --extension WAY   keep (unless said otherwise), lower, pattern
  --order BY        given (unless said otherwise), name, original, taken, brought; --down turns it round
  --wait            wait until it is done`;

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    yes: { type: 'boolean' },
    apart: { type: 'boolean' },
    preview: { type: 'boolean' },
    clash: { type: 'string' },
    extension: { type: 'string' },
    order: { type: 'string' },
    down: { type: 'boolean' },
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText, pattern] = positionals;
  if (queryText === undefined || !pattern)
    throw new ArchiveError('bad-request', "Say what and how: ./mindful rename 'QUERY' PATTERN");
  const choices = namingSchema.safeParse({
    pattern,
    clash: values.clash ?? (values.apart ? 'number' : 'refuse'),
    extension: values.extension ?? 'keep',
    order: { by: values.order ?? 'given', down: values.down === true, moved: [] },
  });
  if (!choices.success)
    throw new ArchiveError(
      'bad-request',
      choices.error.issues.map(({ path, message }) => `${path.join(' ')}: ${message}`).join('; '),
    );
  const archive = await openArchive();
  const { house } = archive;
  try {
    const itemIds = await findIds(house.db, HOUSE, parseQuery(queryText));
    const wish = { ...choices.data, itemIds, viewer: HOUSE };
    if (values.preview || (itemIds.length > 1 && !values.yes)) {
      const preview = await renamePreview(house.db, wish);
      answer(values.json, preview, () =>
        [
          ...preview.lines.map(
            (line) => `${line.before} → ${line.after}${line.problem ? `  (${line.problem})` : ''}`,
          ),
          ...(values.preview ? [] : ['Nothing was changed; --yes does it.']),
        ].join('\n'),
      );
      return preview.problems > 0 ? 2 : 0;
    }
    const operation = await startRename(house.db, null, wish);
    if (values.wait) await operationDone(house, operation, 'Renaming');
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
