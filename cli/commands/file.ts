import { ArchiveError } from '#core/errors';
import { listOfMoves } from '#core/naming/filing';
import { filingSchema } from '#core/naming/wish';
import { HOUSE } from '#core/sight/viewer';
import { parseQuery } from '#core/query/grammar';
import { counted, formatBytes } from '#core/text/quantities';
import { findIds } from '#server/catalogue/find';
import type { House } from '#server/house/house';
import { filingPreview, startFiling } from '#server/naming/filing';
import { placeByName } from '#server/places/places';
import { answer, parse, type Command } from '../arguments';
import { openArchive } from '../archive';
import { operationDone } from '../waiting';

const help = `Usage: ./mindful file 'QUERY' PLAN [--into PLACE/FOLDER] [--yes] [choices] [--wait] [--json]

Files what a query finds into folders, e.g. '{taken yyyy}/{taken MM}'. The pieces are in docs/name-patterns.md.
The whole result is shown; more than one item is moved only where --yes says so. The ledger can undo it.

  --into PLACE/FOLDER  where the folders begin; without it, at the top of the place each item lies in
  --missing RULE       where a piece is not known: fallback (unless said otherwise), known, leave
  --fallback NAME      the folder for what is not known (undated)
  --names PATTERN      new names along the way
  --clash RULE         refuse (unless said otherwise), number, letter, leave
  --copy               files stay, and verified copies are laid there
  --keep-empty         leave folders that this empties
  --yes                do it, not just show it
  --wait               wait until it is done`;

async function beginning(house: House, into: string | undefined) {
  if (into === undefined) return null;
  const [name = '', ...path] = into.split('/');
  const place = await placeByName(house.db, name);
  if (!place) throw new ArchiveError('not-found', `There is no place “${name}”.`);
  return { placeId: place.id, path: path.filter(Boolean).join('/') };
}

async function run(args: string[]): Promise<number> {
  const { values, positionals } = parse(args, {
    into: { type: 'string' },
    missing: { type: 'string' },
    fallback: { type: 'string' },
    names: { type: 'string' },
    clash: { type: 'string' },
    copy: { type: 'boolean' },
    'keep-empty': { type: 'boolean' },
    yes: { type: 'boolean' },
    wait: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const [queryText, pattern] = positionals;
  if (queryText === undefined || pattern === undefined)
    throw new ArchiveError('bad-request', "Say what and where: ./mindful file 'QUERY' PLAN");
  const archive = await openArchive();
  const { house } = archive;
  try {
    const choices = filingSchema.safeParse({
      pattern,
      missing: values.missing ?? 'fallback',
      clash: values.clash ?? 'refuse',
      fallback: values.fallback ?? 'undated',
      copies: values.copy === true,
      into: await beginning(house, values.into),
      ...(values.names ? { naming: { pattern: values.names, extension: 'keep' } } : {}),
      removeEmptied: values['keep-empty'] !== true,
    });
    if (!choices.success)
      throw new ArchiveError(
        'bad-request',
        choices.error.issues.map(({ path, message }) => `${path.join(' ')}: ${message}`).join('; '),
      );
    const itemIds = await findIds(house.db, HOUSE, parseQuery(queryText));
    const wish = { ...choices.data, itemIds, viewer: HOUSE };
    const shown = await filingPreview(house.db, wish);
    if (shown.changed > 1 && !values.yes) {
      const moves = listOfMoves(shown.moves);
      answer(values.json, { ...shown, moves }, () =>
        [
          ...shown.tree.map(
            ({ name, depth, isNew, below }) =>
              `${'  '.repeat(depth)}${name}${isNew ? ' (new)' : ''}${below > 0 ? `  + ${below}` : ''}`,
          ),
          ...moves.flatMap(({ to, after, problem }) =>
            problem ? [`${to}/${after}: ${problem}`] : [],
          ),
          ...shown.shared.map((name) => `Other programs look in ${name}.`),
          ...shown.emptied.map((path) => `${path} is left empty`),
          ...(values.copy
            ? [
                `The copies take ${formatBytes(shown.bytes)}; ${formatBytes(shown.free)} are free there.`,
              ]
            : []),
          `${counted(shown.changed, 'item')} would ${values.copy ? 'be copied' : 'go'}, ${shown.stays} lie there, ${shown.left} stay. Nothing was changed; --yes does it.`,
        ].join('\n'),
      );
      return shown.problems > 0 ? 2 : 0;
    }
    const { fingerprint } = shown;
    const operation = await startFiling(house.db, null, { ...wish, fingerprint });
    if (values.wait) await operationDone(house, operation, values.copy ? 'Copying' : 'Filing');
    answer(
      values.json,
      { operation, items: shown.changed },
      () => `Operation ${operation}: ${counted(shown.changed, 'item')}.`,
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'file what a query finds into folders', help, run };
