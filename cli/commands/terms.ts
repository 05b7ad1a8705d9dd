import { readFileSync, writeFileSync } from 'node:fs';
import { ArchiveError } from '#core/errors';
import { EXCHANGE_FORMS, type ExchangeForm } from '#core/terms/exchange';
import { exportedThesaurus, importThesaurus } from '#server/lists/thesaurus';
import { answer, parse, type Command } from '../arguments';
import { openArchive, withWorker } from '../archive';
import { waitForJobs } from '../waiting';

const help = `Usage: ./mindful terms --out FILE | --in FILE [--replace] [--yes] [--json]

The thesaurus in files: SKOS as Turtle (.ttl) or JSON-LD (.jsonld), CSV (.csv), indented text (.txt); see
docs/thesaurus.md. Without --yes it tells what a file would change and changes nothing.

  --out FILE   write the whole thesaurus
  --in FILE    take terms in: what is new is added
  --replace    make the terms it names as the file says
  --yes        do it, and wait until the files of items are written`;

/** @throws ArchiveError bad-request where the ending says no form */
function formOf(path: string): ExchangeForm {
  const ending = path.split('.').at(-1)!.toLowerCase();
  if (ending in EXCHANGE_FORMS) return ending as ExchangeForm;
  throw new ArchiveError(
    'bad-request',
    `“.${ending}” says no form; there are ${Object.keys(EXCHANGE_FORMS).join(', ')}.`,
  );
}

async function run(args: string[]): Promise<number> {
  const { values } = parse(args, {
    out: { type: 'string' },
    in: { type: 'string' },
    replace: { type: 'boolean' },
    yes: { type: 'boolean' },
    json: { type: 'boolean' },
  });
  const { out, in: from } = values;
  if ((out === undefined) === (from === undefined))
    throw new ArchiveError('bad-request', 'Say one of --out FILE and --in FILE.');
  const form = formOf((out ?? from)!);
  const archive = await openArchive();
  const { house } = archive;
  try {
    if (out !== undefined) {
      writeFileSync(out, await exportedThesaurus(house.db, form));
      answer(values.json, { file: out }, () => `Written: ${out}`);
      return 0;
    }
    const wish = {
      form,
      text: readFileSync(from!, 'utf8'),
      mode: values.replace ? ('replace' as const) : ('add' as const),
      dry: !values.yes,
    };
    const { changes, given, operation } = await importThesaurus(house.db, null, wish);
    const made = changes.filter(({ before }) => !before).length;
    if (operation) await withWorker(house, () => waitForJobs(house, {}, 'Writing records'));
    answer(values.json, { given, made, changed: changes.length - made, operation }, () =>
      [
        ...changes.map(({ before, after }) => `${before ? 'changed' : 'new'}: ${after.label}`),
        `${made} new and ${changes.length - made} changed of ${given} terms${values.yes ? '.' : '; add --yes to do it.'}`,
      ].join('\n'),
    );
    return 0;
  } finally {
    await archive.close();
  }
}

export const command: Command = { summary: 'the thesaurus in files', help, run };
